import { toHex, viewOf } from '../bytes/index.ts'
import { saysWholeFrames } from './avc.ts'
import { proResWords, vc3Words } from './first-picture.ts'

/**
 * What the first picture of an MXF file says of all of the file, for codecs whose streams describe themselves. Null
 * where it is of another codec, or where there is more to it than is read here.
 * @param picture the beginning of it, `firstPictureBytes` or what there is
 */
export function essenceWords(picture: Uint8Array): string | null {
  if (picture.length < 4) return null
  const first = viewOf(picture).getUint32(0)
  if (first === 0x1b3) return sequenceWords(picture)
  return first === 1 || first >>> 8 === 1 ? setWords(picture) : (vc3Words(picture) ?? proResWords(picture))
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
