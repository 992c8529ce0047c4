import type { TakenOutClip, TakeOutPreview } from '@ennick/contract'
import { formatNumber, takenOutKey } from '@ennick/core'
import { and, asc, eq } from 'drizzle-orm'
import { notFound } from '../errors.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database } from '../store/database.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { clipFiles, clips, files, volumes } from '../store/schema.ts'
import { syncedWith } from '../store/sound-link.ts'
import { isTakenOut } from '../store/taken-out.ts'
import { usesOfClips } from './uses.ts'
import { readCells, writeEdit } from './write-values.ts'

/**
 * Takes clips out of the production, or says what that comes to. No file is touched, nothing that is known of them is
 * lost, and scans leave their files alone; it is an edit, and is taken back like one.
 */
export async function takeOut(
  database: Database,
  material: Material,
  clipIds: readonly string[],
  apply: boolean,
): Promise<TakeOutPreview> {
  const chosen = [...new Set(clipIds)].map((id) => {
    const clip = material.clips.get(id)
    if (!clip) throw notFound('One of the clips')
    return clip
  })
  const preview = await whatItComesTo(database, material, chosen)
  if (apply)
    await setTakenOut(
      database,
      material.production.id,
      chosen.map(({ id, main }) => ({ clipId: id, content: main.fingerprint })),
    )
  return preview
}

async function whatItComesTo(
  database: Database,
  material: Material,
  chosen: readonly KnownClip[],
): Promise<TakeOutPreview> {
  const uses = await usesOfClips.given(database, material)
  const used = chosen.filter(({ id }) => uses.count(id) > 0)
  const made = chosen.flatMap(({ pairs }) => pairs).filter(({ origin }) => origin === 'made')
  return {
    clips: chosen.length,
    used: used.length,
    cuts: [...new Set(used.flatMap(({ id }) => uses.list(id).map(({ cutName }) => cutName)))],
    synced: syncedWith(material.clips.values(), new Set(chosen.map(({ id }) => id))).length,
    made: made.length,
    madeBytes: made.reduce((sum, pair) => sum + pair.files.reduce((bytes, { file }) => bytes + file.sizeBytes, 0), 0),
  }
}

/** What was taken out of a production and can be brought back. */
export async function listTakenOut(database: Database, productionId: string): Promise<TakenOutClip[]> {
  const rows = await database
    .select({ clipId: clips.id, name: clips.name, path: files.path, volumeLabel: volumes.label })
    .from(clips)
    .innerJoin(clipFiles, and(eq(clipFiles.clipId, clips.id), eq(clipFiles.ordinal, 0)))
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(and(eq(clips.productionId, productionId), isTakenOut))
    .orderBy(asc(clips.name), asc(clips.id))
  return rows
}

/** Brings clips back that were taken out; those that are in already stay so. */
export async function bringBack(database: Database, productionId: string, clipIds: readonly string[]): Promise<void> {
  const rows = await database
    .select({ id: clips.id })
    .from(clips)
    .where(and(eq(clips.productionId, productionId), anyOf(clips.id, clipIds), isTakenOut))
  await setTakenOut(
    database,
    productionId,
    rows.map(({ id }) => ({ clipId: id, content: null })),
  )
}

/** @param chosen clips with what they hold as they are taken out; null brings one back */
async function setTakenOut(
  database: Database,
  productionId: string,
  chosen: readonly { readonly clipId: string; readonly content: string | null }[],
): Promise<void> {
  const cells = chosen.map((each) => ({ ...each, field: takenOutKey }))
  const isOut = chosen.some(({ content }) => content !== null)
  const words = cells.length === 1 ? 'A clip' : `${formatNumber(cells.length)} clips`
  await database.transaction(async (transaction) => {
    const now = await readCells(transaction, cells)
    await writeEdit(
      transaction,
      productionId,
      isOut ? `${words} taken out of the production` : `${words} brought back`,
      cells.map(({ content, ...cell }) => ({
        ...cell,
        before: now(cell),
        after: content === null ? null : { value: content, from: 'person' as const },
      })),
    )
  })
}
