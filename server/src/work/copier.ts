import { appendFile, mkdir, readFile, rm, stat, utimes } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { HashKind } from '@ennick/core'
import { copyHashed, hashFile, readBack } from '../engine/copy.ts'
import type { JobRow } from '../queue/jobs.ts'
import { stampOf } from './describe-file.ts'
import { partPath, placeFile, removeParts } from './place.ts'

export interface SourceFile {
  /** Below the source's root, and below the folder of the copy. */
  readonly path: string
  readonly sizeBytes: number
  readonly mtimeMicros: number
}

/** A file whose copy was read back and found equal. */
export interface VerifiedCopy extends SourceFile {
  readonly hash: string
}

/** A file that is not copied, with the reason. */
export class Refused extends Error {}

/** What a run wrote down of each verified copy, so that the next run believes it instead of reading both again. */
export type Journal = ReadonlyMap<string, VerifiedCopy>

const journalName = '.ennick-offload.jsonl'

/** What earlier runs into a folder verified by one kind of checksum. A line that a crash cut short is no entry. */
export async function readJournal(folder: string, kind: HashKind): Promise<Journal> {
  const text = await readFile(join(folder, journalName), 'utf8').catch(() => '')
  const entries = new Map<string, VerifiedCopy>()
  for (const line of text.split('\n')) {
    try {
      const entry = JSON.parse(line) as VerifiedCopy & { kind: HashKind }
      if (entry.kind === kind) entries.set(entry.path, entry)
    } catch {
      // Not an entry.
    }
  }
  return entries
}

export const dropJournal = (folder: string): Promise<void> => rm(join(folder, journalName), { force: true })

interface CopierOptions {
  readonly from: string
  readonly to: string
  readonly kind: HashKind
  readonly journal: Journal
  readonly job: JobRow
  readonly signal: AbortSignal
}

/** What ends the copying of one file. */
export type FinishCopy = () => Promise<{ copy: VerifiedCopy; wasThere: boolean }>

/** Copies files one by one, each under a hidden name until it was read back and found equal. */
export class Copier {
  readonly #options: CopierOptions
  readonly #tidied = new Set<string>()

  constructor(options: CopierOptions) {
    this.#options = options
  }

  /**
   * Writes the copy, and answers with what finishes it: that has to be called, so that nothing unfinished stays. A file
   * that is there already is compared, and never overwritten.
   * @param onBytes hears of every byte of the file twice: when it is written and when it is read back
   * @throws Refused where another file has the name
   */
  async begin(file: SourceFile, onBytes: (bytes: number) => void): Promise<FinishCopy> {
    const { from, to, kind, journal, job, signal } = this.#options
    const source = join(from, file.path)
    const target = join(to, file.path)
    const options = { kind, signal, onBytes }
    const there = await stat(target).catch(() => null)
    if (there) {
      const noted = journal.get(file.path)
      if (noted && noted.sizeBytes === there.size && noted.sizeBytes === file.sizeBytes && noted.mtimeMicros === file.mtimeMicros)
        return async () => ({ copy: noted, wasThere: true })
      const [original, copy] =
        there.size === file.sizeBytes ? [await hashFile(source, options), await hashFile(target, options)] : [null, '']
      if (original !== copy)
        throw new Refused('Another file of this name is there already. Nothing is overwritten: choose another folder, or look at the two.')
      return async () => ({ copy: { ...file, hash: copy }, wasThere: true })
    }
    await this.#tidy(dirname(target))
    const part = partPath(target, job.id, job.attempts)
    try {
      const written = await copyHashed(source, part, options)
      // A card that is pulled out, or a file that is still written, can end early without an error.
      const now = await stampOf(source)
      if (now.sizeBytes !== file.sizeBytes || now.mtimeMicros !== file.mtimeMicros)
        throw new Refused('It changed while it was copied. Let it be finished, and offload again.')
      return () => this.#finish(file, part, written, onBytes)
    } catch (error) {
      await rm(part, { force: true })
      throw error
    }
  }

  async #finish(file: SourceFile, part: string, written: string, onBytes: (bytes: number) => void): ReturnType<FinishCopy> {
    const { to, kind, signal } = this.#options
    try {
      const back = await readBack(part, { kind, signal, onBytes })
      if (written !== back)
        throw new Refused(
          `The copy does not read back as it was written (${kind} ${written} written, ${back} read): the destination may be failing.`,
        )
      const time = file.mtimeMicros / 1e6
      await utimes(part, time, time)
      await placeFile(part, join(to, file.path))
      const copy: VerifiedCopy = { ...file, hash: written }
      await appendFile(join(to, journalName), `${JSON.stringify({ ...copy, kind })}\n`)
      return { copy, wasThere: false }
    } finally {
      await rm(part, { force: true })
    }
  }

  /** Makes a folder, and clears it once of what an earlier attempt left. */
  async #tidy(folder: string): Promise<void> {
    if (this.#tidied.has(folder)) return
    await mkdir(folder, { recursive: true })
    await removeParts(folder, this.#options.job.id)
    this.#tidied.add(folder)
  }
}
