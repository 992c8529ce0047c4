import { viewOf } from '../bytes/index.ts'
import { headerItems, isSet, readItems } from './header-metadata.ts'
import { isKind, tags } from './package.ts'

/**
 * How many labels a second the timecode of a file counts: pictures of 50 a second have a label for every two where it
 * is 25 (SMPTE ST 12-1 counts no more than 30). Sets that are not known are passed over.
 * @param bytes the first of the file, up to the end of its header
 * @returns null where nothing in it says, or not all of it the same
 * @throws MxfError when the header cannot be read
 */
export function timecodeBase(bytes: Uint8Array): number | null {
  const bases = new Set<number>()
  for (const klv of headerItems(bytes)) {
    if (!isSet(klv) || !isKind(klv, 'timecode')) continue
    const base = readItems(klv).get(tags.roundedTimecodeBase)
    if (base?.length === 2) bases.add(viewOf(base).getUint16(0))
  }
  const [base = 0] = bases
  return bases.size === 1 && base > 0 ? base : null
}
