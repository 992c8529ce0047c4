import { randomUUID } from 'node:crypto'
import { mkdir, readdir, rmdir, unlink } from 'node:fs/promises'
import { basename, join } from 'node:path'
import type { MadePlace } from '@ennick/contract'
import { itemsOfKind, type PairKind, pairKinds } from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import { ifSoon } from '../disk/answering.ts'
import { freeBytes } from '../disk/free-space.ts'
import { withHeld } from '../disk/held-folder.ts'
import { markerName, readMarker, writeMarker } from '../disk/marker.ts'
import { explainFileError, isFileError, notFound, PlainError } from '../errors.ts'
import { readMakesUnderWay } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { VolumeRow } from '../store/known-material.ts'
import type { ProductionRow } from '../store/production-row.ts'
import { folderOfProduction, nameOfFolder } from '../store/productions.ts'
import { files, productions, volumes } from '../store/schema.ts'
import { madePlaces } from './made-item.ts'

/** Where what Ennick makes of a production lies, the main place first, and how much of it there is. */
export async function presentMadePlaces(database: Queryable, productionId: string): Promise<MadePlace[]> {
  const places = await readMadePlaces(database, productionId)
  const sums = await database
    .select({
      id: files.volumeId,
      files: sql<number>`count(*)::int`,
      bytes: sql<number>`sum(${files.sizeBytes})::float8`,
    })
    .from(files)
    .where(
      anyOf(
        files.volumeId,
        places.map(({ id }) => id),
      ),
    )
    .groupBy(files.volumeId)
  const sumOf = new Map(sums.map((row) => [row.id, row]))
  const given = new Set(places.slice(1).flatMap(({ takes }) => takes))
  return Promise.all(
    places.map(async ({ id, label, takes, rootPath, isHere }, index) => ({
      ...{ id, label, isMain: index === 0, path: rootPath, isHere },
      takes: index === 0 ? pairKinds.filter((kind) => !given.has(kind)) : takes,
      freeBytes: isHere ? await ifSoon(freeBytes(rootPath)) : null,
      ...{ files: sumOf.get(id)?.files ?? 0, bytes: sumOf.get(id)?.bytes ?? 0 },
    })),
  )
}

/** The places of what Ennick makes of a production as they are now, the main one first. */
export async function readMadePlaces(database: Queryable, productionId: string): Promise<VolumeRow[]> {
  return madePlaces({
    volumes: await database.select().from(volumes).where(eq(volumes.productionId, productionId)),
  })
}

/** One place, as it is now. */
export async function readMadePlace(database: Queryable, placeId: string): Promise<VolumeRow> {
  const [place] = await database
    .select()
    .from(volumes)
    .where(and(eq(volumes.id, placeId), eq(volumes.kind, 'made')))
  if (!place) throw notFound('This place of what Ennick makes')
  return place
}

/** The same, with nobody else changing the places of its production meanwhile. */
async function holdMadePlace(transaction: Transaction, placeId: string): Promise<VolumeRow> {
  const { productionId } = await readMadePlace(transaction, placeId)
  await holdProduction(transaction, productionId)
  return readMadePlace(transaction, placeId)
}

async function holdProduction(transaction: Transaction, productionId: string): Promise<ProductionRow> {
  const [row] = await transaction
    .select()
    .from(productions)
    .where(eq(productions.id, productionId))
    .for('no key update')
  if (!row) throw notFound('This production')
  return row
}

async function assertNothingIsMade(transaction: Transaction, productionId: string): Promise<void> {
  if ((await readMakesUnderWay(transaction, productionId)).size > 0)
    throw new PlainError('making', 'Something is being made. Wait until that has ended, or stop it, and choose then.', {
      status: 409,
    })
}

/**
 * Adds a place to which new items of some kinds go: a folder of the production's own in the chosen one. What was made
 * already stays where it is.
 * @param folder one that may be used, really where it says
 * @throws PlainError with the reason why there is none
 */
