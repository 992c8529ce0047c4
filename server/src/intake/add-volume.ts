import type { NewVolume } from '@ennick/contract'
import { and, eq, sql } from 'drizzle-orm'
import { readMarker } from '../disk/marker.ts'
import { rootIdentity } from '../disk/volume-presence.ts'
import { signatureOf } from '../engine/file-system.ts'
import { PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { lockClasses } from '../store/lock-classes.ts'
import { volumes } from '../store/schema.ts'
import { holdsNothingKnown } from './another-box.ts'
import { keptLabel } from './box-label.ts'

/**
 * Adds a folder that is there as a volume; it is not scanned yet.
 * @throws PlainError where its label or its folder is another volume's
 */
export async function addVolume(
  database: Database,
  productionId: string,
  wanted: Omit<typeof volumes.$inferInsert, 'productionId' | 'box'> & { readonly box: NewVolume['box'] },
): Promise<VolumeRow> {
  const { label, rootPath, kind, box } = wanted
  const known = { signature: await signatureOf(rootPath), ...(await rootIdentity(rootPath)) }
  const volume = await database.transaction(async (transaction) => {
    await transaction.execute(sql`select pg_advisory_xact_lock(${lockClasses.volumes}, hashtext(${productionId}))`)
    await assertNew(transaction, productionId, { label, rootPath })
    // What was at its place is known to be another box, and is asked for from now on.
    await transaction
      .update(volumes)
      .set({ isHere: false })
      .where(and(eq(volumes.productionId, productionId), eq(volumes.rootPath, rootPath)))
    const [row] = await transaction
      .insert(volumes)
      .values({
        ...wanted,
        ...{ box: keptLabel(box), productionId, lastSeenAt: new Date(), isWatched: kind === 'upload' },
        ...known,
      })
      .returning()
    return row as VolumeRow
  })
  await writeHistory(database, productionId, 'volume', volume.id, `Volume “${label}” added at ${rootPath}.`)
  await announce(database, productionId, 'volumes')
  return volume
}

/**
 * Two boxes of one label cannot be told apart, and a folder inside another would count twice: both are asked, not
 * guessed.
 */
export async function assertNew(
  database: Queryable,
  productionId: string,
  wanted: { label: string | null; rootPath: string | null },
  ownId = '',
): Promise<void> {
  const { label, rootPath } = wanted
  const others = (await database.select().from(volumes).where(eq(volumes.productionId, productionId))).filter(
    (volume) => volume.id !== ownId,
  )
  const sameLabel = others.find((volume) => volume.label === label)
  if (sameLabel)
    throw new PlainError(
      'label-taken',
      `There is a volume labelled “${label}” already, at ${sameLabel.rootPath}. If this is that one, say in its row where it lies now. If it is another box, write another label on it: two of one label cannot be told apart.`,
      { status: 409 },
    )
  if (rootPath === null) return
  for (const sameRoot of others.filter((volume) => volume.rootPath === rootPath))
    if (!(await holdsNothingKnown(database, sameRoot)))
      throw new PlainError('folder-taken', `${rootPath} is volume “${sameRoot.label}” already.`, { status: 409 })
  const overlapping = others.find(
    (volume) => rootPath.startsWith(`${volume.rootPath}/`) || volume.rootPath.startsWith(`${rootPath}/`),
  )
  if (overlapping)
    throw new PlainError(
      'folder-overlaps',
      `${rootPath} and volume “${overlapping.label}” (${overlapping.rootPath}) lie inside each other: their files would count twice.`,
      { status: 409 },
    )
  const marker = await readMarker(rootPath)
  const marked = marker && others.find((volume) => volume.markerId === marker.volume)
  if (marked)
    throw new PlainError(
      'known-volume',
      `${rootPath} carries the marker of “${marked.label}”, which was at ${marked.rootPath}. Say in its row that it lies here now.`,
      { status: 409 },
    )
}
