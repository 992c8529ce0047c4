import type { Response } from 'express'
import { frameFolder, pictureFolder } from '../config.ts'
import { trimCache } from '../disk/cache.ts'
import { builtInLutPath } from '../engine/luts.ts'
import { type FrameSize, type PictureSource, pictureOf } from '../engine/pictures.ts'
import { PlainError } from '../errors.ts'
import { untilClosed } from '../http/until-closed.ts'

/** So much of frames that were looked at in passing is kept; of more the oldest go. */
const frameBytes = 1_000_000_000

/**
 * Sends one frame of a file, made when it is first asked for.
 * @param isPassing whether it is kept only as long as there is room, and not like the small pictures of lists
 * @throws PlainError when there is no picture of it
 */
export async function sendFrame(
  response: Response,
  source: PictureSource | null,
  { frame, size, isPassing }: { frame: number; size: FrameSize; isPassing: boolean },
  dataFolder: string,
): Promise<void> {
  const folder = (isPassing ? frameFolder : pictureFolder)(dataFolder)
  const path =
    source && (await pictureOf({ frame, size }, source, { folder, lut: builtInLutPath, signal: untilClosed(response) }))
  if (!path) throw new PlainError('no-picture', 'There is no picture of this frame.', { status: 404 })
  response.set('cache-control', 'private, max-age=60')
  response.sendFile(path, { dotfiles: 'allow' })
  // The picture is on its way: that the cache could not be looked through is nobody's trouble now.
  if (isPassing) await trimCache(folder, frameBytes).catch(() => undefined)
}
