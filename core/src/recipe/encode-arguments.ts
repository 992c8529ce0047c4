import type { MediaFacts, PictureFacts } from '../media/index.ts'
import { reserveCharacters, reserveComment } from '../mxf/index.ts'
import { exactRate } from '../time/index.ts'
import { codecTraits } from './codec.ts'
import { type EncodeInput, inputArguments, inputCount, soundPad } from './encode-input.ts'
import { pcmBytes } from './estimate.ts'
import { colourArguments, madeColour } from './made-colour.ts'
import { movieClock } from './movie-clock.ts'
import {
  canBorrow,
  type FilterFiles,
  fieldsOf,
  hashedPictureGraph,
  lutFilter,
  selectFrames,
} from './picture-filters.ts'
import { type EncodePlan, isAtomSet } from './plan.ts'
import { trackFilter, wholeStream } from './tracks.ts'

/** One item of an encode: its plan and where it goes. */
export interface EncodeItem {
  readonly plan: EncodePlan
  /** One path for each planned file, in order; the caller makes sure that none exists. */
  readonly outputs: readonly string[]
  /** Where the hashes of all pictures go. */
  readonly hashes: string
  readonly lut: FilterFiles['lut']
}

/** Pictures over the length of an original, side by side in one file. */
export interface EncodeStrip {
  readonly path: string
  /** Their frames, from 0 and in order. */
  readonly frames: readonly number[]
  readonly width: number
  readonly height: number
  /** What log pictures pass through. */
  readonly lut: FilterFiles['lut']
}

export interface EncodePaths {
  /** The original, or the list of its parts; read through the file protocol alone. */
  readonly input: EncodeInput
  readonly font: string
  /** A file with the laid sound of the items that have such. */
  readonly sound?: string | null
  readonly strip: EncodeStrip | null
}

const muxers = {
  mov: 'mov',
  mp4: 'mp4',
  'mxf-op1a': 'mxf',
  'mxf-op-atom': 'mxf_opatom',
  mkv: 'matroska',
  webm: 'webm',
} as const

/**
 * The argument list for the encoder, to be started without a shell. Several items of one original come from one decode
 * of it; all plans have the same facts.
 */
export function encodeArguments(items: readonly [EncodeItem, ...EncodeItem[]], paths: EncodePaths): string[] {
  const picture = items[0].plan.facts.picture as PictureFacts
  const pieces = items.map((item, index) => {
    const mark = items.length === 1 ? '' : `_${index + 1}`
    return { item, mark, sounds: soundGraph(item.plan, mark, paths.input), isDecoded: isDecoded(item) }
  })
  // A LUT is the dearest of the filters: what is smaller takes pictures that have passed it.
  const lenders = items.map((item, index) => lenderOf(items, item, index))
  const branches =
    pieces.filter(({ isDecoded }, index) => isDecoded && lenders[index] === null).length + (paths.strip ? 1 : 0)
  const begin = beginFilter(items[0].plan.facts)
  let taken = 0
  const nextInput = (): string => `i${++taken}`
  const ends = Array.from({ length: branches }, (_, index) => `[i${index + 1}]`).join('')
  const graph = [
    ...(branches > 0 ? [`[0:V:0]${begin}${branches > 1 ? `,split=${branches}` : ''}${ends}`] : []),
    ...pieces.flatMap(({ item, mark, sounds, isDecoded }, index) => {
      const isLooked = lenders[index] !== null
      const place = () => ({
        input: isLooked ? `b${mark}` : nextInput(),
        ...{
          mark,
          isLooked,
          lends: pieces.flatMap((other, borrower) => (lenders[borrower] === index ? [`b${other.mark}`] : [])),
        },
      })
      return [
        ...(isDecoded ? [hashedPictureGraph(item.plan, { lut: item.lut, font: paths.font }, place())] : []),
        ...sounds.graph,
      ]
    }),
    ...(paths.strip ? [stripGraph(paths.strip, nextInput())] : []),
  ]
  return [
    ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n', ...inputArguments(paths.input, picture.rate)],
    ...(paths.sound == null ? [] : inputArguments({ kind: 'file', path: paths.sound }, picture.rate)),
    ...(graph.length ? ['-filter_complex', graph.join(';')] : []),
    ...pieces.flatMap(({ item, mark: ending, sounds }) => itemArguments(item, ending, sounds.maps)),
    ...(paths.strip ? stripArguments(paths.strip) : []),
  ]
}

