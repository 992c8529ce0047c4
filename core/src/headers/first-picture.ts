import { toHex, viewOf } from '../bytes/index.ts'

/** So many bytes of a first picture are enough for `firstPictureWords` and `essenceWords`. */
export const firstPictureBytes = 4096

/**
 * What a first picture says of all of its file, for codecs of which the container does not say it. Null where it does
 * not look like a picture of its codec, or where there is more to it than is read here.
 * @param kind of its sample description, as four characters
 * @param picture the beginning of it, `firstPictureBytes` or what there is
 */
export function firstPictureWords(kind: string, picture: Uint8Array): string | null {
  if (/^(apc[nhso]|ap4[hx])$/.test(kind)) return proResWords(picture)
  if (kind === 'jpeg') return jpegWords(picture)
  if (/^AVd[nh]$/.test(kind)) return vc3Words(picture)
  return /^(avc1|hvc1)$/.test(kind) && isUnit(picture, kind === 'avc1') ? '' : null
}

/** The frame header of ProRes up to its tables of quantization: SMPTE RDD 36, 5.1. */
export function proResWords(picture: Uint8Array): string | null {
  return picture.length >= 28 && toHex(picture.subarray(4, 8)) === '69637066' ? toHex(picture.subarray(8, 28)) : null
}

/** The header of VC-3 up to what is of each picture: SMPTE ST 2019-1, 7.2. */
export function vc3Words(picture: Uint8Array): string | null {
  return picture.length >= 48 && toHex(picture.subarray(0, 3)) === '000002' ? toHex(picture.subarray(0, 48)) : null
}

/** The segments of a JPEG before its scan, without its tables: ITU-T T.81, B.1.1.3. */
function jpegWords(picture: Uint8Array): string | null {
  const view = viewOf(picture)
  if (picture.length < 4 || view.getUint16(0) !== 0xffd8) return null
  const words: string[] = []
  for (let at = 2; at + 4 <= picture.length; ) {
    const [marker, length] = [view.getUint16(at), view.getUint16(at + 2)]
    if (marker === startOfScan) return words.join(' ')
    if (marker < 0xffc0 || length < 2 || at + 2 + length > picture.length) return null
    if (!jpegTables.has(marker)) words.push(toHex(picture.subarray(at, at + 2 + length)))
    at += 2 + length
  }
  return null
}

const startOfScan = 0xffda
/** Of Huffman, of arithmetic, of quantization. */
const jpegTables = new Set([0xffc4, 0xffcc, 0xffdb])

/** Whether a sample begins with a unit of the codec, behind four bytes of its length (ISO/IEC 14496-15). */
function isUnit(picture: Uint8Array, isAvc: boolean): boolean {
  if (picture.length < 6) return false
  const [length, head] = [viewOf(picture).getUint32(0), picture[4] as number]
  const type = isAvc ? head & 0x1f : (head >> 1) & 0x3f
  return length > 1 && head < 0x80 && (isAvc ? type > 0 && type < 24 : type < 48)
}
