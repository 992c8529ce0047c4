import { createHash } from 'node:crypto'
import { lstat, mkdir, readdir, readFile, rename, stat, unlink, writeFile } from 'node:fs/promises'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import type { LedgerCopies } from '@ennick/contract'
import type pg from 'pg'
import { z } from 'zod'
import { type HeldFolder, withFolder, withHeld } from '../disk/held-folder.ts'
import { whyNoRoom } from '../disk/room.ts'
import { isFolder } from '../disk/volume-presence.ts'
import { explainFailure, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Connection } from '../store/database.ts'
import { copyTime, isPartOfCopy, spareCopies } from './copy-format.ts'
import { placeCopy } from './place-copy.ts'
import { describeLedgerCopy } from './read-copy.ts'
import { writeLedgerCopy } from './write-copy.ts'

const lookMilliseconds = 600_000
const dayMilliseconds = 86_400_000

/** Where copies of the ledger lie, in the data folder. */
export const ledgerCopyFolder = (dataFolder: string): string => join(dataFolder, 'ledger-copies')

const elsewhereShape = z.object({ folder: z.string() })

/**
 * Keeps copies of the ledger: one a day when something was done since the last, and whenever a person wants one; each
 * in the data folder, and in a second place when there is one.
 */
export class LedgerKeeper {
  readonly #connection: Connection
  readonly #folder: string
  readonly #dataFolder: string
  #copying: Promise<void> | null = null
  #problem: string | null = null
  readonly #stopping = new AbortController()
  readonly #isAllowed: (folder: string) => Promise<boolean>

  /** @param isAllowed whether a folder may be used: a second place that may not any more is away */
  constructor(connection: Connection, dataFolder: string, isAllowed: (folder: string) => Promise<boolean>) {
    this.#connection = connection
    this.#dataFolder = dataFolder
    this.#isAllowed = isAllowed
    this.#folder = ledgerCopyFolder(dataFolder)
  }

  /** Looks every ten minutes whether a copy is due. @returns what ends it, and a copy that is being made */
  start(): () => Promise<void> {
    const timer = setInterval(() => void this.lookOnce(), lookMilliseconds)
    return async () => {
      clearInterval(timer)
      this.#stopping.abort(new Error('Ennick was stopped.'))
      await this.#copying
    }
  }

