import { open } from 'node:fs/promises'
import { bytesToPrimer, headerEnd, MxfError, timecodeBase } from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'

/** How many labels a second the timecode of an MXF file counts; null where its header does not say, or is unlike. */
export async function mxfTimecodeBase(path: string): Promise<number | null> {
  const file = await open(path, 'r')
  try {
    return timecodeBase(await readAt(file, 0, headerEnd(await readAt(file, 0, bytesToPrimer))))
  } catch (error) {
    if (error instanceof MxfError) return null
    throw error
  } finally {
    await file.close()
  }
}
