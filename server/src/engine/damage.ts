import { join } from 'node:path'
import {
  inputArguments,
  type MediaFacts,
  type PictureFacts,
  type Rate,
  readableFormats,
  type StillSequence,
  sequenceFramePaths,
  stillFormat,
} from '@ennick/core'
import { type EngineFile, withInput } from './input.ts'
import { run } from './process.ts'

/**
 * Decodes a picture frame by frame, slowly, and finds the frames at which the decoder complains or that are not there.
 * @returns their numbers from 0, in order; none when every frame decodes cleanly
 */
export async function findDamagedFrames(path: string, facts: MediaFacts, signal: AbortSignal): Promise<number[]> {
  const { rate, frames } = facts.picture as PictureFacts
  // In a program stream not every picture says when it is, in AVI none does: there they are counted.
  const isCounted = facts.container === 'mpeg' || facts.container === 'avi'
  const damaged = new Set<number>()
  let first: number | null = null
  let last = -1
  await run(
    'ffprobe',
    [
      ...['-v', 'quiet', '-threads', '1', '-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats],
      ...['-select_streams', 'V:0', '-show_frames', '-show_log', '16', '-of', 'compact'],
      ...['-show_entries', 'frame=best_effort_timestamp_time:log=message', `file:${path}`],
    ],
    {
      signal,
      onLine: (line) => {
        const time = /^frame\|best_effort_timestamp_time=(-?[\d.]+)/.exec(line)?.[1]
        if (time !== undefined) {
          // Decimal seconds lie far less than half a frame from the frame's own time.
          const number = isCounted ? last + 1 : Math.round((Number(time) * rate.numerator) / rate.denominator)
          first ??= number
          const frame = number - first
          for (let missing = last + 1; missing < frame; missing++) damaged.add(missing)
          last = Math.max(last, frame)
        }
        if (line.includes('log|message=')) damaged.add(Math.max(0, last))
      },
    },
  )
  for (let missing = last + 1; missing < frames; missing++) damaged.add(missing)
  return [...damaged].sort((a, b) => a - b)
}

/**
 * Decodes numbered stills in order, until one of them cannot be.
 * @returns its place among them, from 0; null when all decode cleanly
 */
export async function findDamagedStill(
  stills: EngineFile & { sequence: StillSequence },
  rate: Rate,
  signal: AbortSignal,
): Promise<number | null> {
  let decoded = 0
  const isClean = async (input: readonly string[]): Promise<boolean> => {
    const result = await run(
      'ffmpeg',
      [
        ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-progress', 'pipe:1', '-threads', '1', ...input],
        ...['-map', '0:V:0', '-fps_mode', 'passthrough', '-f', 'null', '-'],
      ],
      {
        signal,
        onLine: (line) => {
          if (line.startsWith('frame=')) decoded = Number(line.slice('frame='.length))
        },
      },
    )
    return result.exitCode === 0 && result.stderr.trim() === ''
  }
  if (await withInput([stills], (input) => isClean(inputArguments(input, rate)))) return null
  // Some were decoded and not counted yet when it ended: the one that it ended at is looked for from there.
  const first = decoded
  for (const [place, path] of [...sequenceFramePaths(stills.sequence)].entries()) {
    if (
      place >= first &&
      !(await isClean(['-f', stillFormat(path) as string, '-i', `file:${join(stills.root, path)}`]))
    )
      return place
  }
  return null
}
