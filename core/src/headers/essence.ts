import { toHex, viewOf } from '../bytes/index.ts'
import { saysWholeFrames } from './avc.ts'

/** So many bytes of a first picture are enough for `essenceWords`. */
export const essenceBytes = 4096

/**
 * What the first picture of an MXF file says of all of the file, for codecs whose streams describe themselves. Null
 * where it is of another codec, or where there is more to it than is read here.
 * @param picture the beginning of it, `essenceBytes` or what there is
 */
export function essenceWords(picture: Uint8Array): string | null {
  if (picture.length < 48) return null
  const [first, second] = [viewOf(picture).getUint32(0), viewOf(picture).getUint32(4)]
  if (first === 0x1b3) return sequenceWords(picture)
  if (first === 1 || first >>> 8 === 1) return setWords(picture)
  // VC-3 (SMPTE ST 2019-1, 7.2): its header up to what is of each picture.
  if (first >>> 8 === 2) return toHex(picture.subarray(0, 48))
  // ProRes (SMPTE RDD 36, 5.1), up to its tables of quantization.
  if (second === 0x69637066) return toHex(picture.subarray(8, 28))
  return first === 0xff4fff51 ? codestreamWords(picture) : null
}

/** Where units begin, behind a byte of one that follows at least two of nought. */
function startsOf(picture: Uint8Array): number[] {
  const starts: number[] = []
  for (let at = 2; at + 1 < picture.length; at++)
    if (picture[at] === 1 && picture[at - 1] === 0 && picture[at - 2] === 0) starts.push(at + 1)
  return starts
}

const [sequence, extension, firstSlice, lastSlice] = [0xb3, 0xb5, 0x01, 0xaf]

/** MPEG-2 (ITU-T H.262, 6.2.2 and 6.2.3): the sequence and its extensions, up to the first slice. */
function sequenceWords(picture: Uint8Array): string | null {
  const starts = startsOf(picture)
  const words: string[] = []
  for (const [index, start] of starts.entries()) {
    const code = picture[start] as number
    if (code >= firstSlice && code <= lastSlice) return words.join(' ')
    if (code === sequence || code === extension) words.push(toHex(picture.subarray(start, starts[index + 1])))
  }
  return null
}

/** H.264 (ITU-T H.264, annex B): its parameter sets, of whole frames; what follows are pictures. */
function setWords(picture: Uint8Array): string | null {
  const starts = startsOf(picture)
  const words: string[] = []
  let isOfFrames = false
  for (const [index, start] of starts.entries()) {
    const type = (picture[start] as number) & 0x1f
    // A zero before the next start code belongs to that.
    const unit = picture.subarray(start, (starts[index + 1] ?? picture.length + 3) - 3)
    if (type === 7) isOfFrames = saysWholeFrames(unit) === true
    if (type === 7 || type === 8) words.push(toHex(unit))
    if (type >= 1 && type <= 5) return isOfFrames ? words.join(' ') : null
  }
  return null
}

/** JPEG 2000 (ISO/IEC 15444-1, A.2): its main header, up to its first tile. */
function codestreamWords(picture: Uint8Array): string | null {
  const view = viewOf(picture)
  for (let at = 2; at + 4 <= picture.length; at += 2 + view.getUint16(at + 2))
    if (view.getUint16(at) === 0xff90) return toHex(picture.subarray(0, at))
  return null
}
