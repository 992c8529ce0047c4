import type { BigIntStats } from 'node:fs'
import type { FileHandle } from 'node:fs/promises'
import { appendFile, rm, utimes } from 'node:fs/promises'
import { basename, dirname } from 'node:path'
import type { HashKind } from '@ennick/core'
import { type FileStamp, stampOfStats } from '../disk/fingerprint.ts'
import type { HeldFolder } from '../disk/held-folder.ts'
import { moveFile } from '../disk/move-file.ts'
import { copyHashed, hashFile, readBack } from '../engine/copy.ts'
import { dropUnfinished, partPath, removeParts } from '../placements/unfinished-files.ts'
import type { JobRow } from '../queue/jobs.ts'

export interface SourceFile extends FileStamp {
  /** Below the source's root, and below the folder of the copy. */
  readonly path: string
}

/** A file whose copy was read back and found equal. */
export interface VerifiedCopy extends SourceFile {
  readonly hash: string
  /** Whether the copy was read from the disk itself; null for one that was there already. */
  readonly wasDirect: boolean | null
}

/** A file that is not copied, with the reason. */
export class Refused extends Error {}

export const linkIsThere = 'A link, or a folder, of this name is there already. Nothing is written through it.'
export const itselfIsThere =
  'What is there is this very file, by another path or a hard link, and no copy of it. Choose a folder on another disk.'
export const anotherIsThere =
  'Another file of this name is there already. Nothing is overwritten: choose another folder, or look at the two.'

/** What a run wrote down of each verified copy, so that the next run believes it instead of reading both again. */
export type Journal = ReadonlyMap<string, VerifiedCopy>

const journalName = '.ennick-offload.jsonl'

/** What earlier runs into a folder verified by one kind of checksum. A line that a crash cut short is no entry. */
export async function readJournal(folder: HeldFolder, kind: HashKind): Promise<Journal> {
  const entries = new Map<string, VerifiedCopy>()
  for (const line of ((await folder.readText(journalName)) ?? '').split('\n')) {
    try {
      const entry = JSON.parse(line) as VerifiedCopy & { kind: HashKind }
      if (entry.kind === kind) entries.set(entry.path, { ...entry, wasDirect: entry.wasDirect ?? null })
    } catch {
      // Not an entry.
    }
  }
  return entries
}

export const dropJournal = (folder: HeldFolder): Promise<void> => rm(folder.at(journalName), { force: true })

interface CopierOptions {
  readonly from: HeldFolder
  readonly to: HeldFolder
  readonly kind: HashKind
  readonly journal: Journal
  /** What older generations of the manifest say of files that are there. */
  readonly listed: ReadonlyMap<string, string>
  readonly job: JobRow
  readonly signal: AbortSignal
}

type Finish = () => Promise<{ copy: VerifiedCopy; wasThere: boolean }>

/** A file that is copied, under a hidden name, or was there already. One of the two has to be called. */
export interface BegunCopy {
  /** Reads it back and gives it its name. */
  readonly finish: Finish
  /** Does away with what was written, and lets its folder go. */
  drop(): Promise<void>
}

/**
 * Gives a copy that was read back its name.
 * @returns what was named; null when somebody else was quicker, whose file is to be compared like any that was there
 * @throws Refused when the copy is not there any more
 */
export async function nameCopy(folder: HeldFolder, part: string, name: string): Promise<BigIntStats | null> {
  const placed = await folder.look(part)
  if (!placed) throw new Refused('Its copy was taken away before it had its name.')
  const identity = { device: String(placed.dev), inode: String(placed.ino) }
  return moveFile({ folder, name: part }, { folder, name }, identity).then(
    () => placed,
    (error) => {
      if (error.code === 'EEXIST') return null
      throw error
    },
  )
}

/** Copies files one by one, each under a hidden name until it was read back and found equal. */
export class Copier {
  readonly #options: CopierOptions
  readonly #tidied = new Set<string>()

  constructor(options: CopierOptions) {
    this.#options = options
  }

  /**
   * Writes the copy, and answers with what finishes it. A file that is there already is compared, and never
   * overwritten.
   * @param onBytes hears of every byte of the file twice: when it is written and when it is read back
   * @throws Refused where another file has the name
   */
  async begin(file: SourceFile, onBytes: (bytes: number) => void): Promise<BegunCopy> {
    const { from, to, job } = this.#options
    await from.assertThere()
    await to.assertThere()
    const name = basename(file.path)
    const target = await to.folder(dirname(file.path), { make: true })
    try {
      // Also where all is there by now: somebody else may have brought what an earlier attempt left unfinished.
      await this.#tidy(dirname(file.path), target)
      if (await target.look(name)) {
        const finish = await this.#compare(file, target, onBytes)
        await target.release()
        return { finish, drop: async () => undefined }
      }
      const part = basename(partPath(name, job.id, job.attempts))
      await target.assertTakes(name, part)
      try {
        const written = await this.#write(file, target, part, onBytes)
        return {
          finish: () => this.#finish(file, target, part, written, onBytes).finally(() => target.release()),
          drop: () => dropUnfinished(target.at(part)).finally(() => target.release()),
        }
      } catch (error) {
        await dropUnfinished(target.at(part))
        throw error
      }
    } catch (error) {
      await target.release().catch(() => undefined)
      throw error
    }
  }

