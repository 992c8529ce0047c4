import { dirname, join } from 'node:path'
import { describeCopy, isCuredByCopy, type LinkChange, type StampedCopy, silenceIn } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { packetHash } from '../engine/packets.ts'
import { restampCopy } from '../engine/restamp.ts'
import { notFound, PlainError } from '../errors.ts'
import { orWait } from '../intake/assert-volume-here.ts'
import { type DescribedFile, describeFile, stampOf } from '../intake/describe-file.ts'
import { placeOfKind } from '../make/made-item.ts'
import { planCopyOf } from '../pairs/stamped-copy.ts'
import type { WorkContext } from '../queue/context.ts'
import { endJob } from '../queue/end-job.ts'
import { JobFailure } from '../queue/failure.ts'
import { addJob } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import type { Database, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { KnownClip, KnownFile, KnownPair, Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { pairEvidence } from '../store/pair-evidence.ts'
import { placeOf } from '../store/place-words.ts'
import { files, mends, pairs } from '../store/schema.ts'
import { tiePair } from '../store/tie-pair.ts'
import type { MendRow } from './links.ts'
import { type PlacedCopy, placeCopy } from './place-copy.ts'

/** How a pair's item is set right by a copy. @throws what is made of the reason why it is not */
function planOf(clip: KnownClip, pair: KnownPair, refuse: (sentence: string) => Error): StampedCopy {
  const plan = planCopyOf(clip, pair)
  if ('refusal' in plan) throw refuse(`${pair.name} is not mended by a copy: ${plan.refusal}.`)
  return plan.copy
}

/**
 * Queues copies of some pairs' items with the timecode, drop flag, reel and channels of their originals. No picture is
 * encoded.
 */
export async function restamp(
  database: Database,
  productionId: string,
  pairIds: readonly string[],
): Promise<MendRow[]> {
  const material = await readMaterial(database, productionId)
  return database.transaction(async (transaction) => {
    const queued: MendRow[] = []
    for (const pairId of new Set(pairIds)) {
      const pair = material.pairs.get(pairId)
      const clip = pair && material.clips.get(pair.clipId)
      if (!pair || !clip) throw notFound('This pair')
      const copy = planOf(clip, pair, (sentence) => new PlainError('not-a-stamp', sentence, { status: 409 }))
      const [mend] = await transaction
        .insert(mends)
        .values({
          productionId,
          kind: 'restamp',
          title: `Restamp ${pair.name}`,
          changes: [changeOf(clip, pair, copy, null)],
          state: 'waiting',
        })
        .returning()
      queued.push(mend as MendRow)
      const mendId = (mend as MendRow).id
      await addJob(transaction, productionId, `Restamp ${pair.name}`, { kind: 'restamp', pairId, mendId })
    }
    await announce(transaction, productionId, 'mends')
    return queued
  })
}

const changeOf = (clip: KnownClip, pair: KnownPair, copy: StampedCopy, after: string | null): LinkChange => ({
  link: { kind: 'pair', clipId: clip.id, recipeId: 'restamp' },
  before: pair.id,
  after,
  label: `${clip.name}: a copy of ${pair.name} ${describeCopy(copy)}`,
})

/**
 * Makes the copy in a place of made files, proves that its pictures are the same packet for packet and that its facts
 * are the original's, and puts it in use in place of the other, whose file is not touched.
 * @returns null: the job's end is written together with the pair
 */
export async function restampPair(
  context: WorkContext,
  { pairId, mendId }: { pairId: string; mendId: string },
): Promise<null> {
  const { database, job, config, signal } = context
  const [row] = await database.select({ clipId: pairs.clipId }).from(pairs).where(eq(pairs.id, pairId))
  const material = await readMaterial(database, job.productionId, row ? [row.clipId] : [], config.pathMap)
  const pair = material.pairs.get(pairId)
  const clip = pair && material.clips.get(pair.clipId)
  if (!pair || !clip) throw new JobFailure('The pair was taken apart, or replaced, before it was restamped.')
  const { file } = pair.files[0] as { file: KnownFile }
  const place = placeOfKind(material, pair.kind)
  await orWait(
    context,
    () => [file.volume, place],
    'It is restamped by itself when that is back.',
    async () => {
      const copy = planOf(clip, pair, (sentence) => new JobFailure(sentence))
      await placeCopy(
        context,
        { place, file, folder: join('restamped', dirname(file.path)) },
        (to) => stampedCopy(material, clip, { file, copy }, to, signal),
        (transaction, placed) => settle(transaction, context, { clip, pair, copy, mendId, placed }),
      )
    },
  )
  return null
}

/** @throws JobFailure when the copy is not what it has to be */
async function stampedCopy(
  material: Material,
  clip: KnownClip,
  { file, copy }: { readonly file: KnownFile; readonly copy: StampedCopy },
  to: string,
  signal: AbortSignal,
): Promise<DescribedFile> {
  const { facts } = clip.main
  if (!facts || !file.facts) throw new JobFailure(`${clip.name} cannot be read.`)
  const stamp = { facts, reel: clip.reel }
  const complaint = await restampCopy({ path: file.fullPath, facts: file.facts }, stamp, copy.sound, to, signal)
  if (complaint !== null) throw new JobFailure(`${placeOf(file)} could not be copied: ${complaint}`)
  const [before, after] = [await packetHash(file.fullPath, signal), await packetHash(to, signal)]
  if (before === null || before !== after)
    throw new JobFailure(`The copy of ${placeOf(file)} does not have its pictures. Nothing was kept of it.`)
  const described = await describeFile(to, await stampOf(to), { signal })
  const part = { file: { ...described, path: file.path }, part: 'whole' } as const
  const raster = { contentWidth: null, contentHeight: null, laidSound: null }
  const rows = pairEvidence(clip, clip.main, [part], raster, material.production.proxySuffixes) ?? []
  const wrong = rows.filter((row) => !row.agrees && isCuredByCopy(row))
  if (wrong.length || described.facts === null) {
    const lost = wrong.map((row) => `${row.aspect} ${row.found} instead of ${row.expected}`).join('; ')
    throw new JobFailure(
      `${file.facts.container} does not keep what the copy is to have: ${lost}. ` +
        'Nothing was kept of the copy: make it again instead.',
    )
  }
  return described
}

async function settle(
  transaction: Transaction,
  { job }: WorkContext,
  given: {
    readonly clip: KnownClip
    readonly pair: KnownPair
    readonly copy: StampedCopy
    readonly mendId: string
    readonly placed: PlacedCopy<DescribedFile>
  },
): Promise<void> {
  const { clip, pair, copy, mendId, placed } = given
  const { described, place, path } = placed
  const [held] = await transaction.select().from(pairs).where(eq(pairs.id, pair.id)).for('update')
  if (!held?.isActive) throw new JobFailure(`${pair.name} was replaced meanwhile. Nothing was kept of this copy.`)
  await transaction.update(pairs).set({ isActive: false }).where(eq(pairs.id, pair.id))
  const values = { ...described, volumeId: place.id, path, isGone: false, seenAt: new Date() }
  const [row] = await transaction.insert(files).values(values).returning({ id: files.id })
  const item = { name: pair.name, kind: pair.kind, origin: 'made', proof: silenceIn(copy) } as const
  const file = { ...(row as { id: string }), fingerprint: described.fingerprint, part: 'whole' } as const
  const after = await tiePair(transaction, clip, item, [file])
  const change = changeOf(clip, pair, copy, after)
  await transaction
    .update(mends)
    .set({ changes: [change], state: 'done' })
    .where(eq(mends.id, mendId))
  await writeHistory(transaction, job.productionId, 'pair', after, `${change.label}. ${pair.name} itself is untouched.`)
  await endJob(transaction, job, { kind: 'restamp', pairId: after })
  await announce(transaction, job.productionId, 'jobs', 'pairs', 'clips', 'cuts', 'mends')
}
