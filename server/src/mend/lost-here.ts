import { groupBy, type LinkChange } from '@ennick/core'
import { and, asc, eq, isNotNull, isNull, not, notExists } from 'drizzle-orm'
import { readAllCutStates } from '../cuts/cut-state.ts'
import { fingerprint } from '../disk/fingerprint.ts'
import { stampOf } from '../intake/describe-file.ts'
import type { Database, Queryable } from '../store/database.ts'
import { readMaterial } from '../store/material.ts'
import { placeOf } from '../store/place-words.ts'
import { clipFiles, clips, files, volumes } from '../store/schema.ts'
import { isTakenOut } from '../store/taken-out.ts'
import { applyMend, noneCreated } from './links.ts'
import { keepOthers } from './repoint.ts'

/** A file of an original that is lost, and one of the very same content that no clip claims. */
interface LostHere {
  readonly clipId: string
  readonly name: string
  readonly ordinal: number
  readonly lost: { readonly id: string; readonly place: string }
  readonly there: {
    readonly id: string
    readonly path: string
    readonly place: string
    readonly sizeBytes: number
    readonly fingerprint: string
  }
}

/**
 * Files of originals that are lost and whose content lies on a volume, below a folder of it or anywhere, as far as the
 * ledger knows. Numbered stills are left to a search.
 */
export async function readLostHere(
  database: Queryable,
  volumeId: string,
  folder: string | null,
): Promise<readonly LostHere[]> {
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!volume) return []
  const there = await database
    .select()
    .from(files)
    .where(
      and(
        ...[eq(files.volumeId, volumeId), eq(files.isGone, false), isNotNull(files.facts), isNull(files.sequence)],
        notExists(database.select({ id: clipFiles.fileId }).from(clipFiles).where(eq(clipFiles.fileId, files.id))),
      ),
    )
  const lost = await database
    .select({ clip: clips, ordinal: clipFiles.ordinal, file: files, volume: volumes })
    .from(clipFiles)
    .innerJoin(clips, eq(clips.id, clipFiles.clipId))
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(
      and(eq(clips.productionId, volume.productionId), not(isTakenOut), eq(files.isGone, true), isNull(files.sequence)),
    )
    .orderBy(asc(clips.name), asc(clips.id), asc(clipFiles.ordinal))
  const free = groupBy(
    there.filter(({ path }) => folder === null || path.startsWith(`${folder}/`)),
    (file) => file.fingerprint,
  )
  // Which of several files of one content goes to which clip does not matter.
  return lost.flatMap(({ clip, ordinal, file, volume: home }): LostHere[] => {
    const next = free.get(file.fingerprint)?.shift()
    if (!next) return []
    const path = `${volume.rootPath}/${next.path}`
    return [
      {
        ...{
          clipId: clip.id,
          name: clip.name,
          ordinal,
          lost: { id: file.id, place: placeOf({ path: file.path, volume: home }) },
        },
        there: {
          id: next.id,
          path,
          place: placeOf({ path: next.path, volume }),
          sizeBytes: next.sizeBytes,
          fingerprint: next.fingerprint,
        },
      },
    ]
  })
}

/**
 * Points lost originals at files of their content below a folder of a volume, as one mend. Each is read once more: what
 * is no longer the content that the ledger knows is not pointed at.
 * @returns how many originals that were
 */
export async function mendByCopies(
  database: Database,
  productionId: string,
  { volumeId, folder }: { volumeId: string; folder: string },
): Promise<number> {
  const found = await readLostHere(database, volumeId, folder)
  const sure: LostHere[] = []
  for (const each of found) if (await isStill(each.there)) sure.push(each)
  if (sure.length === 0) return 0
  const originals = new Set(sure.map(({ clipId }) => clipId)).size
  const what = originals === 1 ? '1 original to its copy' : `${originals} originals to their copies`
  const title = `Repoint ${what} in ${folder}`
  await applyMend(database, { productionId, kind: 'repoint', title }, async (transaction) => {
    const before = await readAllCutStates(transaction, await readMaterial(transaction, productionId))
    return {
      created: noneCreated,
      changes: sure.map(({ clipId, name, ordinal, lost, there }): LinkChange => {
        const link = { kind: 'clip file' as const, clipId, ordinal }
        return { link, before: lost.id, after: there.id, label: `${name}: ${lost.place} → ${there.place}` }
      }),
      settle: () => keepOthers(transaction, productionId, before),
    }
  })
  return originals
}

async function isStill({ path, sizeBytes, fingerprint: known }: LostHere['there']): Promise<boolean> {
  const stamp = await stampOf(path).catch(() => null)
  if (stamp?.sizeBytes !== sizeBytes) return false
  return (await fingerprint(path, sizeBytes).catch(() => null)) === known
}