  /** Compares what is there already with the source. */
  async #compare(file: SourceFile, target: HeldFolder, onBytes: (bytes: number) => void): Promise<Finish> {
    const { kind, signal, journal, listed } = this.#options
    const name = basename(file.path)
    const there = await target.look(name)
    if (!there?.isFile()) throw new Refused(linkIsThere)
    const sizeBytes = Number(there.size)
    const noted = journal.get(file.path)
    if (
      noted &&
      noted.sizeBytes === sizeBytes &&
      noted.sizeBytes === file.sizeBytes &&
      noted.mtimeMicros === file.mtimeMicros
    )
      return async () => ({ copy: noted, wasThere: true })
    const options = { kind, signal, onBytes }
    let copy = ''
    const isEqual =
      sizeBytes === file.sizeBytes &&
      (await this.#withSource(file, async (source, held) => {
        const { dev, ino } = await held.stat({ bigint: true })
        if (dev === there.dev && ino === there.ino) throw new Refused(itselfIsThere)
        const original = await hashFile(source, options)
        const open = await target.open(name)
        copy = await hashFile(target.pathOf(open, name), options).finally(() => open.close())
        return original === copy
      }))
    if (!isEqual) throw new Refused(anotherIsThere)
    const before = listed.get(file.path)
    if (before !== undefined && before !== copy)
      throw new Refused(
        `The manifest that is there says that its ${kind} was ${before}, and it is ${copy} now, here and on the source: both were changed since.`,
      )
    return async () => ({ copy: { ...file, hash: copy, wasDirect: null }, wasThere: true })
  }

  async #write(file: SourceFile, target: HeldFolder, part: string, onBytes: (bytes: number) => void): Promise<string> {
    const { kind, signal } = this.#options
    return this.#withSource(file, async (source, open) => {
      const written = await copyHashed(source, target.at(part), { kind, signal, onBytes })
      // A card that is pulled out, or a file that is still written, can end early without an error.
      const now = stampOfStats(await open.stat({ bigint: true }))
      if (now.sizeBytes !== file.sizeBytes || now.mtimeMicros !== file.mtimeMicros)
        throw new Refused('It changed while it was copied. Let it be finished, and offload again.')
      return written
    })
  }

  /** Opens a file of the source, with no link on the way. */
  async #withSource<T>(file: SourceFile, task: (path: string, open: FileHandle) => Promise<T>): Promise<T> {
    const folder = await this.#options.from.folder(dirname(file.path))
    try {
      const open = await folder.open(basename(file.path))
      return await task(folder.pathOf(open, basename(file.path)), open).finally(() => open.close())
    } finally {
      await folder.release()
    }
  }

  async #finish(
    file: SourceFile,
    target: HeldFolder,
    part: string,
    written: string,
    onBytes: (bytes: number) => void,
  ): ReturnType<Finish> {
    const { to, kind, signal } = this.#options
    try {
      const back = await readBack(target.at(part), { kind, signal, onBytes })
      if (written !== back.hash)
        throw new Refused(
          `The copy does not read back as it was written (${kind} ${written} written, ${back.hash} read): the destination may be failing.`,
        )
      const time = file.mtimeMicros / 1e6
      await utimes(target.at(part), time, time)
      await to.assertThere()
      if (!(await nameCopy(target, part, basename(file.path))))
        return await (await this.#compare(file, target, () => undefined))()
      const copy: VerifiedCopy = { ...file, hash: written, wasDirect: back.wasDirect }
      await this.#note(copy)
      return { copy, wasThere: false }
    } finally {
      await dropUnfinished(target.at(part))
    }
  }

  async #note(copy: VerifiedCopy): Promise<void> {
    const { to, kind } = this.#options
    const there = await to.look(journalName)
    if (there && !there.isFile())
      throw new Refused('A link has the name of the journal of offloads. Remove it, and retry.')
    await appendFile(to.at(journalName), `${JSON.stringify({ ...copy, kind })}\n`)
  }

  /** Clears a folder once of what an earlier attempt left. */
  async #tidy(below: string, folder: HeldFolder): Promise<void> {
    if (this.#tidied.has(below)) return
    await removeParts(folder, this.#options.job.id)
    this.#tidied.add(below)
  }
}
