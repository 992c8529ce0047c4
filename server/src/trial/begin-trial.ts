import { randomUUID } from 'node:crypto'
import { count } from '@ennick/core'
import { eq, inArray } from 'drizzle-orm'
import type { CutState } from '../cuts/cut-state.ts'
import { PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { clipCopies, originalTrials } from '../store/catalogue-schema.ts'
import type { Database, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { KnownClip, KnownFile } from '../store/known-material.ts'
import type { ProductionRow } from '../store/production-row.ts'
import { addProduction } from '../store/productions.ts'
import {
  clipFiles,
  clips as clipTable,
  cuts,
  decisions,
  declaredRoles,
  events,
  files as fileTable,
  pairFiles,
  pairs as pairTable,
  productions,
  volumes,
} from '../store/schema.ts'
import { filesOfClip, whatItUses } from './what-it-uses.ts'

/** Rows written in one statement. */
const atOnce = 1000

/** New ids for old ones, also where one stands within a text. */
class Copied {
  readonly #ids = new Map<string, string>()

  of(id: string): string {
    const known = this.#ids.get(id)
    if (known) return known
    const fresh = randomUUID()
    this.#ids.set(id, fresh)
    return fresh
  }

  /** The same of what was copied; null of what was not. */
  known(id: string): string | null {
    return this.#ids.get(id) ?? null
  }

  /** A value with every id in it that was copied in place of the one that it was. */
  within<T>(value: T): T {
    const text = JSON.stringify(value)
    if (text === undefined) return value
    return JSON.parse(text.replace(/[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}/g, (id) => this.#ids.get(id) ?? id))
  }
}

/**
 * Makes a production of a cut alone, with what it uses: rows of the ledger are copied, and no file on any disk. What is
 * done there leaves the cut's own production as it is, until it is kept.
 * @throws PlainError for a cut of a trial
 */
export async function beginTrial(
  database: Database,
  dataFolder: string,
  state: CutState,
): Promise<{ productionId: string; cutId: string }> {
  const { row, material } = state
  const { production } = material
  if (production.trialOf)
    throw new PlainError('is-trial', 'This is a trial already: keep it or throw it away first.', { status: 409 })
  const { clips, loose } = whatItUses(state)
  const trial = await database.transaction(async (transaction) => {
    const made = await addProduction(transaction, dataFolder, {
      ...{ name: await freeName(transaction, `Trial of ${row.name}`), isDemo: false },
      ...{ rate: { numerator: production.rateNumerator, denominator: production.rateDenominator } },
      ...{ width: production.width, height: production.height, proxySuffixes: production.proxySuffixes },
    })
    const copied = new Copied()
    await copyFiles(transaction, made, production, copied, [...clips.flatMap(filesOfClip), ...loose])
    await copyClips(transaction, made, copied, clips)
    const copyId = await copyCut(transaction, made, copied, row.id)
    const { pathMappings, customColumns, logMapping, shown, target } = production
    const trialOf = {
      ...{ productionId: production.id, cutId: row.id, copyId },
      clips: clips.map(({ id }) => [copied.of(id), id] as const),
    }
    await transaction
      .update(productions)
      .set({ pathMappings, customColumns, logMapping, shown, target, trialOf })
      .where(eq(productions.id, made.id))
    const what = `Trial “${made.name}” begun, with ${count(clips.length, 'clip')} copied into a production of its own.`
    await writeHistory(transaction, production.id, 'cut', row.id, what)
    await announce(transaction, made.id, 'clips', 'pairs', 'cuts', 'volumes')
    return { productionId: made.id, cutId: copyId }
  })
  await announce(database, null, 'productions')
  return trial
}

async function freeName(transaction: Transaction, wanted: string): Promise<string> {
  const taken = new Set(
    (await transaction.select({ name: productions.name }).from(productions)).map(({ name }) => name),
  )
  let name = wanted.slice(0, 110)
  for (let number = 2; taken.has(name); number++) name = `${wanted.slice(0, 110)} (${number})`
  return name
}

/** Volumes and files; what Ennick made for the production is read there and never touched, as if others had made it. */
async function copyFiles(
  transaction: Transaction,
  trial: ProductionRow,
  production: ProductionRow,
  copied: Copied,
  wanted: readonly KnownFile[],
): Promise<void> {
  const files = [...new Map(wanted.map((file) => [file.id, file])).values()]
  const used = [...new Map(files.map(({ volume }) => [volume.id, volume])).values()]
  if (used.length)
    await transaction.insert(volumes).values(
      used.map((volume) => ({
        ...volume,
        ...{ id: copied.of(volume.id), productionId: trial.id, isWatched: false, growingFiles: 0 },
        ...(volume.kind === 'made' && {
          kind: 'folder' as const,
          label: `${volume.label}, for ${production.name}`,
          takes: [],
        }),
      })),
    )
  await writeAll(files, (some) =>
    transaction.insert(fileTable).values(
      some.map(({ volume, root: _, fullPath: __, presence: ___, ...file }) => ({
        ...file,
        ...{ id: copied.of(file.id), volumeId: copied.of(volume.id) },
      })),
    ),
  )
  const read = await readAll(
    files.map(({ id }) => id),
    (some) => transaction.select().from(originalTrials).where(inArray(originalTrials.fileId, some)),
  )
  await writeAll(read, (some) =>
    transaction.insert(originalTrials).values(some.map((row) => ({ ...row, fileId: copied.of(row.fileId) }))),
  )
}

async function copyClips(
  transaction: Transaction,
  trial: ProductionRow,
  copied: Copied,
  clips: readonly KnownClip[],
): Promise<void> {
  const ids = clips.map(({ id }) => id)
  for (const id of ids) copied.of(id)
  const rows = await readAll(ids, (some) => transaction.select().from(clipTable).where(inArray(clipTable.id, some)))
  await writeAll(rows, (some) =>
    transaction.insert(clipTable).values(
      some.map((row) => ({
        ...row,
        ...{ id: copied.of(row.id), productionId: trial.id, described: copied.within(row.described) },
      })),
    ),
  )
  const own = await readAll(ids, (some) => transaction.select().from(clipFiles).where(inArray(clipFiles.clipId, some)))
  await writeAll(own, (some) =>
    transaction
      .insert(clipFiles)
      .values(some.map((row) => ({ ...row, clipId: copied.of(row.clipId), fileId: copied.of(row.fileId) }))),
  )
  const copies = clips.flatMap(({ id, copies: list }) =>
    list.map(({ file, isVerified }) => ({ clipId: copied.of(id), fileId: copied.of(file.id), isVerified })),
  )
  await writeAll(copies, (some) => transaction.insert(clipCopies).values(some))
  await copyPairs(transaction, copied, clips)
  await keepRoles(transaction, copied, clips)
}

async function copyPairs(transaction: Transaction, copied: Copied, clips: readonly KnownClip[]): Promise<void> {
  const ids = clips.flatMap(({ pairs }) => pairs.map(({ id }) => id))
  for (const id of ids) copied.of(id)
  const rows = await readAll(ids, (some) => transaction.select().from(pairTable).where(inArray(pairTable.id, some)))
  await writeAll(rows, (some) =>
    transaction.insert(pairTable).values(
      some.map((row) => ({
        ...{ ...row, id: copied.of(row.id), clipId: copied.of(row.clipId) },
        ...{ origin: 'adopted' as const, laidSound: copied.within(row.laidSound) },
      })),
    ),
  )
  const own = await readAll(ids, (some) => transaction.select().from(pairFiles).where(inArray(pairFiles.pairId, some)))
  await writeAll(own, (some) =>
    transaction
      .insert(pairFiles)
      .values(some.map((row) => ({ ...row, pairId: copied.of(row.pairId), fileId: copied.of(row.fileId) }))),
  )
}

/** What a clip is no original by may not be in the trial: its role is said there. */
async function keepRoles(transaction: Transaction, copied: Copied, clips: readonly KnownClip[]): Promise<void> {
  const said = clips
    .filter(({ role, declaredRole }) => role !== 'original' || declaredRole !== null)
    .map(({ role, main }) => ({ volumeId: copied.of(main.volume.id), path: main.path, role }))
  await writeAll(said, (some) => transaction.insert(declaredRoles).values(some).onConflictDoNothing())
}

async function copyCut(transaction: Transaction, trial: ProductionRow, copied: Copied, cutId: string): Promise<string> {
  const [row] = await transaction.select().from(cuts).where(eq(cuts.id, cutId))
  const {
    id: _,
    lineId: __,
    version: ___,
    revision: ____,
    createdAt: _____,
    ...values
  } = row as typeof cuts.$inferSelect
  const [copy] = await transaction
    .insert(cuts)
    .values({ ...values, productionId: trial.id })
    .returning({ id: cuts.id })
  const { id } = copy as { id: string }
  const listed = await transaction.select().from(events).where(eq(events.cutId, cutId))
  await writeAll(listed, (some) =>
    transaction.insert(events).values(
      some.map(({ chosenClipId, ...event }) => ({
        ...{ ...event, cutId: id },
        chosenClipId: chosenClipId === null ? null : copied.known(chosenClipId),
      })),
    ),
  )
  const decided = await transaction.select().from(decisions).where(eq(decisions.cutId, cutId))
  await writeAll(decided, (some) =>
    transaction
      .insert(decisions)
      .values(some.map((row) => ({ ...row, cutId: id, findingKey: copied.within(row.findingKey) }))),
  )
  return id
}

async function readAll<Row>(ids: readonly string[], read: (some: string[]) => Promise<Row[]>): Promise<Row[]> {
  const rows: Row[] = []
  for (let index = 0; index < ids.length; index += atOnce) rows.push(...(await read(ids.slice(index, index + atOnce))))
  return rows
}

async function writeAll<Row>(rows: readonly Row[], write: (some: Row[]) => Promise<unknown>): Promise<void> {
  for (let index = 0; index < rows.length; index += atOnce) await write(rows.slice(index, index + atOnce))
}