  /** Makes a copy when one is due, and brings to the second place what is not there. */
  async lookOnce(): Promise<void> {
    await this.#work(async () => {
      const newest = (await ledgerCopiesIn(this.#folder))[0]
      const since = newest === undefined ? null : copyTime(newest)
      const isDue = since === null || Date.now() - since.getTime() > dayMilliseconds
      if (isDue && (await this.#wasUsedSince(since))) await this.#copy()
      else await this.#bringElsewhere()
    })
  }

  /** Begins a copy, unless one is being made. */
  copyNow(): void {
    void this.#work(() => this.#copy())
  }

  async present(): Promise<LedgerCopies> {
    const elsewhere = await this.#elsewhere()
    const here = await copiesIn(this.#folder)
    const isThere = elsewhere !== null && (await this.#isHere(elsewhere))
    const there = isThere ? await copiesIn(elsewhere) : new Map<string, number>()
    const names = [...new Set([...here.keys(), ...there.keys()])].sort().reverse()
    return {
      folder: this.#folder,
      copies: names.map((name) => ({
        name,
        madeAt: (copyTime(name) as Date).toISOString(),
        bytes: here.get(name) ?? there.get(name) ?? 0,
        isHere: here.has(name),
        isElsewhere: there.has(name),
      })),
      elsewhere:
        elsewhere === null
          ? null
          : {
              ...{ folder: elsewhere, isHere: isThere },
              isOnOneDisk: await areOnOneDisk(elsewhere, this.#dataFolder),
            },
      isCopying: this.#copying !== null,
      problem: this.#problem,
    }
  }

  /**
   * Chooses the second place: copies go into a folder of this ledger's own below it, which is made once. Where that is
   * not there, its disk is not.
   */
  async keepElsewhere(folder: string | null): Promise<void> {
    let own: string | null = null
    if (folder !== null) {
      const mark = createHash('sha256').update(`${hostname()}\0${this.#dataFolder}`).digest('hex').slice(0, 6)
      const name = `ennick-ledger-of-${hostname().replace(/[^\w.-]/g, '_')}-${mark}`
      await withHeld(folder, (root) => withFolder(root, name, async () => undefined, { make: true }))
      own = join(folder, name)
    }
    await mkdir(this.#folder, { recursive: true })
    const path = this.#elsewherePath()
    if (own === null) await unlink(path).catch(() => undefined)
    else {
      await writeFile(`${path}.part`, `${JSON.stringify({ folder: own }, null, 2)}\n`)
      await rename(`${path}.part`, path)
    }
    this.#problem = null
    if (own !== null) void this.#work(() => this.#bringElsewhere())
  }

  /** The full path of a copy. @throws PlainError when there is none of this name */
  async pathOf(name: string): Promise<string> {
    const path = join(this.#folder, name)
    if (copyTime(name) === null || !(await lstat(path).catch(() => null))?.isFile())
      throw new PlainError('no-ledger-copy', 'There is no such copy of the ledger here.', { status: 404 })
    return path
  }

  async #work(task: () => Promise<void>): Promise<void> {
    if (this.#copying) return
    this.#copying = task()
      .then(() => {
        this.#problem = null
      })
      .catch((error: unknown) => {
        this.#problem = explainFailure(error)
      })
      .finally(() => {
        this.#copying = null
      })
    await this.#copying
    await announce(this.#connection.database, null, 'ledger').catch(() => undefined)
  }

  async #copy(): Promise<void> {
    const { pool } = this.#connection
    await mkdir(this.#folder, { recursive: true })
    await withHeld(
      this.#folder,
      async (folder) => {
        await removeParts(folder)
        await assertRoom(pool, folder)
        await writeLedgerCopy(pool, folder, { signal: this.#stopping.signal })
        await removeSpare(folder)
      },
      { isOwn: true },
    )
    await this.#bringElsewhere()
  }

  /** Brings the newest copy to the second place, when that is here and has it not. */
  async #bringElsewhere(): Promise<void> {
    const elsewhere = await this.#elsewhere()
    if (elsewhere === null || !(await this.#isHere(elsewhere))) return
    const [newest] = await ledgerCopiesIn(this.#folder)
    if (newest === undefined) return
    await withHeld(elsewhere, async (there) => {
      await removeParts(there)
      if ((await there.look(newest)) === null)
        await withHeld(this.#folder, (here) => copyAcross(here, there, newest), { isOwn: true })
      await removeSpare(there)
    })
  }

  async #wasUsedSince(since: Date | null): Promise<boolean> {
    const { rowCount } = await this.#connection.pool.query(
      `select from (select at from history union all select created_at from jobs) as done (at)
       where $1::timestamptz is null or at > $1 limit 1`,
      [since],
    )
    return (rowCount ?? 0) > 0
  }

  async #isHere(folder: string): Promise<boolean> {
    return (await this.#isAllowed(folder)) && isFolder(folder)
  }

  #elsewherePath(): string {
    return join(this.#folder, 'elsewhere.json')
  }

  async #elsewhere(): Promise<string | null> {
    const text = await readFile(this.#elsewherePath(), 'utf8').catch(() => null)
    if (text === null) return null
    try {
      return elsewhereShape.parse(JSON.parse(text)).folder
    } catch {
      return null
    }
  }
}

async function areOnOneDisk(...paths: readonly string[]): Promise<boolean> {
  const devices = await Promise.all(paths.map((path) => stat(path).catch(() => null)))
  return devices.every((info) => info !== null && info.dev === devices[0]?.dev)
}

/** The names of the copies in a folder, the newest first; none when it is not there. */
export async function ledgerCopiesIn(folder: string): Promise<string[]> {
  const names = await readdir(folder).catch(() => [])
  return names
    .filter((name) => copyTime(name) !== null)
    .sort()
    .reverse()
}

/** The copies in a folder with their sizes in bytes. */
async function copiesIn(folder: string): Promise<Map<string, number>> {
  const sizes = new Map<string, number>()
  for (const name of await ledgerCopiesIn(folder)) {
    const info = await lstat(join(folder, name)).catch(() => null)
    if (info?.isFile()) sizes.set(name, info.size)
  }
  return sizes
}

/** A ledger takes less room as a copy than in its database, in which it needs indexes. */
async function assertRoom(pool: pg.Pool, folder: HeldFolder): Promise<void> {
  const { rows } = await pool.query('select pg_database_size(current_database()) as bytes')
  const why = whyNoRoom('The ledger', Number(rows[0].bytes), await folder.freeBytes(), `in ${folder.path}`)
  if (why) throw new PlainError('no-room', why)
}

const copyAcross = (here: HeldFolder, there: HeldFolder, name: string): Promise<void> =>
  placeCopy(there, name, async (file) => {
    const from = await here.open(name)
    await pipeline(from.createReadStream(), file.createWriteStream({ flush: true }))
  })

/** What an attempt that died has left. */
async function removeParts(folder: HeldFolder): Promise<void> {
  for (const name of await readdir(folder.at('.')))
    if (isPartOfCopy(name) && (await folder.look(name))?.isFile()) await unlink(folder.at(name))
}

/** Removes copies that newer ones make needless, each only when it is one by its content. */
async function removeSpare(folder: HeldFolder): Promise<void> {
  for (const name of spareCopies(await readdir(folder.at('.'))))
    if (await describeLedgerCopy(folder, name).catch(() => null)) await unlink(folder.at(name))
}
