import type { HashKind } from '@ennick/core'
import type { HeldFolder } from '../disk/held-folder.ts'
import { isNoRoom } from '../disk/system-error.ts'
import { explainFileError } from '../errors.ts'
import type { WorkContext } from '../queue/context.ts'
import type { JobFailure } from '../queue/failure.ts'
import { Copier, type Journal, Refused, type SourceFile, type VerifiedCopy } from './copier.ts'

/** Files that are copied from one held folder into another. */
export interface CopyRun {
  readonly context: WorkContext
  readonly from: HeldFolder
  readonly to: HeldFolder
  readonly kind: HashKind
  readonly journal: Journal
  /** What older generations of the manifest say of files that are there. */
  readonly listed: ReadonlyMap<string, string>
  /** @throws JobFailure when one of both sides has left, after so many files */
  readonly assertThere: (verified: number) => Promise<void>
  /** What is said when there is no room left after so many files. */
  readonly full: (verified: number) => JobFailure
  /** Hears of bytes that are done: half of a file's work is reading its copy back. */
  readonly onBytes: (bytes: number) => void
}

export interface CopiedFiles {
  readonly verified: VerifiedCopy[]
  /** How many of them were there already. */
  readonly already: number
  /** What could not be copied, with the reasons. */
  readonly refused: { path: string; reason: string }[]
}

/**
 * Copies files one by one, each read back before it has its name; one is read back while the next is copied. What fails
 * is written down and the rest goes on, unless a side left or is full.
 * @throws JobFailure when that is so; the signal's reason when that ends it
 */
export async function copyFiles(run: CopyRun, files: readonly SourceFile[]): Promise<CopiedFiles> {
  const { context, assertThere, full, onBytes } = run
  const { job, signal } = context
  const verified: VerifiedCopy[] = []
  const refused: { path: string; reason: string }[] = []
  let already = 0
  const attempt = async <T>(file: SourceFile, step: () => Promise<T>): Promise<T | null> => {
    try {
      return await step()
    } catch (error) {
      signal.throwIfAborted()
      await assertThere(verified.length)
      if (isNoRoom(error)) throw full(verified.length)
      refused.push({
        path: file.path,
        reason: error instanceof Refused ? error.message : explainFileError(error, file.path),
      })
      return null
    }
  }
  const copier = new Copier({ ...run, job, signal })
  let finishing: Promise<unknown> = Promise.resolve()
  try {
    for (const file of files) {
      signal.throwIfAborted()
      let fileBytes = 0
      const count = (bytes: number): void => {
        fileBytes += bytes
        onBytes(bytes)
      }
      const begun = await attempt(file, () => copier.begin(file, (bytes) => count(bytes / 2)))
      await finishing.catch(async (error) => {
        await begun?.drop()
        throw error
      })
      finishing = attempt(file, async () => {
        if (begun) {
          const { copy, wasThere } = await begun.finish()
          verified.push(copy)
          if (wasThere) already++
        }
        count(file.sizeBytes - fileBytes)
      })
      // A failure is met at the next await; until then it must not count as unhandled.
      finishing.catch(() => undefined)
    }
    await finishing
    await assertThere(verified.length)
  } finally {
    await finishing.catch(() => undefined)
  }
  return { verified, already, refused }
}
