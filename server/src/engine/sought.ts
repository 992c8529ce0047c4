import { join } from 'node:path'
import { exactRate, isAllIntra, type MediaFacts, type PictureFacts, type Rate, readableFormats } from '@ennick/core'
import { type EngineFile, seekTo } from './input.ts'
import { run } from './process.ts'
import { withScratch } from './scratch.ts'

/**
 * Containers without an index of their pictures (streams of ISO/IEC 13818-1). A seek lands somewhere between two key
 * pictures, and the first that is whole from there on may be many frames behind the wanted one.
 */
const withoutIndex = new Set(['mpegts', 'mpeg'])
/**
 * AVI numbers its packets as they are stored. Where pictures lean on each other they are shown in another order, and
 * nothing but counting from the first tells which is which.
 */
const isCounted = ({ container, picture }: MediaFacts): boolean =>
  container === 'avi' && picture !== null && isAllIntra(picture) !== true
/** So far back a key picture is looked for; where there is none, all is decoded from the first. */
const lookBackSeconds = 12
/** A key picture is met a little before it is due: by less than half a frame of any rate. */
const earlySeconds = 0.004
/** Pictures are told in another order than they are shown: so many more are copied than are wanted. */
const framesOfSlack = 50

type SoughtFile = Pick<EngineFile, 'fullPath'> & { readonly facts: MediaFacts }

/** Whether a decoder has to be led to a frame of this file: a seek alone does not find it. */
export const hasNoIndex = ({ facts }: Pick<SoughtFile, 'facts'>): boolean =>
  withoutIndex.has(facts.container) || isCounted(facts)

/** How a decoder is led to a frame: where it begins, and what is dropped of what it decodes then. */
export interface Led {
  /** Counted from the first frame; what lies before that counts below zero. */
  readonly fromSeconds: number
  /** So much is dropped, of the picture by a filter. */
  readonly skip: { readonly seconds: number; readonly filter: string } | null
}

/** How a decoder is led to a frame, counted from 0. */
export async function ledTo(file: SoughtFile, frame: number): Promise<Led> {
  const { rate, beginsMicroseconds = 0 } = file.facts.picture as PictureFacts
  const early = Math.max(0, ((frame - 0.25) * rate.denominator) / rate.numerator)
  if (isCounted(file.facts)) return { fromSeconds: 0, skip: { seconds: early, filter: countFrom(early) } }
  if (!hasNoIndex(file) || frame === 0) return { fromSeconds: early, skip: null }
  const { from, at } = await wayTo(file.fullPath, frame, rate)
  const seconds = at - from
  return { fromSeconds: from - beginsMicroseconds / 1_000_000, skip: { seconds, filter: trimFrom(seconds) } }
}

/** The filter that drops pictures before a moment. */
const trimFrom = (seconds: number): string => `trim=start=${seconds.toFixed(6)},setpts=PTS-STARTPTS`
/** The same of a file in which the first picture comes out late. */
const countFrom = (seconds: number): string => `setpts=PTS-STARTPTS,${trimFrom(seconds)}`

/**
 * Where a frame is, and from where all up to it is decoded, in seconds from the beginning of the file.
 * @returns with them the beginning by the file's own clock
 */
async function wayTo(
  path: string,
  frame: number,
  rate: Rate,
  signal?: AbortSignal,
): Promise<{ from: number; at: number; begins: number }> {
  const { begins, pictureBegins } = await startsOf(path, signal)
  const at = pictureBegins - begins + ((frame - 0.25) * rate.denominator) / rate.numerator
  const key = await keyBefore(path, begins + at, signal)
  return { from: key === null ? 0 : Math.max(0, key - begins - earlySeconds), at, begins }
}

/** When a file begins by its own clock, and when its picture does, in seconds. */
async function startsOf(path: string, signal?: AbortSignal): Promise<{ begins: number; pictureBegins: number }> {
  const { format, streams } = await ask(path, ['-show_entries', 'format=start_time:stream=start_time'], signal)
  const begins = Number(format?.start_time ?? 0)
  return { begins, pictureBegins: Number(streams?.[0]?.start_time ?? begins) }
}

