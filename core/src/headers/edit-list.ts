import { viewOf } from '../bytes/index.ts'
import { type Box, boxesOf, onlyBox } from './boxes.ts'

/** What of a track is shown. */
export interface Edit {
  readonly words: string
  readonly shownTicks: number
  readonly beginsAt: number
}

/** An edit list that shows all there is, or all from a moment on, and may wait before it: ISO/IEC 14496-12, 8.6.6. */
export function readEdit(
  boxes: readonly Box[],
  media: { movieTicksPerSecond: number; ticksPerSecond: number; ticks: number },
): Edit | null {
  const edits = boxesOf(onlyBox(boxes, 'edts') ?? new Uint8Array())
  const list = edits && onlyBox(edits, 'elst')
  if (!list) return boxes.some(({ type }) => type === 'edts') ? null : whole(media.ticks)
  if (list.length < 8 || (list[0] ?? 2) > 1) return null
  const view = viewOf(list)
  const [count, isLong] = [view.getUint32(4), list[0] === 1]
  const width = isLong ? 20 : 12
  if (count < 1 || count > 2 || list.length < 8 + count * width) return null
  const rows = Array.from({ length: count }, (_, index) => {
    const at = 8 + index * width
    return isLong
      ? {
          ...{ lasts: Number(view.getBigUint64(at)), from: Number(view.getBigInt64(at + 8)) },
          rate: view.getUint32(at + 16),
        }
      : { lasts: view.getUint32(at), from: view.getInt32(at + 4), rate: view.getUint32(at + 8) }
  })
  const [shown, wait] = [rows.at(-1), count === 2 ? rows[0] : null]
  if (!shown || shown.from < 0 || shown.rate !== 0x10000 || (wait && wait.from !== -1)) return null
  const lasts = (shown.lasts * media.ticksPerSecond) / media.movieTicksPerSecond
  const tick = media.ticksPerSecond / media.movieTicksPerSecond
  const isWhole = Math.abs(lasts - media.ticks) <= tick
  if (!isWhole && Math.abs(lasts - (media.ticks - shown.from)) > tick) return null
  const waits = wait?.lasts ?? 0
  return {
    words: `${isWhole ? 'whole' : 'rest'} from ${shown.from}, waits ${waits} of ${media.movieTicksPerSecond}`,
    shownTicks: Math.min(media.ticks, Math.round(lasts)),
    beginsAt: shown.from - Math.round((waits * media.ticksPerSecond) / media.movieTicksPerSecond),
  }
}

const whole = (ticks: number): Edit => ({ words: 'no edits', shownTicks: ticks, beginsAt: 0 })
