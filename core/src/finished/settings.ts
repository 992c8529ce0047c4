import type { Cut } from '../cut/index.ts'
import { channelCount, type MediaFacts } from '../media/index.ts'
import { type EvidenceRow, sameShape } from '../pairing/index.ts'
import { count } from '../text/index.ts'
import { type FrameRange, formatRate, formatTimecode, sameRate } from '../time/index.ts'

/** What a finished file is to be: its cut, and the raster of the production. */
export interface FinishedExpected {
  readonly cut: Cut
  readonly raster: { readonly width: number; readonly height: number }
}

/** The record frames that the events of a cut run over, switched-off ones left out; null where there are none. */
export function recordOf({ events, recordStartFrame }: Cut): FrameRange | null {
  const seen = events.filter((event) => !event.isDisabled)
  if (seen.length === 0) return null
  const starts = seen.map(({ record }) => record.startFrame)
  const ends = seen.map(({ record, fadeOut }) => record.endFrame + (fadeOut?.durationFrames ?? 0))
  const first = starts.reduce((least, frame) => Math.min(least, frame))
  return {
    startFrame: Math.min(recordStartFrame ?? first, first),
    endFrame: ends.reduce((most, frame) => Math.max(most, frame)),
  }
}

/**
 * The record frame at which a finished file begins: by its own timecode, where the cut lies in it by that, and else
 * the first of the cut.
 */
export function beginsAt({ picture, startFrame }: MediaFacts, cut: Cut): number {
  const record = recordOf(cut)
  const first = record?.startFrame ?? 0
  if (!picture || startFrame === null || !record || !sameRate(picture.rate, cut.rate)) return first
  const holds = startFrame <= record.startFrame && record.startFrame < startFrame + picture.frames
  return holds ? startFrame : first
}

/**
 * What a finished file is beside what its cut and its production say: rate, raster, shape, timecode, length and sound.
 * @param firstFrame the record frame at which it begins
 */
export function compareSettings(
  facts: MediaFacts,
  { cut, raster }: FinishedExpected,
  firstFrame: number,
): EvidenceRow[] {
  const { picture } = facts
  if (!picture) return []
  const rows: EvidenceRow[] = []
  const add = (aspect: EvidenceRow['aspect'], expected: string, found: string, agrees: boolean, difference: string) =>
    rows.push({ aspect, expected, found, agrees, difference: agrees ? null : difference })
  const isRate = sameRate(picture.rate, cut.rate)
  const rates = [formatRate(cut.rate), formatRate(picture.rate)] as const
  add('rate', ...rates, isRate, 'its frames do not stand beside those of the cut')
  const size = ({ width, height }: { width: number; height: number }): string => `${width} × ${height}`
  const isSize = picture.width === raster.width && picture.height === raster.height
  add('raster', size(raster), size(picture), isSize, 'it is not in the raster of the production')
  const square = { ...raster, pixelAspect: { numerator: 1, denominator: 1 }, rotation: 0 }
  if (!sameShape(square, picture))
    add('shape', size(square), size(picture), false, 'the picture would look stretched, squeezed or cropped')
  if (isRate) {
    const label = (frame: number): string => formatTimecode(frame, cut.rate, cut.dropFrame)
    const own = facts.startFrame === null ? 'none' : formatTimecode(facts.startFrame, picture.rate, facts.dropFrame)
    const isOwn = facts.startFrame === firstFrame && facts.dropFrame === cut.dropFrame
    add('timecode', label(firstFrame), own, isOwn, 'its own timecode is not that of the record')
    const record = recordOf(cut)
    const end = firstFrame + picture.frames
    if (record) {
      const range = (from: number, to: number): string => `${label(from)} to ${label(to)}`
      const missing = [
        firstFrame > record.startFrame ? `${count(firstFrame - record.startFrame, 'frame')} at its head` : null,
        end < record.endFrame ? `${count(record.endFrame - end, 'frame')} at its tail` : null,
      ].filter((part) => part !== null)
      const expected = range(record.startFrame, record.endFrame)
      add('coverage', expected, range(firstFrame, end), missing.length === 0, `it lacks ${missing.join(' and ')}`)
    }
  }
  const isHeard = cut.events.some(({ kind, isDisabled }) => kind === 'sound' && !isDisabled)
  const channels = channelCount(facts)
  if (isHeard) add('sound', 'some', channels ? count(channels, 'channel') : 'none', channels > 0, 'it has no sound')
  return rows
}
