import { open } from 'node:fs/promises'
import { readAt } from '../disk/fingerprint.ts'

/** The chunks of a WAV, RF64 or BW64 file in which recorders write their notes. */
export interface NoteChunks {
  readonly bext: Uint8Array | null
  readonly ixml: Uint8Array | null
}

/** Larger than any recorder's notes, and small enough to be read whole. */
const mostBytes = 4 * 1024 * 1024
const mostChunks = 2000

/**
 * Finds the note chunks of a sound file (RIFF; RF64 by EBU Tech 3306). The sound itself is stepped over, also where it
 * is larger than 4 GB.
 */
export async function readNoteChunks(path: string): Promise<NoteChunks> {
  const file = await open(path, 'r')
  try {
    const head = await readAt(file, 0, 12)
    const form = head.toString('latin1', 0, 4)
    if (!['RIFF', 'RF64', 'BW64'].includes(form) || head.toString('latin1', 8, 12) !== 'WAVE')
      return { bext: null, ixml: null }
    const found: { bext: Uint8Array | null; ixml: Uint8Array | null } = { bext: null, ixml: null }
    let dataBytes: number | null = null
    let at = 12
    for (let chunk = 0; chunk < mostChunks; chunk++) {
      const header = await readAt(file, at, 8)
      if (header.length < 8) break
      const id = header.toString('latin1', 0, 4)
      let size = header.readUInt32LE(4)
      if (id === 'ds64') dataBytes = Number((await readAt(file, at + 16, 8)).readBigUInt64LE(0))
      if (id === 'data' && size === 0xffffffff && dataBytes !== null) size = dataBytes
      if ((id === 'bext' || id === 'iXML') && size <= mostBytes)
        found[id === 'bext' ? 'bext' : 'ixml'] = await readAt(file, at + 8, size)
      // Chunks begin on even bytes.
      at += 8 + size + (size % 2)
    }
    return found
  } finally {
    await file.close()
  }
}