export async function addMadePlace(
  database: Database,
  productionId: string,
  { folder, label, takes }: { readonly folder: string; readonly label: string; readonly takes: readonly PairKind[] },
): Promise<void> {
  await database.transaction(async (transaction) => {
    const production = await holdProduction(transaction, productionId)
    await assertNothingIsMade(transaction, productionId)
    const known = await transaction.select().from(volumes).where(eq(volumes.productionId, productionId))
    if (known.some((volume) => volume.label === label))
      throw new PlainError('label-taken', `There is a volume or place called “${label}” already.`, { status: 409 })
    const rootPath = join(folder, `${folderOfProduction(production)}-${nameOfFolder(label)}`)
    const markerId = await makePlace(transaction, folder, { rootPath, label })
    const [place] = await transaction
      .insert(volumes)
      .values({ productionId, label, kind: 'made', rootPath, markerId, lastSeenAt: new Date() })
      .returning()
    for (const kind of takes) await giveKind(transaction, place as VolumeRow, kind)
    await announce(transaction, productionId, 'volumes')
  })
}

/** Has new items of a kind go to a place from now on. */
export async function setMadePlaceRule(
  database: Database,
  productionId: string,
  { kind, placeId }: { readonly kind: PairKind; readonly placeId: string },
): Promise<void> {
  await database.transaction(async (transaction) => {
    const place = await holdMadePlace(transaction, placeId)
    if (place.productionId !== productionId) throw notFound('This place of what Ennick makes')
    await assertNothingIsMade(transaction, productionId)
    await giveKind(transaction, place, kind)
    await announce(transaction, productionId, 'volumes')
  })
}

async function giveKind(transaction: Transaction, place: VolumeRow, kind: PairKind): Promise<void> {
  const { productionId } = place
  const [main, ...others] = await readMadePlaces(transaction, productionId)
  for (const { id, takes } of others) {
    const now = id === place.id ? [...new Set([...takes, kind])] : takes.filter((each) => each !== kind)
    if (now.length !== takes.length) await transaction.update(volumes).set({ takes: now }).where(eq(volumes.id, id))
  }
  const where = place.id === main?.id ? 'the main place' : `“${place.label}”`
  const what = `New ${itemsOfKind[kind]} go to ${where}, ${place.rootPath}, from now on.`
  await writeHistory(transaction, productionId, 'production', productionId, what)
}

/**
 * Gives up a place in which nothing is; what went there goes to the main one.
 * @throws PlainError with what keeps it
 */
export async function removeMadePlace(database: Database, placeId: string): Promise<void> {
  const place = await database.transaction(async (transaction) => {
    const held = await holdMadePlace(transaction, placeId)
    const { productionId, label, rootPath } = held
    const [main] = await readMadePlaces(transaction, productionId)
    if (main?.id === placeId)
      throw new PlainError('main-place', 'This is the main place of the production: it stays.', { status: 409 })
    await assertNothingIsMade(transaction, productionId)
    if (await hasFiles(transaction, held))
      throw new PlainError(
        'place-in-use',
        `Files lie in ${rootPath}. Release what Ennick made there in Pairs, and move away what is somebody’s.`,
        { status: 409 },
      )
    await transaction.delete(volumes).where(eq(volumes.id, placeId))
    await writeHistory(transaction, productionId, 'production', productionId, `The place “${label}” was given up.`)
    await announce(transaction, productionId, 'volumes')
    return held
  })
  await removeEmptyPlace(place)
}

/** Whether the ledger knows of files there, or anything but its marker and empty folders lies there. */
async function hasFiles(database: Queryable, { id, rootPath }: VolumeRow): Promise<boolean> {
  return (await contentOf(rootPath)).files > 0 || (await database.$count(files, eq(files.volumeId, id))) > 0
}

/** What lies in a place besides its marker: files of whatever kind, and folders, the inner ones first. */
async function contentOf(rootPath: string): Promise<{ files: number; folders: string[] }> {
  const entries = await readdir(rootPath, { recursive: true, withFileTypes: true }).catch(() => [])
  const folders = entries.filter((entry) => entry.isDirectory()).map((entry) => join(entry.parentPath, entry.name))
  const marker = entries.filter((entry) => entry.parentPath === rootPath && entry.name === markerName).length
  return {
    files: entries.length - folders.length - marker,
    folders: folders.sort((a, b) => b.length - a.length),
  }
}

