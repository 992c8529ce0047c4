import type { PictureFacts } from '../media/index.ts'
import type { ColourTags } from '../proof/index.ts'
import { exactRate } from '../time/index.ts'
import { codecTraits } from './codec.ts'
import { type EncodeInput, inputArguments } from './encode-input.ts'
import { pcmBytes } from './estimate.ts'
import { type FilterFiles, hashedPictureGraph } from './picture-filters.ts'
import type { EncodePlan } from './plan.ts'
import { trackFilter, wholeStream } from './tracks.ts'

export interface EncodePaths extends FilterFiles {
  /** The original, or the list of its parts; read through the file protocol alone. */
  readonly input: EncodeInput
  /** One path for each planned file, in order; the caller makes sure that none exists. */
  readonly outputs: readonly string[]
  /** Where the hashes of all pictures go. */
  readonly hashes: string
}

const muxers = { mov: 'mov', mp4: 'mp4', 'mxf-op1a': 'mxf', 'mxf-op-atom': 'mxf_opatom', mkv: 'matroska', webm: 'webm' } as const

/** The argument list for the encoder, to be started without a shell. */
export function encodeArguments(plan: EncodePlan, paths: EncodePaths): string[] {
  const picture = plan.facts.picture as PictureFacts
  const { codec, container } = plan.recipe
  const rate = exactRate(picture.rate)
  const identity = identityArguments(plan)
  const muxer = muxers[container]
  const args = ['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n']
  args.push(...inputArguments(paths.input, picture.rate))
  const isAtom = container === 'mxf-op-atom'
  const { graph, maps } = soundGraph(plan, isAtom)
  args.push('-filter_complex', [hashedPictureGraph(plan, paths), ...graph].join(';'))
  const timing = ['-fps_mode', 'cfr', '-r', rate]
  const pictureOptions = [...timing, ...codecTraits[codec].words(picture.rate), ...colourArguments(plan)]
  const hashOutput = ['-map', '[h]', ...timing, '-c:v', 'rawvideo', '-f', 'rawvideo', `file:${paths.hashes}`]
  if (!isAtom) {
    const sounds = maps.flatMap((map) => ['-map', map])
    args.push('-map', '[v]', ...sounds, '-map_metadata', '-1', '-map_chapters', '-1', ...pictureOptions)
    plan.tracks.forEach((track, index) => {
      args.push(`-c:a:${index}`, soundCodec(plan, track.bitDepth))
    })
    // MXF knows one rate of samples here.
    if (container === 'mxf-op1a') args.push('-ar', '48000')
    args.push(...identity, ...movFlags(plan), '-f', muxer, `file:${paths.outputs[0]}`, ...hashOutput)
    return args
  }
  args.push('-map', '[v]', '-map_metadata', '-1', ...pictureOptions, ...identity, '-f', muxer, `file:${paths.outputs[0]}`)
  const depths = plan.tracks.flatMap((track) => track.of.map(() => track.bitDepth))
  maps.forEach((map, index) => {
    args.push('-map', map, '-map_metadata', '-1', '-c:a', soundCodec(plan, depths[index] ?? null), '-ar', '48000')
    args.push('-mxf_audio_edit_rate', rate, ...identity, '-f', muxer, `file:${paths.outputs[index + 1]}`)
  })
  return [...args, ...hashOutput]
}

/** What to map for every sound stream that is written, and the filters that put together those that are not there so. */
function soundGraph(plan: EncodePlan, isAtom: boolean): { graph: string[]; maps: string[] } {
  const { sound } = plan.facts
  const pieces = isAtom
    ? plan.tracks.flatMap((track) => track.of.map((channel) => ({ of: [channel], whole: null })))
    : plan.tracks.map((track) => ({ of: track.of, whole: wholeStream(track, sound) }))
  return {
    graph: pieces.flatMap(({ of, whole }, index) => (whole === null ? [trackFilter(of, sound, `a${index}`)] : [])),
    maps: pieces.map(({ whole }, index) => (whole === null ? `[a${index}]` : `0:a:${whole}`)),
  }
}

function soundCodec({ recipe }: EncodePlan, bitDepth: number | null): string {
  if (recipe.sound === 'compressed') return recipe.container === 'webm' ? 'libopus' : 'aac'
  return pcmBytes(recipe, bitDepth) === 3 ? 'pcm_s24le' : 'pcm_s16le'
}

/** Every key of the file's own is kept; what is looked at over a network can start before it is whole. */
function movFlags({ recipe }: EncodePlan): string[] {
  if (recipe.container === 'mov') return ['-movflags', '+use_metadata_tags']
  return recipe.container === 'mp4' ? ['-movflags', '+use_metadata_tags+faststart'] : []
}

/** The colour tags that a made picture has: its original's, or after a viewing LUT those of HD (ITU-R BT.709). */
export const madeColour = (plan: EncodePlan): ColourTags =>
  plan.viewingLut === null ? carriedColour(plan) : { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' }

/** ProRes knows one of two names for the same coefficients (ITU-T H.273, table 4, values 5 and 6). */
function carriedColour({ recipe, facts }: EncodePlan): ColourTags {
  const { colour } = facts.picture as PictureFacts
  return recipe.codec.startsWith('prores') && colour.matrix === 'bt470bg' ? { ...colour, matrix: 'smpte170m' } : colour
}

function colourArguments(plan: EncodePlan): string[] {
  const colour = madeColour(plan)
  const args: string[] = []
  if (colour.primaries) args.push('-color_primaries', colour.primaries)
  if (colour.transfer) args.push('-color_trc', colour.transfer)
  if (colour.matrix) args.push('-colorspace', colour.matrix)
  return args
}

/** Both reel keys always: one container family keeps it with the stream, the other with the file. */
function identityArguments(plan: EncodePlan): string[] {
  const args: string[] = []
  if (plan.timecode !== null) args.push('-timecode', plan.timecode)
  if (plan.reel !== null) args.push('-metadata', `reel_name=${plan.reel}`, '-metadata:s:v:0', `reel_name=${plan.reel}`)
  // MXF keeps what people add only as comments.
  const prefix = muxers[plan.recipe.container].startsWith('mxf') ? 'comment_' : ''
  const labels = {
    production: plan.production,
    source: plan.name,
    scene: plan.scene,
    take: plan.take,
    recipe: `${plan.recipe.name}, version ${plan.recipe.version}`,
  }
  for (const [key, value] of Object.entries(labels)) if (value) args.push('-metadata', `${prefix}${key}=${value}`)
  return args
}
