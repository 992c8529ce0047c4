import type { ClipView, ViewSide } from '@ennick/contract'
import { type Alignment, formatTimecode, frameBeside, originalBeside } from '@ennick/core'
import { addressOf } from '../data/api.ts'

const alignmentOf = (view: ClipView, side: ViewSide): Alignment => ({
  ...{ basis: side.basis, shiftFrames: side.shiftFrames },
  ...{ original: view.rate, item: side.rate },
})

/** The frame of a side that is seen at a frame of the clip, both counted from their first. */
export const frameOf = (view: ClipView, side: ViewSide, frame: number): number =>
  frameBeside(alignmentOf(view, side), frame)

/** The frame of the clip at which a frame of a side is seen. */
export const clipFrameOf = (view: ClipView, side: ViewSide, frame: number): number =>
  originalBeside(alignmentOf(view, side), frame)

/** Where the picture of a side's frame is; null where it has no such frame. */
export function pictureAddress(side: ViewSide, frame: number, size: 'small' | 'screen' | 'full'): string | null {
  const part = side.parts.find(({ startFrame, frames }) => frame >= startFrame && frame < startFrame + frames)
  return part ? addressOf('filePicture', { fileId: part.fileId, frame: frame - part.startFrame }, { size }) : null
}

/** A frame of a clip by its timecode, or by its number. */
export const nameOf = (view: ClipView, frame: number): string =>
  view.startFrame === null ? `frame ${frame}` : formatTimecode(view.startFrame + frame, view.rate, view.dropFrame)

const frames = (count: number): string => (count === 1 ? '1 frame' : `${count} frames`)

/** Why there is no picture of a side at a frame of the clip. */
export function whyNoPicture(view: ClipView, side: ViewSide, frame: number): string {
  if (side.presence === 'away') return `The ${side.kind} is not here: its volume “${side.volumeLabel}” is away.`
  if (side.presence === 'gone')
    return `The ${side.kind} is not here: its volume “${side.volumeLabel}” is here, and its file is gone.`
  const at = frameOf(view, side, frame)
  const name = nameOf(view, frame)
  if (at >= 0 && at < side.frames)
    return `The frame of the ${side.kind} at ${name} cannot be read: the file is damaged there, or is another one now.`
  const beyond = at < 0 ? `${frames(-at)} before its first` : `${frames(at - side.frames + 1)} past its last`
  return `The ${side.kind} has no frame at ${name}: ${frames(side.frames)} long, this would be ${beyond}.`
}

/** What stands on a picture at all times: which file this is. */
export function whichFile(side: ViewSide): { word: string; facts: string } {
  const word = side.kind === 'original' ? 'Original' : `${side.kind[0]?.toUpperCase()}${side.kind.slice(1)}`
  return { word, facts: [side.raster, side.codec, `on ${side.volumeLabel}`].filter(Boolean).join(' · ') }
}

/** How much of a file passes in a second, in words. */
export const dataRate = (side: ViewSide): string =>
  side.bitsPerSecond === null
    ? ''
    : `${(side.bitsPerSecond / 1e6).toLocaleString('en', { maximumFractionDigits: 1 })} Mb/s`
