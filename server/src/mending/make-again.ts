import { basename, join } from 'node:path'
import type { LinkChange } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { explainFileError, notFound, PlainError } from '../errors.ts'
import { addJob } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { record } from '../store/history.ts'
import { files, mends, pairFiles, pairs, volumes } from '../store/schema.ts'
import { placeFile as locate, readWorld } from '../store/world.ts'
import { belowMade, madeVolume } from '../work/made-item.ts'
import { keptFolder, moveIfThere } from '../work/place.ts'
import { type MendRow, undoLinks } from './links.ts'

/** What an adopted proxy is made again with: nobody knows the recipe of the one that it replaces. */
const recipeForAdopted = 'half-h264-intra'

/** Queues the making of some pairs' proxies again. Each is a mend of its own that is done when its job is. */
export async function makeAgain(database: Database, cutId: string, productionId: string, pairIds: readonly string[]): Promise<MendRow[]> {
  const world = await readWorld(database, productionId)
  return database.transaction(async (transaction) => {
    const queued: MendRow[] = []
    for (const pairId of new Set(pairIds)) {
      const pair = world.pairs.get(pairId)
      if (!pair) throw notFound('This pair')
      const clip = world.clips.get(pair.clipId)
      if (clip?.presence !== 'here')
        throw new PlainError(
          'original-missing',
          `The proxy ${pair.name} cannot be made again: its original is not here. Mend the original first.`,
          { status: 409 },
        )
      const recipeId = pair.recipeId ?? recipeForAdopted
      const change: LinkChange = {
        link: { kind: 'pair', clipId: clip.id, recipeId },
        before: pair.id,
        after: null,
        label: `${clip.name}: make the proxy again`,
      }
      const [mend] = await transaction
        .insert(mends)
        .values({
          productionId,
          cutId,
          kind: 'make again',
          title: `Make the proxy of ${clip.name} again`,
          changes: [change],
          state: 'waiting',
        })
        .returning()
      queued.push(mend as MendRow)
      await addJob(transaction, productionId, `Make ${clip.name} again`, {
        kind: 'make',
        clipId: clip.id,
        recipeId,
        mendId: (mend as MendRow).id,
      })
    }
    await announce(transaction, productionId, 'mends')
    return queued
  })
}

/** Takes a mend back, whatever kind it is. */
export async function undoMend(database: Database, mend: MendRow): Promise<void> {
  if (mend.state !== 'done')
    throw new PlainError(
      'not-done',
      mend.state === 'undone' ? 'This mend was taken back already.' : 'This mend is not done, so there is nothing to take back.',
      { status: 409 },
    )
  await database.transaction(async (transaction) => {
    // The lock keeps a second undo out until this one is written.
    const [locked] = await transaction.select().from(mends).where(eq(mends.id, mend.id)).for('update')
    if (locked?.state !== 'done') throw new PlainError('not-done', 'This mend was taken back already.', { status: 409 })
    if (mend.kind === 'repoint') await undoLinks(transaction, mend)
    else await exchangePairs(transaction, mend)
    await transaction.update(mends).set({ state: 'undone', undoneAt: new Date() }).where(eq(mends.id, mend.id))
    await announce(transaction, mend.productionId, 'mends', 'cuts', 'pairs', 'clips', 'volumes')
  })
}

/** Sets the newer made item aside and puts what it replaced back in use; only files that Ennick made are moved. */
async function exchangePairs(transaction: Transaction, mend: MendRow): Promise<void> {
  const world = await readWorld(transaction, mend.productionId)
  const made = madeVolume(world)
  const after = mend.changes[0]?.after
  const now = after ? world.pairs.get(after) : undefined
  if (!now)
    throw new PlainError('mend-conflict', 'The proxy that this mend made was replaced since: take that mend back first.', { status: 409 })
  const earlier = mend.changes.flatMap((change) => (change.before === null ? [] : [change.before]))
  const places = now.files.map(({ file }) => file.fullPath)
  try {
    for (const path of places) await moveIfThere(path, join(keptFolder(made.rootPath, now.id), basename(path)))
    for (const { file } of now.files)
      await move(transaction, file.id, belowMade(made, join(keptFolder(made.rootPath, now.id), basename(file.path))))
    for (const pairId of earlier) await bringBack(transaction, made, pairId, places)
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code) throw new PlainError('cannot-move', explainFileError(error, made.rootPath), { status: 409 })
    throw error
  }
  await transaction.update(pairs).set({ isActive: false }).where(eq(pairs.id, now.id))
  for (const pairId of earlier) await transaction.update(pairs).set({ isActive: true }).where(eq(pairs.id, pairId))
  for (const change of mend.changes) await record(transaction, mend.productionId, 'mend', now.clipId, `taken back: ${change.label}`)
}

const move = (transaction: Transaction, fileId: string, path: string) => transaction.update(files).set({ path }).where(eq(files.id, fileId))

/** An earlier item's files go back to where the newer ones stood: both were made of one clip by one recipe. */
async function bringBack(
  transaction: Transaction,
  made: typeof volumes.$inferSelect,
  pairId: string,
  places: readonly string[],
): Promise<void> {
  for (const { row, fullPath } of await filesOf(transaction, pairId)) {
    if (!row.path.startsWith('.kept/')) continue
    const home = places.find((place) => basename(place) === basename(row.path)) ?? join(made.rootPath, basename(row.path))
    await moveIfThere(fullPath, home)
    await move(transaction, row.id, belowMade(made, home))
  }
}

async function filesOf(database: Queryable, pairId: string): Promise<{ row: typeof files.$inferSelect; fullPath: string }[]> {
  const rows = await database
    .select({ row: files, volume: volumes })
    .from(pairFiles)
    .innerJoin(files, eq(files.id, pairFiles.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(eq(pairFiles.pairId, pairId))
    .orderBy(pairFiles.ordinal)
  return rows.map(({ row, volume }) => ({ row, fullPath: locate(row, volume).fullPath }))
}
