import { type FileHandle, open } from 'node:fs/promises'
import { readableFormats } from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'
import { type Box, boxes, firstBox } from './movie-boxes.ts'
import { run } from './process.ts'

/**
 * How many pictures of a stream are shown: an edit list may leave out some that the file holds, and the decoder drops
 * those.
 * @returns null when the file cannot be read
 */
export async function countShown(path: string, stream: number, signal?: AbortSignal): Promise<number | null> {
  let shown = 0
  const result = await run(
    'ffprobe',
    [
      ...['-v', 'error', '-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats],
      ...['-select_streams', String(stream), '-show_entries', 'packet=flags', '-of', 'csv=p=0', `file:${path}`],
    ],
    {
      signal,
      onLine: (line) => {
        if (/^[K_]/.test(line) && !line.includes('D')) shown++
      },
      timeoutMilliseconds: 600_000,
    },
  )
  return result.exitCode === 0 ? shown : null
}

/** A moment in a track, in ticks of its own clock. */
export interface TrackMoment {
  readonly ticks: number
  readonly ticksPerSecond: number
}

/**
 * Where in its timecode track a MOV or MP4 begins: the label that the track holds stands there at its first tick.
 * @returns null when there is no such track, or it has no edit list (ISO/IEC 14496-12, 8.6.6)
 */
export async function timecodeBegins(path: string): Promise<TrackMoment | null> {
  const file = await open(path, 'r')
  try {
    const { size } = await file.stat()
    // One there is at most; what is behind it may be very many fragments.
    const movie = await firstBox(file, { from: 0, to: size }, 'moov')
    if (!movie) return null
    for await (const track of boxes(file, movie.from, movie.to, 'trak')) {
      const begins = await beginOfTimecode(file, track)
      if (begins) return begins
    }
    return null
  } finally {
    await file.close()
  }
}

async function beginOfTimecode(file: FileHandle, track: Box): Promise<TrackMoment | null> {
  const [edits, media] = [await firstBox(file, track, 'edts'), await firstBox(file, track, 'mdia')]
  const [list, header, handler] = [
    edits && (await firstBox(file, edits, 'elst')),
    media && (await firstBox(file, media, 'mdhd')),
    media && (await firstBox(file, media, 'hdlr')),
  ]
  if (!list || !header || !handler) return null
  if ((await readAt(file, handler.from + 8, 4)).toString('latin1') !== 'tmcd') return null
  const clock = await readAt(file, header.from, 24)
  const entries = await readAt(file, list.from, Math.min(list.to - list.from, 8 + 20 * mostEdits))
  if (clock.length < 24) return null
  const isLong = entries[0] === 1
  const [length, timeAt] = isLong ? [20, 8] : [12, 4]
  const ticksPerSecond = clock.readUInt32BE(clock[0] === 1 ? 20 : 12)
  // Emptiness before the track begins is an edit too, of no moment in it.
  for (let entry = 8; entry + length <= entries.length; entry += length) {
    const ticks = isLong ? Number(entries.readBigInt64BE(entry + timeAt)) : entries.readInt32BE(entry + timeAt)
    if (ticks >= 0 && ticksPerSecond > 0) return { ticks, ticksPerSecond }
  }
  return null
}

/** Nobody needs more than the first that is not empty. */
const mostEdits = 16
