import { randomUUID } from 'node:crypto'
import { readdir, rmdir, unlink } from 'node:fs/promises'
import { basename, dirname, join, posix } from 'node:path'
import { mapPath, type PathMapping } from '@ennick/core'
import { and, desc, eq, sql } from 'drizzle-orm'
import pLimit from 'p-limit'
import { type FileIdentity, identify, isSameFile, isUntouched } from '../disk/file-identity.ts'
import { type HeldFolder, withFolder } from '../disk/held-folder.ts'
import { holdPlace } from '../disk/marker.ts'
import { moveFile } from '../disk/move-file.ts'
import { isFileError } from '../errors.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { lockClasses } from '../store/lock-classes.ts'
import { placements } from '../store/placement-schema.ts'
import { files, volumes } from '../store/schema.ts'

type PlacementRow = typeof placements.$inferSelect
type Place = Pick<typeof volumes.$inferSelect, 'id' | 'rootPath' | 'markerId'>

/** Something else lies where a file of ours belongs, or took its name. It is nobody's to move but its owner's. */
export class NotOurs extends Error {
  override readonly name = 'NotOurs'
}

/**
 * Acts in one place go one after another, so that none holds a connection while it waits for another's lock; those in
 * other places do not wait for them. An act needs two connections: few at once leave enough of them for all.
 */
const lastIn = new Map<string, Promise<unknown>>()
const fewAtOnce = pLimit(4)
function inTurn<T>(place: Place, task: () => Promise<T>): Promise<T> {
  const next = (lastIn.get(place.id) ?? Promise.resolve()).then(() => fewAtOnce(task))
  const settled = next.then(
    () => undefined,
    () => undefined,
  )
  lastIn.set(place.id, settled)
  void settled.then(() => {
    if (lastIn.get(place.id) === settled) lastIn.delete(place.id)
  })
  return next
}

/**
 * Gives files their names and writes down what that means, all of it or nothing. What an earlier act left half done in
 * this place is reversed first. Every move is in the journal before it happens; the rest of the work is one
 * transaction, and when that fails the moves are taken back.
 * @param by the job or mend, for the journal
 */
export function withPlacements<T>(
  database: Database,
  place: Place,
  by: string,
  work: (transaction: Transaction, moves: Moves) => Promise<T>,
): Promise<T> {
  let hasMovedOlder = false
  return inPlace(
    database,
    place,
    async (transaction, root) => {
      await reverseOpen(database, root, place.id)
      const moves = new Moves(database, root, place.id, by)
      try {
        const result = await work(transaction, moves)
        await moves.settle(transaction)
        hasMovedOlder = moves.hasMovedOlder
        return result
      } catch (error) {
        // Nothing was committed: had the commit itself failed, the journal would tell whether it took place.
        await moves.reverse()
        throw error
      }
    },
    async (root) => {
      if (hasMovedOlder) await tidyKept(database, root, place.id)
    },
  )
}

/** Reverses what dead acts have left half done in one place. */
export async function recoverPlace(database: Database, place: Place): Promise<void> {
  const unsettled = await database.$count(placements, and(eq(placements.volumeId, place.id), isUnsettled))
  if (unsettled > 0)
    await inPlace(
      database,
      place,
      (_, root) => reverseOpen(database, root, place.id),
      (root) => tidyKept(database, root, place.id),
    )
}

/** Moves that are neither done nor reversed, and files that are done away with and not removed yet. */
const isUnsettled = sql`(${placements.state} = 'open'
  or (${placements.kind} = 'discarded' and ${placements.state} = 'done'))`

/** The same in every place: for a process that starts. A place that cannot be got at now keeps its open lines. */
export async function recoverPlaces(database: Database, pathMap: readonly PathMapping[] = []): Promise<void> {
  const rows = await database
    .selectDistinct({ id: volumes.id, rootPath: volumes.rootPath, markerId: volumes.markerId })
    .from(placements)
    .innerJoin(volumes, eq(volumes.id, placements.volumeId))
    .where(isUnsettled)
  for (const { id, rootPath, markerId } of rows)
    await recoverPlace(database, { id, rootPath: mapPath(rootPath, pathMap) ?? rootPath, markerId }).catch(
      (error: unknown) => {
        // One place that cannot be got at holds up no other.
        if (!isFileError(error)) throw error
        console.error(`What was begun in ${rootPath} is taken back when it can be got at: ${(error as Error).message}`)
      },
    )
}

