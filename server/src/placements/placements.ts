import { randomUUID } from 'node:crypto'
import { readdir, rmdir, unlink } from 'node:fs/promises'
import { basename, dirname, join, posix } from 'node:path'
import { compareText, mapPath, type PathMapping } from '@ennick/core'
import { and, desc, eq, sql } from 'drizzle-orm'
import pLimit from 'p-limit'
import { identify, isSameFile, isUntouched, type SeenIdentity } from '../disk/file-identity.ts'
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
function inTurn<T>(places: readonly Place[], task: () => Promise<T>): Promise<T> {
  // Whoever came before in any of them goes first, so that no two wait for each other.
  const before = Promise.all(places.map(({ id }) => lastIn.get(id)))
  const next = before.then(() => fewAtOnce(task))
  const settled = next.then(
    () => undefined,
    () => undefined,
  )
  for (const { id } of places) lastIn.set(id, settled)
  void settled.then(() => {
    for (const { id } of places) if (lastIn.get(id) === settled) lastIn.delete(id)
  })
  return next
}

/**
 * Gives files their names and writes down what that means, all of it or nothing. What earlier acts left half done in
 * these places is reversed first. Every move is in the journal before it happens; the rest of the work is one
 * transaction, and when that fails the moves are taken back. A place that cannot be got at keeps no act from the
 * others: the first move in it fails.
 * @param by the job or mend, for the journal
 */
