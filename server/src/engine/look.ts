import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import {
  lookBytes,
  lookHeight,
  lookWidth,
  type MediaFacts,
  readableFormats,
  type Stretch,
  sequenceFramePaths,
  stillFormat,
} from '@ennick/core'
import { type EngineFile, seekTo } from './input.ts'
import { run } from './process.ts'
import { withScratch } from './scratch.ts'

/** A file with pictures that can be looked at. */
export interface LookedAt extends EngineFile {
  readonly facts: MediaFacts
}

/** What a look gave: the pictures, and where the file cannot be decoded. */
export interface Look {
  readonly stretches: readonly Stretch[]
  /** First frames of the stretches that gave fewer pictures than lie there, or that the decoder complained of. */
  readonly broken: readonly number[]
}

/** What makes a picture small and grey. */
export const smallGrey = `scale=${lookWidth}:${lookHeight}:flags=area,format=gray`
/** Pictures are told in another order than they are shown: so many more are read than are wanted. */
const framesOfSlack = 24

/**
 * Decodes stretches of a file, its sound with them, and makes the pictures small. It gives way to all other work.
 * @param starts first frames, counted from 0, each once and in order
 * @param frames how many of each; fewer where the file ends
 */
export async function lookAt(
  file: LookedAt,
  starts: readonly number[],
  frames: number,
  signal: AbortSignal,
): Promise<Look> {
  const length = file.facts.picture?.frames ?? 0
  const wanted = starts.map((from) => ({ from, count: Math.min(frames, length - from) }))
  if (file.sequence || file.facts.kind === 'still') return lookAtStills(file, wanted, signal)
  const all = await decode(file, wanted, signal)
  if (all) return { stretches: all, broken: [] }
  // Something cannot be decoded: each place on its own says which.
  const stretches: Stretch[] = []
  const broken: number[] = []
  for (const place of wanted) {
    const one = await decode(file, [place], signal)
    if (one) stretches.push(...one)
    else broken.push(place.from)
  }
  return { stretches, broken }
}

interface Place {
  readonly from: number
  readonly count: number
}

/** @returns the stretches; null when the decoder complained, or gave another number of pictures */
async function decode(file: LookedAt, places: readonly Place[], signal: AbortSignal): Promise<Stretch[] | null> {
  const picture = file.facts.picture as NonNullable<MediaFacts['picture']>
  const { numerator, denominator } = picture.rate
  const inputs = places.flatMap(({ from, count }) => [
    ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, '-threads', '1'],
    ...seekTo(from, picture.rate),
    ...['-t', (((count + framesOfSlack) * denominator) / numerator).toFixed(6), '-i', `file:${file.fullPath}`],
  ])
  const parts = places.map(
    ({ count }, index) => `[${index}:V:0]trim=end_frame=${count},setpts=N,${smallGrey}[v${index}]`,
  )
  const joined = places.map((_, index) => `[v${index}]`).join('')
  const graph = `${parts.join(';')};${joined}concat=n=${places.length}[v]`
  const sound = file.facts.sound.length
    ? [...places.flatMap((_, index) => ['-map', `${index}:a`]), '-f', 'null', '-']
    : []
  return withScratch(async (folder) => {
    const target = join(folder, 'pictures')
    const result = await run(
      'ffmpeg',
      [
        ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n', ...inputs, '-filter_complex', graph],
        ...['-map', '[v]', '-fps_mode', 'passthrough', '-c:v', 'rawvideo', '-f', 'rawvideo', `file:${target}`],
        ...sound,
      ],
      { signal, isPolite: true, timeoutMilliseconds: 600_000 },
    )
    if (result.exitCode !== 0 || result.stderr.trim()) return null
    return cut(await readFile(target), places)
  })
}

/** Cuts what was decoded into the pictures of each place; null when it is another number. */
function cut(bytes: Uint8Array, places: readonly Place[]): Stretch[] | null {
  if (bytes.length !== places.reduce((sum, { count }) => sum + count, 0) * lookBytes) return null
  let before = 0
  return places.map(({ from, count }) => {
    const first = before
    before += count
    const picture = (index: number): Uint8Array =>
      bytes.subarray((first + index) * lookBytes, (first + index + 1) * lookBytes)
    return { from, pictures: Array.from({ length: count }, (_, index) => picture(index)) }
  })
}

/** Of numbered stills each stretch is read on its own: they are so many files. */
async function lookAtStills(file: LookedAt, places: readonly Place[], signal: AbortSignal): Promise<Look> {
  const paths = file.sequence ? [...sequenceFramePaths(file.sequence)] : null
  const stretches: Stretch[] = []
  const broken: number[] = []
  for (const place of places) {
    const pictures: Uint8Array[] = []
    for (let frame = place.from; frame < place.from + place.count; frame++) {
      const path = paths ? join(file.root, paths[frame] as string) : file.fullPath
      const picture = await decodeStill(path, signal)
      if (picture) pictures.push(picture)
    }
    if (pictures.length === place.count) stretches.push({ from: place.from, pictures })
    else broken.push(place.from)
  }
  return { stretches, broken }
}

async function decodeStill(path: string, signal: AbortSignal): Promise<Uint8Array | null> {
  return withScratch(async (folder) => {
    const target = join(folder, 'picture')
    const format = stillFormat(path)
    const result = await run(
      'ffmpeg',
      [
        ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n', '-threads', '1'],
        ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats],
        ...(format ? ['-f', format] : []),
        ...['-i', `file:${path}`, '-frames:v', '1', '-vf', smallGrey, '-f', 'rawvideo', `file:${target}`],
      ],
      { signal, isPolite: true, timeoutMilliseconds: 600_000 },
    )
    if (result.exitCode !== 0 || result.stderr.trim()) return null
    const bytes = await readFile(target)
    return bytes.length === lookBytes ? bytes : null
  })
}