function inPlace<T>(
  database: Database,
  place: Place,
  task: (transaction: Transaction, root: HeldFolder) => Promise<T>,
  afterwards: (root: HeldFolder) => Promise<void>,
): Promise<T> {
  const underLock = async (root: HeldFolder): Promise<T> => {
    const result = await database.transaction(async (transaction) => {
      await transaction.execute(sql`select pg_advisory_xact_lock(${lockClasses.placement}, hashtext(${place.id}))`)
      return task(transaction, root)
    })
    await afterwards(root).catch((error: Error) =>
      console.error(`What was done away with in ${root.path} is removed later: ${error.message}`),
    )
    return result
  }
  return inTurn(place, async () => {
    const root = await holdPlace(place)
    try {
      return await underLock(root)
    } finally {
      await root.release()
    }
  })
}

/** The moves of one act. */
export class Moves {
  readonly #database: Database
  readonly #root: HeldFolder
  readonly #volumeId: string
  readonly #by: string
  readonly #act = randomUUID()
  /** Whether anything but a new file was moved. */
  hasMovedOlder = false

  /** @param database writes the journal at once, whatever becomes of the act's own transaction */
  constructor(database: Database, root: HeldFolder, volumeId: string, by: string) {
    this.#database = database
    this.#root = root
    this.#volumeId = volumeId
    this.#by = by
  }

  /**
   * Gives an unfinished file its final name.
   * @throws NotOurs when anything has that name already
   */
  async giveName(fromPath: string, toPath: string): Promise<void> {
    await this.#move('new', fromPath, toPath, () => undefined)
  }

  /**
   * Moves a file that Ennick made. One that is not there stays not there: the ledger says so already.
   * @param fingerprint what the ledger knows of it, for files that were made before there was a journal
   * @returns whether there was one to move
   * @throws NotOurs when another file has its name, or anything has the new one
   */
  async moveOwn(fromPath: string, toPath: string, fingerprint: string): Promise<boolean> {
    return this.#move('moved', fromPath, toPath, (now) => this.#assertOwn(fromPath, fingerprint, now))
  }