export function withPlacements<T>(
  database: Database,
  places: readonly Place[],
  by: string,
  work: (transaction: Transaction, moves: Moves) => Promise<T>,
): Promise<T> {
  let hasMovedOlder = false
  return inPlaces(
    database,
    places,
    async (transaction, roots) => {
      for (const [volumeId, root] of roots.held) await reverseOpen(database, root, volumeId)
      const moves = new Moves(database, roots, by)
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
    async (volumeId, root) => {
      if (hasMovedOlder) await tidyKept(database, root, volumeId)
    },
  )
}

/** Reverses what dead acts have left half done in one place. */
export async function recoverPlace(database: Database, place: Place): Promise<void> {
  const unsettled = await database.$count(placements, and(eq(placements.volumeId, place.id), isUnsettled))
  if (unsettled > 0)
    await inPlaces(
      database,
      [place],
      (_, roots) => reverseOpen(database, roots.of(place.id), place.id),
      (volumeId, root) => tidyKept(database, root, volumeId),
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

/** The places of an act, held as far as they can be got at. */
class Roots {
  readonly held = new Map<string, HeldFolder>()
  readonly #failures = new Map<string, unknown>()

  static async hold(places: readonly Place[]): Promise<Roots> {
    const roots = new Roots()
    for (const place of places) {
      const root = await holdPlace(place).catch((error: unknown) => {
        roots.#failures.set(place.id, error)
        return null
      })
      if (root) roots.held.set(place.id, root)
    }
    return roots
  }

  /** @throws what kept it from being held */
  of(volumeId: string): HeldFolder {
    const root = this.held.get(volumeId)
    if (root) return root
    throw this.#failures.get(volumeId) ?? new Error(`The act does not concern the place ${volumeId}.`)
  }

  async release(): Promise<void> {
    for (const root of this.held.values()) await root.release()
  }
}

function inPlaces<T>(
  database: Database,
  given: readonly Place[],
  task: (transaction: Transaction, roots: Roots) => Promise<T>,
  afterwards: (volumeId: string, root: HeldFolder) => Promise<void>,
): Promise<T> {
  // In one order, whoever asks: other processes wait for the same locks.
  const places = [...given].sort((a, b) => compareText(a.id, b.id))
  return inTurn(places, async () => {
    const roots = await Roots.hold(places)
    try {
      const result = await database.transaction(async (transaction) => {
        for (const { id } of places)
          await transaction.execute(sql`select pg_advisory_xact_lock(${lockClasses.placement}, hashtext(${id}))`)
        return task(transaction, roots)
      })
      for (const [volumeId, root] of roots.held)
        await afterwards(volumeId, root).catch((error: Error) =>
          console.error(`What was done away with in ${root.path} is removed later: ${error.message}`),
        )
      return result
    } finally {
      await roots.release()
    }
  })
}

/** A file as the ledger has it. */
export interface LedgerFile {
  readonly volumeId: string
  readonly path: string
  /** For files that were made before there was a journal. */
  readonly fingerprint: string
}

/** The moves of one act. */
export class Moves {
  readonly #database: Database
  readonly #roots: Roots
  readonly #by: string
  readonly #act = randomUUID()
  /** Whether anything but a new file was moved. */
  hasMovedOlder = false

  /** @param database writes the journal at once, whatever becomes of the act's own transaction */
  constructor(database: Database, roots: Roots, by: string) {
    this.#database = database
    this.#roots = roots
    this.#by = by
  }

  /**
   * Gives an unfinished file its final name.
   * @throws NotOurs when anything has that name already
   */
  async giveName(volumeId: string, fromPath: string, toPath: string): Promise<void> {
    await this.#move('new', volumeId, fromPath, toPath, () => undefined)
  }

  /**
   * Moves a file that Ennick made within its place. One that is not there stays not there: the ledger says so already.
   * @returns whether there was one to move
   * @throws NotOurs when another file has its name, or anything has the new one
   */
  async moveOwn(file: LedgerFile, toPath: string): Promise<boolean> {
    return this.#move('moved', file.volumeId, file.path, toPath, (now) => this.#assertOwn(file, now))
  }

  /**
   * Does away with a file that Ennick made, as it made it. It is put out of the way with the act's other moves, and
   * removed when the act is done for good.
   * @throws NotOurs as `moveOwn` does, and when something was written into it since
   */
  async discard(file: LedgerFile): Promise<void> {
    const kept = posix.join('.kept', this.#act, basename(file.path))
    await this.#move('discarded', file.volumeId, file.path, kept, (now) => this.#assertOwn(file, now, isUntouched))
  }

  /** From where a file came that an act has moved; null when the journal does not know. */
  async originOf({ volumeId, path }: Omit<LedgerFile, 'fingerprint'>): Promise<string | null> {
    const lines = await linesTo(this.#database, volumeId, path)
    return lines.find((line) => line.kind === 'moved')?.fromPath ?? null
  }

  async #assertOwn(file: LedgerFile, now: SeenIdentity, isOwn = isSameFile): Promise<void> {
    const { volumeId, path, fingerprint } = file
    const [noted] = await linesTo(this.#database, volumeId, path)
    if (noted ? !isOwn(noted, now) : now.fingerprint !== fingerprint)
      throw new NotOurs(
        `${join(this.#roots.of(volumeId).path, path)} is another file than the one that Ennick put there. It is left as it is: move it away, and retry.`,
      )
  }

  async #move(
    kind: PlacementRow['kind'],
    volumeId: string,
    fromPath: string,
    toPath: string,
    check: (now: SeenIdentity) => Promise<void> | void,
  ): Promise<boolean> {
    const root = this.#roots.of(volumeId)
    return withFolderIfThere(root, dirname(fromPath), async (source) => {
      const file = source && (await identify(source, basename(fromPath)))
      if (!source || !file) {
        if (kind !== 'new' && !(await source?.look(basename(fromPath)))) return false
        throw new NotOurs(`${join(root.path, fromPath)} is no plain file any more. It is left as it is.`)
      }
      await check(file)
      return withFolder(
        root,
        dirname(toPath),
        async (target) => {
          if (kind !== 'new') this.hasMovedOlder = true
          await this.#database
            .insert(placements)
            .values({ volumeId, act: this.#act, by: this.#by, kind, fromPath, toPath, ...file })
          await moveFile(
            { folder: source, name: basename(fromPath) },
            { folder: target, name: basename(toPath) },
            file,
          ).catch((error) => {
            if (error.code !== 'EEXIST') throw error
            throw new NotOurs(
              `${join(root.path, toPath)} is already there, and Ennick did not put it there. Move it away, and retry: nothing is ever overwritten.`,
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
    for (const [volumeId, root] of this.#roots.held)
      await reverseOpen(this.#database, root, volumeId, this.#act).catch((error: Error) =>
        console.error(`What was begun in ${root.path} is taken back later: ${error.message}`),
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