/**
 * Has what goes to a place go to another folder. While nothing is in it, a folder of its own is made there; after that
 * nothing is moved by Ennick: a person moves the whole folder, and it is known again by its marker.
 * @param folder one that may be used, really where it says
 * @throws PlainError with the reason why it stays where it is
 */
export async function changeMadePlace(database: Database, placeId: string, folder: string): Promise<void> {
  await database.transaction(async (transaction) => {
    const made = await holdMadePlace(transaction, placeId)
    if (folder === made.rootPath) return
    await assertNothingIsMade(transaction, made.productionId)
    const marker = await readMarker(folder)
    if (marker !== null && marker.volume === made.markerId) await takeMoved(transaction, made, folder)
    else await begin(transaction, made, folder)
  })
}

/** The folder itself, which a person has moved. */
async function takeMoved(transaction: Transaction, made: VolumeRow, folder: string): Promise<void> {
  if ((await readMarker(made.rootPath))?.volume === made.markerId)
    throw new PlainError(
      'two-places',
      `${folder} is a copy: ${made.rootPath} is still there, with what was made. Move that one away first.`,
      { status: 409 },
    )
  await settle(transaction, made, { rootPath: folder, markerId: made.markerId })
}

/** A new folder in the chosen one, while nothing is in the one of before. */
async function begin(transaction: Transaction, made: VolumeRow, folder: string): Promise<void> {
  if (await hasFiles(transaction, made))
    throw new PlainError(
      'place-in-use',
      `Files lie in ${made.rootPath} already, and Ennick moves nobody’s files. Move that folder to where you want ` +
        'it, all of it, and choose it there: it is known by its marker.',
      { status: 409 },
    )
  const rootPath = join(folder, basename(made.rootPath))
  await settle(transaction, made, {
    rootPath,
    markerId: await makePlace(transaction, folder, { rootPath, label: made.label }),
  })
  await removeEmptyPlace(made)
}

/** Makes the folder of a place in a chosen one. @returns the id in its marker */
async function makePlace(
  transaction: Transaction,
  folder: string,
  { rootPath, label }: Pick<VolumeRow, 'rootPath' | 'label'>,
): Promise<string> {
  const all = await transaction.select().from(volumes).where(eq(volumes.kind, 'made'))
  const around = all.find((place) => folder === place.rootPath || folder.startsWith(`${place.rootPath}/`))
  if (around)
    throw new PlainError(
      'place-inside',
      `${folder} lies in “${around.label}” (${around.rootPath}), which is a place of made files itself. ` +
        'Choose a folder beside it.',
      { status: 409 },
    )
  const markerId = randomUUID()
  try {
    await withHeld(folder, async (held) => {
      await mkdir(held.at(basename(rootPath)))
    })
    await writeMarker(rootPath, { volume: markerId, label })
  } catch (error) {
    if (isFileError(error)) throw new PlainError('no-place', explainFileError(error, rootPath), { status: 409 })
    throw error
  }
  return markerId
}

/** The folder of a place that is one no more goes; whatever somebody put there meanwhile keeps it. */
export async function removeEmptyPlace({
  rootPath,
  markerId,
}: Pick<VolumeRow, 'rootPath' | 'markerId'>): Promise<void> {
  const { files: lying, folders } = await contentOf(rootPath)
  if (lying > 0 || (await readMarker(rootPath))?.volume !== markerId) return
  // One into which somebody puts something meanwhile stays: removing it fails.
  for (const folder of folders) await rmdir(folder).catch(() => undefined)
  await unlink(join(rootPath, markerName)).catch(() => undefined)
  await rmdir(rootPath).catch(() => undefined)
}

async function settle(
  transaction: Transaction,
  made: VolumeRow,
  now: { readonly rootPath: string; readonly markerId: string | null },
): Promise<void> {
  await transaction
    .update(volumes)
    .set({ ...now, isHere: true, isAllowed: true, isAnswering: true, lastSeenAt: new Date() })
    .where(eq(volumes.id, made.id))
  const what = `What goes to “${made.label}” lies at ${now.rootPath} from now on; before, at ${made.rootPath}.`
  await writeHistory(transaction, made.productionId, 'production', made.productionId, what)
  await announce(transaction, made.productionId, 'volumes', 'pairs', 'clips', 'cuts')
}
