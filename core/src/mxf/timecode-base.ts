import { viewOf } from '../bytes/index.ts'
import { placeOf, readItems } from './header-metadata.ts'
import { MxfError, readKlv } from './klv.ts'

/** A Timecode Component (SMPTE ST 377-1, annex B.17); the byte that tells of how it is coded may be any. */
const timecodeComponent = /^060e2b34025301..0d01010101011400$/
const roundedTimecodeBase = 0x1502

/**
 * How many labels a second the timecode of a file counts: pictures of 50 a second have a label for every two where it
 * is 25 (SMPTE ST 12-1 counts no more than 30). Sets that are not known are passed over.
 * @param bytes the first of the file, up to the end of its header
 * @returns null where nothing in it says, or not all of it the same
 * @throws MxfError when the header cannot be read
 */
export function timecodeBase(bytes: Uint8Array): number | null {
  const { start, byteCount } = placeOf(bytes)
  const end = start + byteCount
  if (end > bytes.length) throw new MxfError('it ends within its header')
  const bases = new Set<number>()
  for (let at = start; at < end; ) {
    const klv = readKlv(bytes, at)
    if (timecodeComponent.test(klv.key)) {
      const base = readItems(klv).get(roundedTimecodeBase)
      if (base?.length === 2) bases.add(viewOf(base).getUint16(0))
    }
    at = klv.end
  }
  const [base = 0] = bases
  return bases.size === 1 && base > 0 ? base : null
}
