import { join } from 'node:path'
import { stampOfStats } from '../disk/fingerprint.ts'
import { withHeld } from '../disk/held-folder.ts'
import { explainFileError, isFileError, PlainError } from '../errors.ts'
import { describeFile } from '../intake/describe-file.ts'
import type { FoundFile } from '../store/job-types.ts'

/**
 * Reads what a finished file says of itself.
 * @param folder its real path
 * @throws PlainError where it is no file there, or has no picture that can be read
 */
export async function readFinished(folder: string, name: string, signal?: AbortSignal): Promise<FoundFile> {
  const path = join(folder, name)
  const refuse = (reason: string): never => {
    throw new PlainError('no-finished-file', `${path}: ${reason}`, { status: 422 })
  }
  const { facts, problem, ...described } = await withHeld(folder, async (held) => {
    const there = await held.look(name)
    if (there === null) return refuse('It is not there.')
    if (!there.isFile()) return refuse('It is no file. A link is not followed: choose the file itself.')
    const open = await held.open(name)
    try {
      const stamp = stampOfStats(await open.stat({ bigint: true }))
      return await describeFile(held.pathOf(open, name), stamp, signal ? { signal } : {})
    } finally {
      await open.close()
    }
  }).catch((error) => {
    if (!isFileError(error)) throw error
    return refuse(explainFileError(error, path))
  })
  if (!facts) return refuse(problem ?? 'It cannot be read.')
  if (facts.kind !== 'picture') return refuse('It has no moving picture.')
  return { ...described, id: path, path, facts, sequence: null }
}
