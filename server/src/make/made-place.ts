import { randomUUID } from 'node:crypto'
import { mkdir, readdir, rmdir, unlink } from 'node:fs/promises'
import { basename, join } from 'node:path'
import type { MadePlace } from '@ennick/contract'
import { and, eq } from 'drizzle-orm'
import { freeBytes } from '../disk/free-space.ts'
import { withHeld } from '../disk/held-folder.ts'
import { markerName, readMarker, writeMarker } from '../disk/marker.ts'
import { explainFileError, isFileError, notFound, PlainError } from '../errors.ts'
import { readMakesUnderWay } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { VolumeRow } from '../store/material.ts'
import { files, volumes } from '../store/schema.ts'

/** Where what Ennick makes of a production lies, and how much of it there is. */
export async function readMadePlace(database: Queryable, productionId: string): Promise<MadePlace> {
  const made = await readMadeVolume(database, productionId)
  const known = await database.select({ sizeBytes: files.sizeBytes }).from(files).where(eq(files.volumeId, made.id))
  return {
    path: made.rootPath,
    isHere: made.isHere,
    freeBytes: made.isHere ? await freeBytes(made.rootPath).catch(() => null) : null,
    files: known.length,
    bytes: known.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0),
  }
}

/** The volume of what Ennick makes of a production, as it is now. */
export async function readMadeVolume(database: Queryable, productionId: string): Promise<VolumeRow> {
  const [made] = await database
    .select()
    .from(volumes)
    .where(and(eq(volumes.productionId, productionId), eq(volumes.kind, 'made')))
  if (!made) throw notFound('The place of what Ennick makes')
  return made
}

/**
 * Has what Ennick makes go to another folder. While nothing was made yet, a folder of its own is made there; after that
 * nothing is moved by Ennick: a person moves the whole folder, and it is known again by its marker.
 * @param folder one that may be used, really where it says
 * @throws PlainError with the reason why it stays where it is
 */
export async function changeMadePlace(database: Database, productionId: string, folder: string): Promise<void> {
  await database.transaction(async (transaction) => {
    const found = await readMadeVolume(transaction, productionId)
    const [made] = await transaction.select().from(volumes).where(eq(volumes.id, found.id)).for('update')
    if (!made) throw notFound('The place of what Ennick makes')
    if (folder === made.rootPath) return
    if ((await readMakesUnderWay(transaction, productionId)).size > 0)
      throw new PlainError(
        'making',
        'Something is being made. Wait until that has ended, or stop it, and choose then.',
        {
          status: 409,
        },
      )
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

/** A new folder in the chosen one, while nothing was made yet. */
async function begin(transaction: Transaction, made: VolumeRow, folder: string): Promise<void> {
  const known = await transaction.$count(files, eq(files.volumeId, made.id))
  const lying = (await readdir(made.rootPath).catch(() => [])).filter((name) => name !== markerName)
  if (known > 0 || lying.length > 0)
    throw new PlainError(
      'place-in-use',
      `Files lie in ${made.rootPath} already, and Ennick moves nobody’s files. Move that folder to where you want ` +
        'it, all of it, and choose it there: it is known by its marker.',
      { status: 409 },
    )
  const rootPath = join(folder, basename(made.rootPath))
  const markerId = randomUUID()
  try {
    await withHeld(folder, async (held) => {
      await mkdir(held.at(basename(rootPath)))
    })
    await writeMarker(rootPath, { volume: markerId, label: made.label })
  } catch (error) {
    if (isFileError(error)) throw new PlainError('no-place', explainFileError(error, rootPath), { status: 409 })
    throw error
  }
  await settle(transaction, made, { rootPath, markerId })
  await removeEmptyPlace(made)
}

/** The folder of a place that is one no more goes; whatever somebody put there meanwhile keeps it. */
export async function removeEmptyPlace({
  rootPath,
  markerId,
}: Pick<VolumeRow, 'rootPath' | 'markerId'>): Promise<void> {
  const others = (await readdir(rootPath).catch(() => [])).filter((name) => name !== markerName)
  if (others.length > 0 || (await readMarker(rootPath))?.volume !== markerId) return
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
    .set({ ...now, isHere: true, lastSeenAt: new Date() })
    .where(eq(volumes.id, made.id))
  const what = `What Ennick makes goes to ${now.rootPath} from now on; before, to ${made.rootPath}.`
  await writeHistory(transaction, made.productionId, 'production', made.productionId, what)
  await announce(transaction, made.productionId, 'volumes', 'pairs', 'clips', 'cuts')
}