/**
 * When the pictures of an original are shown. AVI counts its packets and says nothing of it: where pictures lean on
 * each other, the first one comes out late by as many as the decoder keeps back, and so do all behind it. What an edit
 * list leaves out lies before the beginning; most decoders drop it, that of Motion JPEG does not. For how long each is
 * shown is let go of: later encoders take a last one that stands for longer than the others for a gap, and repeat it.
 */
const beginFilter = ({ container, picture }: MediaFacts): string =>
  container === 'avi' ? 'setpts=PTS-STARTPTS' : `${picture?.heldFrames === undefined ? '' : 'trim=start=0,'}setpts=PTS`

/** The item, by its place, whose pictures another one is made from after the LUT: the largest that will do. */
function lenderOf(items: readonly EncodeItem[], { plan }: EncodeItem, index: number): number | null {
  const area = (at: number): number => {
    const { width, height } = (items[at] as EncodeItem).plan.raster.content
    return width * height
  }
  const isLarger = (at: number): boolean => area(at) > area(index) || (area(at) === area(index) && at < index)
  const able = items.flatMap((item, at) => (isDecoded(item) && isLarger(at) && canBorrow(plan, item.plan) ? [at] : []))
  return able.sort((a, b) => area(b) - area(a) || a - b)[0] ?? null
}

const isDecoded = ({ plan }: EncodeItem): boolean => plan.method === 'encode'

/** The words for the files of one item, each output's own before its path. */
function itemArguments({ plan, outputs, hashes }: EncodeItem, mark: string, maps: readonly string[]): string[] {
  const { codec, container, quality } = plan.recipe
  const picture = plan.facts.picture as PictureFacts
  const rate = exactRate(picture.rate)
  const identity = identityArguments(plan)
  const muxer = muxers[container]
  const timing = ['-fps_mode', 'cfr', '-r', rate]
  const isEncoded = plan.method === 'encode'
  const pictureMap = isEncoded ? `[v${mark}]` : '0:V:0'
  // The tag of a codec belongs to its container: the new one has its own.
  const pictureOptions = isEncoded
    ? [
        ...[...timing, ...codecTraits[codec].words(picture.rate, quality), ...colourArguments(madeColour(plan))],
        ...(fieldsOf(plan) === 'kept' && codec !== 'ffv1' ? ['-flags', '+ildct'] : []),
      ]
    : ['-c:v', 'copy', '-tag:v', '0', '-r', rate]
  const hashOutput = isEncoded
    ? ['-map', `[h${mark}]`, ...timing, '-c:v', 'rawvideo', '-f', 'rawvideo', `file:${hashes}`]
    : []
  if (container !== 'mxf-op-atom') {
    const sounds = maps.flatMap((map) => ['-map', map])
    const args = ['-map', pictureMap, ...sounds, '-map_metadata', '-1', '-map_chapters', '-1', ...pictureOptions]
    plan.tracks.forEach((track, index) => {
      args.push(`-c:a:${index}`, soundCodec(plan, track.bitDepth))
    })
    if (container === 'mxf-op1a') args.push('-ar', String(mxfSampleRate))
    return [...args, ...identity, ...movFlags(plan), '-f', muxer, `file:${outputs[0]}`, ...hashOutput]
  }
  const args = [
    '-map',
    pictureMap,
    '-map_metadata',
    '-1',
    ...pictureOptions,
    ...identity,
    '-f',
    muxer,
    `file:${outputs[0]}`,
  ]
  const depths = plan.tracks.flatMap((track) => track.of.map(() => track.bitDepth))
  maps.forEach((map, index) => {
    args.push(
      '-map',
      map,
      '-map_metadata',
      '-1',
      '-c:a',
      soundCodec(plan, depths[index] ?? null),
      '-ar',
      String(mxfSampleRate),
    )
    args.push('-mxf_audio_edit_rate', rate, ...identity, '-f', muxer, `file:${outputs[index + 1]}`)
  })
  return [...args, ...hashOutput]
}

function stripGraph({ frames, width, height, lut }: EncodeStrip, input: string): string {
  const look = lut === null ? '' : `format=gbrp,${lutFilter(lut)},`
  return `[${input}]${selectFrames(frames)},scale=${width}:${height}:flags=bilinear,setsar=1,${look}format=yuvj420p,tile=${frames.length}x1[f]`
}

const stripArguments = ({ path }: EncodeStrip): string[] => [
  ...['-map', '[f]', '-fps_mode', 'passthrough', '-frames:v', '1', '-c:v', 'mjpeg', '-q:v', '4'],
  ...['-f', 'image2', '-update', '1', `file:${path}`],
]

