import {
  type MediaFacts,
  type PictureSignature,
  packSignature,
  shapesOf,
  signedFrames,
  signPictures,
  stretchStarts,
} from '@ennick/core'
import { sql } from 'drizzle-orm'
import { lookAt } from '../engine/look.ts'
import { decodeWhole } from '../engine/picture-proof.ts'
import { isAsKnown } from '../intake/describe-file.ts'
import { damageOf } from '../make/explain-failure.ts'
import type { WorkContext } from '../queue/context.ts'
import { announceClips } from '../store/announce.ts'
import { originalTrials, pictureSignatures } from '../store/catalogue-schema.ts'
import type { KnownFile, VolumeRow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { placeFile } from '../store/place-file.ts'
import { placeOf } from '../store/place-words.ts'
import type { files } from '../store/schema.ts'

type FileRow = typeof files.$inferSelect
type Context = Pick<WorkContext, 'database' | 'job' | 'signal'>

/**
 * Looks at a file at its head, its quarters and its tail: what its pictures look like is kept, and whether they can be
 * decoded. Of an original that cannot, the damaged frames are named.
 */
export async function lookAtFile(
  context: Context,
  row: FileRow,
  volume: VolumeRow,
  clipId: string | null,
): Promise<'clean' | 'damaged' | 'absent'> {
  const { database } = context
  const file = placeFile(row, volume)
  if (!file.facts || !(await isAsKnown(file))) return 'absent'
  const complaint = await complaintOf(context, file, file.facts, clipId)
  // What was decoded is of this content only if it is still there.
  if (!(await isAsKnown(file))) return 'absent'
  const outcome = complaint === null ? 'clean' : 'damaged'
  if (clipId === null) return outcome
  // A file that a mend had brought in may have left the ledger with it meanwhile.
  const { rowCount } = await database.execute(sql`
    insert into ${originalTrials} (file_id, fingerprint, complaint, tried_at)
    select id, ${file.fingerprint}, ${complaint}, now() from files where id = ${file.id} for key share
    on conflict (file_id) do update
    set fingerprint = excluded.fingerprint, complaint = excluded.complaint, tried_at = excluded.tried_at`)
  if (rowCount === 0) return 'absent'
  if (complaint !== null) await announceClips(database, volume.productionId, [clipId], 'clips', 'cuts')
  return outcome
}

/** What cannot be decoded, in a sentence. Of sound alone, which is quick, all is decoded. */
async function complaintOf(
  context: Context,
  file: KnownFile,
  facts: MediaFacts,
  clipId: string | null,
): Promise<string | null> {
  const { database, signal } = context
  if (!facts.picture) {
    const said = await decodeWhole(file.fullPath, null, { signal, isPolite: true })
    return said === null ? null : `${placeOf(file)} cannot be decoded: ${said}.`
  }
  const look = await lookAt({ ...file, facts }, stretchStarts(facts.picture.frames, signedFrames), signedFrames, signal)
  if (await isAsKnown(file)) await keepSignature(context, file.fingerprint, signPictures(look.stretches))
  if (look.broken.length === 0) return null
  const { clips } = clipId === null ? { clips: null } : await readMaterial(database, file.volume.productionId, [clipId])
  const clip = clips?.get(clipId ?? '')
  const named = clip ? await damageOf(clip, signal) : null
  return named ?? `${placeOf(file)} cannot be decoded at frame ${look.broken.join(' and ')}.`
}

async function keepSignature({ database }: Context, fingerprint: string, signature: PictureSignature): Promise<void> {
  const shapes = shapesOf(signature)
  const values = {
    fingerprint,
    signature: packSignature(signature),
    shapes: new Uint8Array(shapes.buffer, shapes.byteOffset, shapes.byteLength),
    takenAt: new Date(),
  }
  await database
    .insert(pictureSignatures)
    .values(values)
    .onConflictDoUpdate({ target: pictureSignatures.fingerprint, set: values })
}
