import { count, type LinkChange } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { readAllCutStates } from '../cuts/cut-state.ts'
import { fingerprint } from '../disk/fingerprint.ts'
import { PlainError } from '../errors.ts'
import { isAsKnown, stampOf } from '../intake/describe-file.ts'
import { clipCopies } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import type { KnownFile, VolumeRow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { placeOf } from '../store/place-words.ts'
import { volumes } from '../store/schema.ts'
import { applyMend, type MendRow, noneCreated } from './links.ts'
import { keepOthers } from './repoint.ts'
import { type LostHere, readLostHere, readMoved } from './same-content.ts'

/**
 * Points lost originals at files of their content below a folder of a volume, as one mend.
 * @returns how many originals that were
 */
export async function mendByCopies(
  database: Database,
  productionId: string,
  { volumeId, folder }: { volumeId: string; folder: string },
): Promise<number> {
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  const sure = volume ? await stillThere(await readLostHere(database, volume, folder)) : []
  if (sure.length === 0) return 0
  const originals = originalsOf(sure)
  const what = originals === 1 ? '1 original to its copy' : `${originals} originals to their copies`
  await pointAt(database, productionId, sure, `Repoint ${what} in ${folder}`)
  return originals
}

/**
 * Points originals that a volume knows at another place than where they are at where they are, as one mend.
 * @throws PlainError where none of them is there as the ledger knows it
 */
export async function repointMoved(database: Database, volume: VolumeRow): Promise<MendRow> {
  const sure = await stillThere(await readMoved(database, volume))
  if (sure.length === 0)
    throw new PlainError(
      'nothing-moved',
      `What the originals of “${volume.label}” could be pointed at has changed or left meanwhile. Scan again.`,
      { status: 409 },
    )
  const what = count(originalsOf(sure), 'original')
  const title = volume.isHere ? `Repoint ${what} on ${volume.label}` : `Repoint ${what} of ${volume.label} to copies`
  return pointAt(database, volume.productionId, sure, title)
}

const originalsOf = (found: readonly LostHere[]): number => new Set(found.map(({ clipId }) => clipId)).size

function pointAt(
  database: Database,
  productionId: string,
  found: readonly LostHere[],
  title: string,
): Promise<MendRow> {
  return applyMend(database, { productionId, kind: 'repoint', title }, async (transaction) => {
    const before = await readAllCutStates(transaction, await readMaterial(transaction, productionId))
    // What is only away is a copy, as soon as it is back.
    const away = found.filter(({ lost }) => lost.presence === 'away')
    if (away.length)
      await transaction
        .insert(clipCopies)
        .values(away.map(({ clipId, lost }) => ({ clipId, fileId: lost.id, isVerified: false })))
        .onConflictDoNothing()
    return {
      created: noneCreated,
      changes: found.map(({ clipId, name, ordinal, lost, there }): LinkChange => {
        const link = { kind: 'clip file' as const, clipId, ordinal }
        return { link, before: lost.id, after: there.id, label: `${name}: ${placeOf(lost)} → ${placeOf(there)}` }
      }),
      settle: () => keepOthers(transaction, productionId, before),
    }
  })
}

/** Each is read once more: what is no longer the content that the ledger knows is not pointed at. */
async function stillThere(found: readonly LostHere[]): Promise<LostHere[]> {
  const sure: LostHere[] = []
  for (const each of found) if (await isStill(each.there)) sure.push(each)
  return sure
}

async function isStill(file: KnownFile): Promise<boolean> {
  if (file.sequence) return isAsKnown(file)
  const stamp = await stampOf(file.fullPath).catch(() => null)
  if (stamp?.sizeBytes !== file.sizeBytes) return false
  return (await fingerprint(file.fullPath, file.sizeBytes).catch(() => null)) === file.fingerprint
}