/** The key picture before the last one: pictures that lean on both sides of a key are whole behind the second. */
async function keyBefore(path: string, seconds: number, signal?: AbortSignal): Promise<number | null> {
  const interval = `${Math.max(0, seconds - lookBackSeconds).toFixed(3)}%${seconds.toFixed(3)}`
  const shown = ['-read_intervals', interval, '-show_entries', 'packet=pts_time,flags']
  const { packets = [] } = await ask(path, shown, signal)
  const keys = packets
    .filter(({ flags, pts_time: at }) => flags?.startsWith('K') && Number(at) <= seconds)
    .map(({ pts_time: at }) => Number(at))
    .sort((a, b) => a - b)
  return keys.at(-2) ?? null
}

async function ask(
  path: string,
  shown: readonly string[],
  signal?: AbortSignal,
): Promise<{
  format?: { start_time?: string }
  streams?: { start_time?: string }[]
  packets?: { pts_time?: string; flags?: string }[]
}> {
  const words = ['-v', 'error', '-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats]
  const result = await run('ffprobe', [...words, '-select_streams', 'V:0', '-of', 'json', ...shown, `file:${path}`], {
    signal,
    timeoutMilliseconds: 120_000,
  })
  return result.exitCode === 0 ? JSON.parse(result.stdout) : {}
}

/** An input that begins at a frame, and whether the decoder complained on its way there. */
export interface Sought {
  readonly input: readonly string[]
  readonly isClean: boolean
}

/**
 * Runs a task with an input whose first picture is a frame, counted from 0. Of a file without index some pictures from
 * there on are put into a file of their own first, as they are.
 * @param frames how many pictures the task needs, at least
 */
export async function withSought<T>(
  file: SoughtFile,
  { frame, frames, signal }: { frame: number; frames: number; signal?: AbortSignal },
  task: (sought: Sought) => Promise<T> | T,
): Promise<T> {
  const allowed = ['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats]
  const timing = file.facts.picture as PictureFacts
  const { rate } = timing
  if (!hasNoIndex(file) || (frame === 0 && !isCounted(file.facts)))
    return task({ input: [...allowed, ...seekTo(frame, timing), '-i', `file:${file.fullPath}`], isClean: true })
  return withScratch(async (folder) => {
    const excerpt = join(folder, 'excerpt.mkv')
    const keep = ['-frames:v', String(frames), '-r', exactRate(rate), '-c:v', 'ffv1', '-f', 'matroska']
    const decode = (words: readonly string[]) =>
      run('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-n', ...allowed, '-threads', '1', ...words], {
        ...(signal ? { signal } : {}),
        timeoutMilliseconds: 600_000,
      })
    const excerptOf = async (words: readonly string[], filter: string): Promise<Sought> => {
      const { exitCode, stderr } = await decode([...words, '-map', '0:V:0', '-vf', filter, ...keep, `file:${excerpt}`])
      return { input: [...allowed, '-i', `file:${excerpt}`], isClean: exitCode === 0 && stderr.trim() === '' }
    }
    let path = file.fullPath
    if (isCounted(file.facts)) {
      const { skip } = await ledTo(file, frame)
      return task(await excerptOf(['-i', `file:${path}`], skip?.filter ?? 'null'))
    }
    const { from, at, begins } = await wayTo(path, frame, rate, signal)
    if (from > 0) {
      // Copied from its first key picture on: a decoder that begins between two of them complains of a whole file.
      path = join(folder, 'part.ts')
      const length = at - from + ((frames + framesOfSlack) * rate.denominator) / rate.numerator
      await decode([
        ...['-ss', from.toFixed(6), '-t', length.toFixed(6), '-copyts', '-i', `file:${file.fullPath}`, '-map', '0:V:0'],
        ...['-c', 'copy', '-muxdelay', '0', '-muxpreload', '0', '-mpegts_copyts', '1', '-f', 'mpegts', `file:${path}`],
      ])
    }
    return task(await excerptOf(['-copyts', '-i', `file:${path}`], trimFrom(begins + at)))
  })
}