  /**
   * Does away with a file that Ennick made, as it made it. It is put out of the way with the act's other moves, and
   * removed when the act is done for good.
   * @throws NotOurs as `moveOwn` does, and when something was written into it since
   */
  async discard(path: string, fingerprint: string): Promise<void> {
    await this.#move('discarded', path, posix.join('.kept', this.#act, basename(path)), (now) =>
      this.#assertOwn(path, fingerprint, now, isUntouched),
    )
  }

  /** From where a file came that an act has moved; null when the journal does not know. */
  async originOf(toPath: string): Promise<string | null> {
    const lines = await linesTo(this.#database, this.#volumeId, toPath)
    return lines.find((line) => line.kind === 'moved')?.fromPath ?? null
  }

  async #assertOwn(path: string, fingerprint: string, now: FileIdentity, isOwn = isSameFile): Promise<void> {
    const [noted] = await linesTo(this.#database, this.#volumeId, path)
    if (noted ? !isOwn(noted, now) : now.fingerprint !== fingerprint)
      throw new NotOurs(
        `${join(this.#root.path, path)} is another file than the one that Ennick put there. It is left as it is: move it away, and retry.`,
      )
  }

  async #move(
    kind: PlacementRow['kind'],
    fromPath: string,
    toPath: string,
    check: (now: FileIdentity) => Promise<void> | void,
  ): Promise<boolean> {
    return withFolderIfThere(this.#root, dirname(fromPath), async (source) => {
      const file = source && (await identify(source, basename(fromPath)))
      if (!source || !file) {
        if (kind !== 'new' && !(await source?.look(basename(fromPath)))) return false
        throw new NotOurs(`${join(this.#root.path, fromPath)} is no plain file any more. It is left as it is.`)
      }
      await check(file)
      return withFolder(
        this.#root,
        dirname(toPath),
        async (target) => {
          if (kind !== 'new') this.hasMovedOlder = true
          await this.#database
            .insert(placements)
            .values({ volumeId: this.#volumeId, act: this.#act, by: this.#by, kind, fromPath, toPath, ...file })
          await moveFile(
            { folder: source, name: basename(fromPath) },
            { folder: target, name: basename(toPath) },
            file,
          ).catch((error) => {
            if (error.code !== 'EEXIST') throw error
            throw new NotOurs(
              `${join(this.#root.path, toPath)} is already there, and Ennick did not put it there. Move it away, and retry: nothing is ever overwritten.`,
            )
          })
          return true
        },
        { make: true },
      )
    })
  }

  /** Part of the act's own transaction: with it the moves are done for good. */
  async settle(transaction: Transaction): Promise<void> {
    await transaction.update(placements).set({ state: 'done' }).where(eq(placements.act, this.#act))
  }

  /** Takes the moves back. What cannot be taken back now stays open in the journal for whoever comes next. */
  async reverse(): Promise<void> {
    await reverseOpen(this.#database, this.#root, this.#volumeId, this.#act).catch((error: Error) =>
      console.error(`What was begun in ${this.#root.path} is taken back later: ${error.message}`),
    )
  }
}

const linesTo = (database: Queryable, volumeId: string, toPath: string): Promise<PlacementRow[]> =>
  database
    .select()
    .from(placements)
    .where(and(eq(placements.volumeId, volumeId), eq(placements.toPath, toPath), eq(placements.state, 'done')))
    .orderBy(desc(placements.id))

/** Takes open moves back, the last first; nothing but the very files that they moved is touched. */
async function reverseOpen(database: Database, root: HeldFolder, volumeId: string, act?: string): Promise<void> {
  const open = await database
    .select()
    .from(placements)
    .where(
      and(
        eq(placements.volumeId, volumeId),
        eq(placements.state, 'open'),
        act === undefined ? undefined : eq(placements.act, act),
      ),
    )
    .orderBy(desc(placements.id))
  for (const line of open) {
    await reverseMove(database, root, line)
    await database
      .update(placements)
      .set({ state: 'reversed' })
      .where(and(eq(placements.id, line.id), eq(placements.state, 'open')))
  }
}

/** Removes what finished acts have done away with, and folders for what is kept that hold nothing any more. */
async function tidyKept(database: Database, root: HeldFolder, volumeId: string): Promise<void> {
  await removeDiscarded(database, root, volumeId)
  await withFolderIfThere(root, '.kept', async (kept) => {
    if (!kept) return
    // One that still holds something stays: removing it fails.
    for (const name of await readdir(kept.at('.'))) await rmdir(kept.at(name)).catch(() => undefined)
  })
}

async function removeDiscarded(database: Database, root: HeldFolder, volumeId: string): Promise<void> {
  const lines = await database
    .select()
    .from(placements)
    .where(and(eq(placements.volumeId, volumeId), eq(placements.kind, 'discarded'), eq(placements.state, 'done')))
  for (const line of lines) {
    await withFolderIfThere(root, dirname(line.toPath), async (folder) => {
      const now = folder && (await identify(folder, basename(line.toPath)))
      if (folder && now && isUntouched(line, now)) await unlink(folder.at(basename(line.toPath)))
    })
    await database.update(placements).set({ state: 'removed' }).where(eq(placements.id, line.id))
  }
}

async function reverseMove(database: Database, root: HeldFolder, line: PlacementRow): Promise<void> {
  const name = basename(line.toPath)
  await withFolderIfThere(root, dirname(line.toPath), async (target) => {
    const now = target && (await identify(target, name))
    if (!target || !now || !isSameFile(line, now)) return
    if (line.kind === 'new') {
      if (isUntouched(line, now)) await unlink(target.at(name))
      return
    }
    await withFolder(
      root,
      dirname(line.fromPath),
      async (source) => {
        const before = await identify(source, basename(line.fromPath))
        // It died between the two steps of a move: the file has both names.
        if (before && before.device === now.device && before.inode === now.inode) await unlink(target.at(name))
        else if (before) await stayMoved(database, line)
        else await moveFile({ folder: target, name }, { folder: source, name: basename(line.fromPath) }, now)
      },
      { make: true },
    )
  })
}

/** Somebody's file has taken the old name meanwhile. Theirs stays, ours too, and the ledger says where. */
async function stayMoved(database: Database, line: PlacementRow): Promise<void> {
  await database
    .update(files)
    .set({ path: line.toPath })
    .where(
      and(eq(files.volumeId, line.volumeId), eq(files.path, line.fromPath), eq(files.fingerprint, line.fingerprint)),
    )
}

async function withFolderIfThere<T>(
  root: HeldFolder,
  below: string,
  task: (folder: HeldFolder | null) => Promise<T>,
): Promise<T> {
  const folder = await root.folder(below).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return null
    throw error
  })
  try {
    return await task(folder)
  } finally {
    await folder?.release()
  }
}
