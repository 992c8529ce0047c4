import { type PictureFacts, readableFormats } from '@ennick/core'
import { run } from './process.ts'

/**
 * Decodes a picture frame by frame, slowly, and finds the frames at which the decoder complains or that are not there.
 * @returns their numbers from 0, in order; none when every frame decodes cleanly
 */
export async function findDamagedFrames(path: string, picture: PictureFacts, signal: AbortSignal): Promise<number[]> {
  const { rate } = picture
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
          const number = Math.round((Number(time) * rate.numerator) / rate.denominator)
          first ??= number
          const frame = number - first
          for (let missing = last + 1; missing < frame; missing++) damaged.add(missing)
          last = Math.max(last, frame)
        }
        if (line.includes('log|message=')) damaged.add(Math.max(0, last))
      },
    },
  )
  for (let missing = last + 1; missing < picture.frames; missing++) damaged.add(missing)
  return [...damaged].sort((a, b) => a - b)
}
