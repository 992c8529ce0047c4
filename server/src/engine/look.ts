import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import {
  lookBytes,
  type MediaFacts,
  readableFormats,
  type Stretch,
  sequenceFramePaths,
  stillFormat,
} from '@ennick/core'
import { findDamagedFrames } from './damage.ts'
import { greyFrames } from './grey-frames.ts'
import type { EngineFile } from './input.ts'
import { run } from './process.ts'
import { withScratch } from './scratch.ts'
import { smallGrey } from './small-grey.ts'
import { hasNoIndex, withSought } from './sought.ts'

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
  const doubtful: Place[] = []
  for (const place of wanted) {
    const one = await decode(file, [place], signal)
    if (one) stretches.push(...one)
    else doubtful.push(place)
  }
  if (!hasNoIndex(file)) return { stretches, broken: doubtful.map(({ from }) => from) }
  // A decoder that begins in the middle of a stream may complain of a whole one: all of it is read, then.
  const damaged = await findDamagedFrames(file.fullPath, file.facts, signal)
  const isDamaged = ({ from, count }: Place): boolean => damaged.some((frame) => frame >= from && frame < from + count)
  if (damaged.length === 0) stretches.push(...(await readThrough(file, doubtful, signal)))
  return {
    stretches: stretches.sort((a, b) => a.from - b.from),
    broken: doubtful.filter(isDamaged).map(({ from }) => from),
  }
}

interface Place {
  readonly from: number
  readonly count: number
}

/** The pictures of some places of a whole file, from its first picture on. */
async function readThrough(file: LookedAt, places: readonly Place[], signal: AbortSignal): Promise<Stretch[]> {
  const read = places.map(({ from }) => ({ from, pictures: [] as Uint8Array[] }))
  let frame = 0
  for await (const picture of greyFrames(file.fullPath, signal)) {
    places.forEach(({ from, count }, index) => {
      if (frame >= from && frame < from + count) read[index]?.pictures.push(Uint8Array.from(picture))
    })
    frame++
  }
  return read.filter(({ pictures }, index) => pictures.length === places[index]?.count)
}

/** @returns the stretches; null when the decoder complained, or gave another number of pictures */
async function decode(file: LookedAt, places: readonly Place[], signal: AbortSignal): Promise<Stretch[] | null> {
  const seek = async (rest: readonly Place[], inputs: readonly (readonly string[])[]): Promise<Stretch[] | null> => {
    const [next, ...others] = rest
    if (!next) return decodeInputs(file, places, inputs, signal)
    const wanted = { frame: next.from, frames: next.count, signal }
    return withSought(file, wanted, ({ input, isClean }) => (isClean ? seek(others, [...inputs, input]) : null))
  }
  return seek(places, [])
}

/** @param inputs each begins at a place */
async function decodeInputs(
  file: LookedAt,
  places: readonly Place[],
  inputs: readonly (readonly string[])[],
  signal: AbortSignal,
): Promise<Stretch[] | null> {
  const { numerator, denominator } = (file.facts.picture as NonNullable<MediaFacts['picture']>).rate
  const limited = inputs.flatMap((input, index) => {
    const { count } = places[index] as Place
    return ['-threads', '1', '-t', (((count + framesOfSlack) * denominator) / numerator).toFixed(6), ...input]
  })
  const parts = places.map(
    ({ count }, index) => `[${index}:V:0]trim=end_frame=${count},setpts=N/TB,${smallGrey}[v${index}]`,
  )
  const joined = places.map((_, index) => `[v${index}]`).join('')
  const graph = `${parts.join(';')};${joined}concat=n=${places.length}[v]`
  // What was put into a file of its own is pictures alone.
  const sound =
    file.facts.sound.length && !hasNoIndex(file)
      ? [...places.flatMap((_, index) => ['-map', `${index}:a`]), '-f', 'null', '-']
      : []
  return withScratch(async (folder) => {
    const target = join(folder, 'pictures')
    const result = await run(
      'ffmpeg',
      [
        ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n', ...limited, '-filter_complex', graph],
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
