import { type FileHandle, open } from 'node:fs/promises'
import type { WaveChunk } from '@ennick/core'
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
 * The chunks of a wave file (RIFF; RF64 by EBU Tech 3306), in order; none of what is no such file. The sound itself is
 * stepped over, also where it is larger than 4 GB.
 */
export async function readChunks(file: FileHandle): Promise<{ form: string; chunks: WaveChunk[] }> {
  const head = await readAt(file, 0, 12)
  const form = head.toString('latin1', 0, 4)
  const chunks: WaveChunk[] = []
  if (!['RIFF', 'RF64', 'BW64'].includes(form) || head.toString('latin1', 8, 12) !== 'WAVE') return { form, chunks }
  let dataBytes: number | null = null
  let at = 12
  while (chunks.length < mostChunks) {
    const header = await readAt(file, at, 8)
    if (header.length < 8) break
    const id = header.toString('latin1', 0, 4)
    let bytes = header.readUInt32LE(4)
    if (id === 'ds64') dataBytes = Number((await readAt(file, at + 16, 8)).readBigUInt64LE(0))
    if (id === 'data' && bytes === 0xffffffff && dataBytes !== null) bytes = dataBytes
    chunks.push({ id, at: at + 8, bytes })
    // Chunks begin on even bytes.
    at += 8 + bytes + (bytes % 2)
  }
  return { form, chunks }
}

/** Finds the note chunks of a sound file. */
export async function readNoteChunks(path: string): Promise<NoteChunks> {
  const file = await open(path, 'r')
  try {
    const { chunks } = await readChunks(file)
    const read = async (id: string): Promise<Uint8Array | null> => {
      const chunk = chunks.findLast((each) => each.id === id && each.bytes <= mostBytes)
      return chunk ? readAt(file, chunk.at, chunk.bytes) : null
    }
    return { bext: await read('bext'), ixml: await read('iXML') }
  } finally {
    await file.close()
  }
}

/** What an open wave file consists of, and what its "fmt " chunk says. */
export async function readWave(file: FileHandle): Promise<{ form: string; chunks: WaveChunk[]; format: DataView }> {
  const { form, chunks } = await readChunks(file)
  const chunk = chunks.find(({ id, bytes }) => id === 'fmt ' && bytes <= mostBytes)
  const format = chunk ? Uint8Array.from(await readAt(file, chunk.at, chunk.bytes)) : new Uint8Array()
  return { form, chunks, format: new DataView(format.buffer) }
}
