import { type Rate, rate, rateOfLabels } from '../time/index.ts'

/** What the header of one still of a moving picture says of its time. */
export interface StillTime {
  /** Null where it does not say. */
  readonly rate: Rate | null
  /** As a label, "10:00:00:00", or "10:00:00;00" where it says that numbers are dropped. */
  readonly timecode: string | null
}

/** So many bytes of a still's beginning are enough for `readStillTime`. */
export const stillHeaderBytes = 16_384

const nothingSaid: StillTime = { rate: null, timecode: null }

/**
 * Reads rate and timecode out of the header of a DPX (SMPTE ST 268-1, tables 4 and 5) or an OpenEXR file (its file
 * layout, standard attributes "framesPerSecond" and "timeCode"). Any other file says nothing of either.
 * @param head the beginning of the file, `stillHeaderBytes` of it or what there is
 */
export function readStillTime(head: Uint8Array): StillTime {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength)
  if (head.byteLength < 8) return nothingSaid
  const magic = view.getUint32(0)
  if (magic === dpxMagic) return readDpx(view, false)
  if (swapped(magic) === dpxMagic) return readDpx(view, true)
  return view.getUint32(0, true) === exrMagic ? readExr(view) : nothingSaid
}

/** "SDPX": in the other order the whole header is in it. */
const dpxMagic = 0x53445058
const exrMagic = 20_000_630

const swapped = (word: number): number =>
  ((word & 0xff) * 0x1000000 + ((word >>> 8) & 0xff) * 0x10000 + ((word >>> 16) & 0xff) * 0x100 + (word >>> 24)) >>> 0

/**
 * The frame rates of the film and the television header, and the latter's timecode. Many writers leave these headers
 * out: the pictures begin where they would be.
 */
function readDpx(view: DataView, isLittle: boolean): StillTime {
  const end = Math.min(view.byteLength, view.getUint32(4, isLittle))
  const float = (at: number): Rate | null => (at + 4 <= end ? rateNear(view.getFloat32(at, isLittle)) : null)
  return {
    rate: float(1940) ?? float(1724),
    timecode: 1924 <= end ? labelOf(view.getUint32(1920, isLittle)) : null,
  }
}

/** Attributes one after the other: a name and a type that end in zero, their size, their bytes; a zero ends them. */
function readExr(view: DataView): StillTime {
  let at = 8
  const word = (): string | null => {
    let text = ''
    for (; at < view.byteLength && text.length < 256; text += String.fromCharCode(view.getUint8(at++)))
      if (view.getUint8(at) === 0) {
        at++
        return text
      }
    return null
  }
  let found = nothingSaid
  for (;;) {
    const name = word()
    const type = name ? word() : null
    if (!name || type === null || at + 4 > view.byteLength) return found
    const size = view.getUint32(at, true)
    at += 4
    if (at + size > view.byteLength) return found
    if (name === 'framesPerSecond' && type === 'rational' && size === 8) {
      const [numerator, denominator] = [view.getInt32(at, true), view.getUint32(at + 4, true)]
      found = { ...found, rate: denominator > 0 ? rateNear(numerator / denominator) : null }
    }
    if (name === 'timeCode' && type === 'timecode' && size === 8)
      found = { ...found, timecode: labelOf(view.getUint32(at, true)) }
    at += size
  }
}

const nominals = [12, 15, 16, 18, 20, 24, 25, 30, 48, 50, 60, 72, 90, 96, 100, 120]

/** A header keeps a rate as a broken number: the rate that is used in the trade nearest to it, when it is near. */
function rateNear(value: number): Rate | null {
  for (const nominal of nominals) {
    if (Math.abs(value - nominal) < 0.005) return rate(nominal)
    if (Math.abs(value - (nominal * 1000) / 1001) < 0.005) return rateOfLabels(nominal, true)
  }
  return null
}

/**
 * Hours, minutes, seconds and frames as pairs of decimal digits, from the highest byte to the lowest; bits that no
 * digit needs are flags, and the one at 0x40 says that numbers are dropped (SMPTE ST 12-1, section 9).
 */
function labelOf(word: number): string | null {
  if (word === 0xffffffff) return null
  const pairs = [(word >>> 24) & 0x3f, (word >>> 16) & 0x7f, (word >>> 8) & 0x7f, word & 0x3f]
  if (pairs.some((pair) => (pair & 0xf) > 9)) return null
  const [hours = 0, minutes = 0, seconds = 0, frames = 0] = pairs.map((pair) => (pair >>> 4) * 10 + (pair & 0xf))
  if (hours > 23 || minutes > 59 || seconds > 59) return null
  const digits = (value: number): string => String(value).padStart(2, '0')
  return `${digits(hours)}:${digits(minutes)}:${digits(seconds)}${word & 0x40 ? ';' : ':'}${digits(frames)}`
}
