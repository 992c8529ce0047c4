import type { Release } from '@ennick/contract'
import { and, eq } from 'drizzle-orm'
import { isAtRisk } from '../clips/notices.ts'
import { explainFailure, isFileError } from '../errors.ts'
import { isAsKnown } from '../intake/describe-file.ts'
import { madePlaces } from '../make/made-item.ts'
import { filesOfPair } from '../make/made-moves.ts'
import { NotOurs, withPlacements } from '../placements/placements.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { KnownClip, KnownPair, Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { placeOf } from '../store/place-words.ts'
import { files, pairs } from '../store/schema.ts'
import { mendRests, pairsOfMends } from './resting.ts'

/**
 * Frees space by deleting made files, each pair in an act of its own. Deleted is only what Ennick made and can make
 * again: its recipe is stored, and its original, and the recording that was laid, are here, unchanged, whole, and not on
 * a volume that leaves alone. All else is kept, with the reason.
 * @param apply false answers what would be deleted
 */
export async function releasePairs(
  database: Database,
  productionId: string,
  pairIds: readonly string[],
  apply: boolean,
): Promise<Release> {
  const material = await readMaterial(database, productionId)
  const resting = await pairsOfMends(database, productionId)
  const result: Release = { released: 0, bytes: 0, kept: [] }
  for (const pairId of new Set(pairIds)) {
    const pair = material.pairs.get(pairId)
    const clip = pair && material.clips.get(pair.clipId)
    if (!pair || !clip) continue
    const reason =
      (await whyKept(material, clip, pair, resting)) ??
      (apply ? await deletePair(database, material, clip, pair) : null)
    if (reason !== null) result.kept.push({ pairId, name: pair.name, reason })
    else {
      result.released++
      result.bytes += bytesOf(pair)
    }
  }
  if (apply && result.released) {
    const freed = `${result.released} made ${result.released === 1 ? 'item' : 'items'}, ${result.bytes} bytes`
    await writeHistory(database, productionId, 'production', productionId, `Released ${freed}. Each can be made again.`)
    await announce(database, productionId, 'pairs', 'clips', 'cuts', 'volumes')
  }
  return result
}

/** Made items that could be released, as far as the ledger knows: their originals are looked at when that is asked. */
export async function releasable(database: Queryable, material: Material): Promise<{ items: number; bytes: number }> {
  const resting = await pairsOfMends(database, material.production.id)
  const free = [...material.pairs.values()].filter((pair) => {
    const clip = material.clips.get(pair.clipId)
    return clip !== undefined && bytesOf(pair) > 0 && whyKeptByLedger(material, clip, pair, resting) === null
  })
  return { items: free.length, bytes: free.reduce((sum, pair) => sum + bytesOf(pair), 0) }
}

const bytesOf = (pair: KnownPair): number =>
  pair.files.reduce((sum, { file }) => sum + (file.presence === 'here' ? file.sizeBytes : 0), 0)

/** Why a pair is not deleted, as far as the ledger knows; null when it may be. */
function whyKeptByLedger(
  material: Material,
  clip: KnownClip,
  pair: KnownPair,
  resting: ReadonlySet<string>,
): string | null {
  if (pair.origin !== 'made') return 'It was made elsewhere: Ennick deletes only what it made.'
  if (!pair.recipe || !material.recipes.has(pair.recipeId ?? ''))
    return 'The recipe that it was made with is not stored: it could not be made again.'
  if (resting.has(pair.id)) return mendRests
  if (pair.files.some(({ file }) => file.presence === 'away')) return 'Its own volume is away.'
  const why = whyNotToBeHad(clip, 'Its original')
  if (why !== null) return why
  if (pair.originalChanged) return 'Its original is another than it was made of: it could not be made again as it is.'
  if (clip.role !== 'original') return `What it was made of is no original: ${clip.roleReason ?? clip.role}.`
  return whyNotLaidAgain(material, pair)
}

/** Why nothing could be made again of a clip now, or soon; null where it could. @param what it is, for a sentence */
function whyNotToBeHad(clip: KnownClip, what: string): string | null {
  const volume = clip.main.volume.label
  if (clip.presence === 'away') return `${what} is on volume “${volume}”, which is away.`
  if (clip.presence === 'gone') return `${what} is not on volume “${volume}” any more: this may be the last copy.`
  if (clip.damage !== null) return `${what} is damaged: ${clip.damage}`
  return isAtRisk(clip) ? `${what} is only on “${volume}”, which leaves again.` : null
}

/** Why the sound of a recording could not be laid again as it was; null where it could, or none was. */
function whyNotLaidAgain(material: Material, { laidSound }: KnownPair): string | null {
  const recordings = recordingsLaid(material, laidSound)
  if (recordings.length < (laidSound?.soundIds.length ?? 0))
    return 'A recording that was laid is no clip of the production any more: this may be the last copy of it.'
  for (const [index, recording] of recordings.entries()) {
    const what = `Its recording ${recording.name}`
    const why = whyNotToBeHad(recording, what)
    if (why !== null) return why
    const content = recording.files.map(({ fingerprint }) => fingerprint).join(' ')
    if (content !== (laidSound?.fingerprints?.[index] ?? content))
      return `${what} is another than was laid: it could not be made again as it is.`
  }
  return null
}

const recordingsLaid = ({ clips }: Material, laidSound: KnownPair['laidSound']): KnownClip[] =>
  (laidSound?.soundIds ?? []).flatMap((id) => clips.get(id) ?? [])

/** The same; what it was made of is looked at on disk as well, whatever the ledger says. */
async function whyKept(
  material: Material,
  clip: KnownClip,
  pair: KnownPair,
  resting: ReadonlySet<string>,
): Promise<string | null> {
  const known = whyKeptByLedger(material, clip, pair, resting)
  if (known !== null) return known
  for (const file of [
    ...clip.files,
    ...recordingsLaid(material, pair.laidSound).flatMap((recording) => recording.files),
  ])
    if (!(await isAsKnown(file))) return `${placeOf(file)}, which it was made of, is not as it was: check again first.`
  return null
}

/** @returns why it was kept after all */
async function deletePair(
  database: Database,
  material: Material,
  clip: KnownClip,
  pair: KnownPair,
): Promise<string | null> {
  try {
    return await withPlacements(
      database,
      madePlaces(material),
      `release of ${pair.name}`,
      async (transaction, moves) => {
        const held = await transaction
          .select()
          .from(pairs)
          .where(and(eq(pairs.id, pair.id), eq(pairs.isActive, true)))
          .for('update')
        // Where its files lie is read here: an act before may have moved them.
        const own = await filesOfPair(transaction, pair.id)
        if (held.length === 0 || own.length === 0) return 'It was replaced or untied meanwhile.'
        for (const file of own) await moves.discard(file)
        await transaction.delete(pairs).where(eq(pairs.id, pair.id))
        const ids = own.map(({ id }) => id)
        await transaction.delete(files).where(anyOf(files.id, ids))
        await writeHistory(
          transaction,
          material.production.id,
          'clip',
          clip.id,
          `Released ${pair.name} (${pair.recipe?.name}, version ${pair.recipeVersion}): deleted to free space.`,
        )
        return null
      },
    )
  } catch (error) {
    if (error instanceof NotOurs) return error.message
    if (isFileError(error)) return explainFailure(error)
    throw error
  }
}
