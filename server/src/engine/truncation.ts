import { open } from 'node:fs/promises'
import { formatNumber } from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'

/**
 * Looks at a container's own account of its size, which a probe believes even when the end of the file is missing.
 * @returns a reason when the file is cut off, or null when it is whole or of another kind.
 */
export async function findTruncation(path: string, sizeBytes: number): Promise<string | null> {
  const file = await open(path, 'r')
  try {
    const head = await readAt(file, 0, 65_536)
    if (head.length >= 12 && head.toString('latin1', 0, 4) === 'RIFF' && head.toString('latin1', 8, 12) === 'WAVE') {
      const declared = head.readUInt32LE(4) + 8
      return declared > sizeBytes && head.readUInt32LE(4) !== 0xffffffff ? missing(declared - sizeBytes) : null
    }
    if (head.indexOf(mxfPartition) === 0) return truncatedMxf(head, sizeBytes)
    if (/^(ftyp|moov|mdat|wide|free|skip)$/.test(head.toString('latin1', 4, 8)))
      return await truncatedMov(file, sizeBytes)
    return null
  } finally {
    await file.close()
  }
}

/** The first bytes of any MXF partition pack's key (SMPTE ST 377-1, 7.1). */
const mxfPartition = Buffer.from('060e2b34020501010d010201', 'hex')

/**
 * The header partition names the byte at which the footer partition starts (ST 377-1, table 7); the file must reach it.
 */
function truncatedMxf(head: Buffer, sizeBytes: number): string | null {
  const lengthByte = head[16] as number
  const value = 17 + (lengthByte & 0x80 ? lengthByte & 0x7f : 0)
  if (head.length < value + 32) return null
  const footer = Number(head.readBigUInt64BE(value + 24))
  return footer >= sizeBytes ? missing(null) : null
}

/** A recorder that writes in fragments makes some each second. */
const mostBoxes = 1_000_000

/** The top-level boxes of a MOV or MP4 must end where the file ends (ISO/IEC 14496-12, 4.2). */
async function truncatedMov(file: import('node:fs/promises').FileHandle, sizeBytes: number): Promise<string | null> {
  let at = 0
  // A file of nothing but boxes would keep a reader for hours.
  for (let count = 0; count < mostBoxes && at + 8 <= sizeBytes; count++) {
    const header = await readAt(file, at, 16)
    // It was cut since its size was asked.
    if (header.length < 8) return missing(null)
    let size = header.readUInt32BE(0)
    if (size === 1 && header.length === 16) size = Number(header.readBigUInt64BE(8))
    if (size === 0) return null
    if (size < 8) return null
    at += size
  }
  return at > sizeBytes ? missing(at - sizeBytes) : null
}

const missing = (bytes: number | null): string =>
  `It is cut off: ${bytes === null ? 'its end is' : `the last ${formatNumber(bytes)} bytes are`} missing. ` +
  'Copy it again from where it came.'