/**
 * What to map for every sound stream that is written, and the filters that put together those that are not there so.
 */
function soundGraph(plan: EncodePlan, mark: string, input: EncodeInput): { graph: string[]; maps: string[] } {
  const { sound } = plan.facts
  const pieces =
    plan.recipe.container === 'mxf-op-atom'
      ? plan.tracks.flatMap((track) => track.of.map((channel) => ({ of: [channel], whole: null })))
      : plan.tracks.map((track) => ({ of: track.of, whole: wholeStream(track, sound) }))
  // What is laid comes behind all that the original is.
  const padOf = (stream: number): string =>
    plan.isSoundLaid ? `${inputCount(input)}:a:${stream}` : soundPad(input, stream)
  const filled = untilPictureEnds(plan)
  const isDirect = (whole: number | null): whole is number => whole !== null && filled === ''
  return {
    graph: pieces.flatMap(({ of, whole }, index) =>
      isDirect(whole) ? [] : [trackFilter(of, sound, `a${index}${mark}`, padOf, filled)],
    ),
    maps: pieces.map(({ whole }, index) => (isDirect(whole) ? padOf(whole) : `[a${index}${mark}]`)),
  }
}

/**
 * What fills sound with silence to the end of its picture. In one MXF file both are equally long (SMPTE ST 378): the
 * pictures behind the end of the shortest sound would not be written.
 */
function untilPictureEnds({ recipe, facts, tracks }: EncodePlan): string {
  if (recipe.container !== 'mxf-op1a' || tracks.length === 0) return ''
  const { frames, rate } = facts.picture as PictureFacts
  const needed = (sampleRate: number): number => Math.ceil((frames * sampleRate * rate.denominator) / rate.numerator)
  const isShort = facts.sound.some(({ samples, sampleRate }) => samples === null || samples < needed(sampleRate))
  return isShort ? `,aresample=${mxfSampleRate},apad=whole_len=${needed(mxfSampleRate)}` : ''
}

/** MXF knows one rate of samples here. */
const mxfSampleRate = 48_000

function soundCodec({ recipe }: EncodePlan, bitDepth: number | null): string {
  if (recipe.sound === 'compressed') return recipe.container === 'webm' ? 'libopus' : 'aac'
  return pcmBytes(recipe, bitDepth) === 3 ? 'pcm_s24le' : 'pcm_s16le'
}

/** Every key of the file's own is kept; what is looked at over a network can start before it is whole. */
function movFlags({ recipe: { container }, facts, tracks }: EncodePlan): string[] {
  const clock = movieClock(container, { picture: facts.picture, sound: tracks })
  if (container === 'mov') return ['-movflags', '+use_metadata_tags', ...clock]
  return container === 'mp4' ? ['-movflags', '+use_metadata_tags+faststart', ...clock] : []
}

/** Both reel keys always: one container family keeps it with the stream, the other with the file. */
function identityArguments(plan: EncodePlan): string[] {
  const args: string[] = []
  if (plan.timecode !== null) args.push('-timecode', plan.timecode)
  if (plan.reel !== null) args.push('-metadata', `reel_name=${plan.reel}`, '-metadata:s:v:0', `reel_name=${plan.reel}`)
  const isMxf = muxers[plan.recipe.container].startsWith('mxf')
  if (isMxf) args.push('-metadata', `material_package_name=${plan.base}`)
  // MXF keeps what people add only as comments.
  const prefix = isMxf ? 'comment_' : ''
  const labels = {
    production: plan.production,
    source: plan.sourceFile,
    source_folder: plan.sourcePlace?.folder,
    source_volume: plan.sourcePlace?.volume,
    scene: plan.scene,
    take: plan.take,
    recipe: `${plan.recipe.name}, version ${plan.recipe.version}`,
  }
  const said = Object.fromEntries(
    Object.entries(labels).filter((entry): entry is [string, string] => Boolean(entry[1])),
  )
  for (const [key, value] of Object.entries(said)) args.push('-metadata', `${prefix}${key}=${value}`)
  if (isAtomSet(plan)) {
    // Room in the header of each file for what it says of the others of its set.
    const room = reserveCharacters(plan.files.length, { ...said, name: plan.base, reel: plan.reel ?? '' })
    args.push('-metadata', `${prefix}${reserveComment}=${'.'.repeat(room)}`)
  }
  return args
}
