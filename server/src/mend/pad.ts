import { dirname, join } from 'node:path'
import { count, invert, type LinkChange, legalWords, samplesToPad } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { readAllCutStates, readCutState } from '../cuts/cut-state.ts'
import { padWaveCopy } from '../engine/pad-wave.ts'
import { PlainError } from '../errors.ts'
import { orWait } from '../intake/assert-volume-here.ts'
import { type DescribedFile, describeFile, stampOf } from '../intake/describe-file.ts'
import { placeOfKind } from '../make/made-item.ts'
import type { Moves } from '../placements/placements.ts'
import type { WorkContext } from '../queue/context.ts'
import { endJob } from '../queue/end-job.ts'
import { JobFailure } from '../queue/failure.ts'
import { addJob } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { KnownClip, KnownFile } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { placeOf } from '../store/place-words.ts'
import { files, mends } from '../store/schema.ts'
import { assertNothingRestsOn, changeLinks, holdAgain, type MendRow, recordChanges, rememberHeld } from './links.ts'
import { type PlacedCopy, placeCopy } from './place-copy.ts'
import { keepOthers } from './repoint.ts'

/**
 * Queues copies of the recordings of some findings with the silence that is missing at their end, each as long as the
 * longest of them needs. The recordings themselves are not touched.
 */
export async function padRecordings(
  database: Database,
  kept: KeptMaterial,
  cutId: string,
  findingKeys: readonly string[],
): Promise<MendRow[]> {
  const state = await readCutState(database, cutId, kept)
  const wanted = new Set(findingKeys)
  const samples = new Map<string, number>()
  for (const { key, events, clipId } of state.findings) {
    if (!wanted.delete(key)) continue
    const [position = -1] = events
    const event = state.cut.events[position]
    const lack = state.resolutions[position]?.shortfall
    const facts = state.clips.get(clipId ?? '')?.facts
    const missing = event && lack && facts ? samplesToPad(facts, lack, event.sourceRate) : null
    if (clipId === null || missing === null)
      throw new PlainError('cannot-pad', 'Less than a frame at the end of a wave file is padded, and nothing else.')
    samples.set(clipId, Math.max(missing, samples.get(clipId) ?? 0))
  }
  if (wanted.size > 0)
    throw new PlainError('no-finding', 'One of these findings is there no more: look at the list again.', {
      status: 409,
    })
  const { productionId } = state.row
  return database.transaction(async (transaction) => {
    const queued: MendRow[] = []
    for (const [clipId, missing] of samples) {
      const clip = state.material.clips.get(clipId) as KnownClip
      const title = `Pad ${clip.name} with ${count(missing, 'sample')} of silence`
      const change = changeOf(clip, missing, null)
      const [mend] = await transaction
        .insert(mends)
        .values({ productionId, cutId, kind: 'pad', title, changes: [change], state: 'waiting' })
        .returning()
      queued.push(mend as MendRow)
      await addJob(transaction, productionId, title, {
        ...{ kind: 'pad', clipId, samples: missing, mendId: (mend as MendRow).id },
      })
    }
    await announce(transaction, productionId, 'mends')
    return queued
  })
}

const changeOf = (clip: KnownClip, samples: number, copy: { id: string; path: string } | null): LinkChange => ({
  link: { kind: 'clip file', clipId: clip.id, ordinal: 0 },
  ...{ before: clip.linkedIds[0] ?? clip.main.id, after: copy?.id ?? null },
  label: `${clip.name}: a copy with ${count(samples, 'sample')} of silence at its end${copy ? `, ${copy.path}` : ''}`,
})

/**
 * Copies a recording into the main place of made files with silence behind it, proves that all before that is the same byte
 * for byte, and points its clip at the copy.
 * @returns null: the job's end is written together with the link
 */
export async function padRecording(
  context: WorkContext,
  { clipId, samples, mendId }: { clipId: string; samples: number; mendId: string },
): Promise<null> {
  const { database, job, config, signal } = context
  const material = await readMaterial(database, job.productionId, [clipId], config.pathMap)
  const clip = material.clips.get(clipId)
  const file = clip?.main
  if (!clip || !file || clip.files.length !== 1) throw new JobFailure('The recording was removed before it was padded.')
  const folder = join('padded', legalWords(file.volume.label), dirname(file.path))
  const place = placeOfKind(material, null)
  await orWait(
    context,
    () => [file.volume, place],
    'It is padded by itself when that is back.',
    () =>
      placeCopy(
        context,
        { place, file, folder },
        (to) => paddedCopy(file, samples, to, signal),
        (transaction, copy) => settle(transaction, context, { clip, samples, mendId, copy }),
      ),
  )
  return null
}

/** @throws JobFailure when the copy is not what it has to be */
async function paddedCopy(file: KnownFile, samples: number, to: string, signal: AbortSignal): Promise<DescribedFile> {
  const complaint = await padWaveCopy(file.fullPath, to, samples, signal)
  if (complaint !== null) throw new JobFailure(`${placeOf(file)} is not padded, because ${complaint}.`)
  const described = await describeFile(to, await stampOf(to), { signal })
  const [before, after] = [file.facts, described.facts]
  const isLonger = after?.sound[0]?.samples === (before?.sound[0]?.samples ?? Number.NaN) + samples
  if (!isLonger || after?.timeReferenceSamples !== before?.timeReferenceSamples)
    throw new JobFailure(`The copy of ${placeOf(file)} does not say what it has to. Nothing was kept of it.`)
  return described
}

async function settle(
  transaction: Transaction,
  { job }: WorkContext,
  given: {
    readonly clip: KnownClip
    readonly samples: number
    readonly mendId: string
    readonly copy: PlacedCopy<DescribedFile>
  },
): Promise<void> {
  const { clip, samples, mendId, copy } = given
  const placed = { ...copy.described, volumeId: copy.place.id, path: copy.path }
  const before = await readAllCutStates(transaction, await readMaterial(transaction, job.productionId))
  const [row] = await transaction
    .insert(files)
    .values({ ...placed, isGone: false, seenAt: new Date() })
    .returning({ id: files.id })
  const { id } = row as { id: string }
  const [change] = (await rememberHeld(transaction, [changeOf(clip, samples, { id, path: copy.fullPath })])) as [
    LinkChange,
  ]
  await changeLinks(transaction, [change])
  const settling = await keepOthers(transaction, job.productionId, before)
  await changeLinks(transaction, settling)
  const changes = [change, ...settling]
  const created = { volumeIds: [], fileIds: [id], clipIds: [] }
  await transaction.update(mends).set({ changes, created, state: 'done' }).where(eq(mends.id, mendId))
  await recordChanges(transaction, job.productionId, changes)
  const untouched = `${change.label}. ${placeOf(clip.main)} itself is untouched.`
  await writeHistory(transaction, job.productionId, 'clip', clip.id, untouched)
  await endJob(transaction, job, { kind: 'pad', clipId: clip.id, samples })
  await announce(transaction, job.productionId, 'jobs', 'pairs', 'clips', 'cuts', 'mends', 'volumes')
}

/** Points a clip at its recording again, and does away with the copy. */
export async function undoPad(transaction: Transaction, moves: Moves, mend: MendRow): Promise<void> {
  await assertNothingRestsOn(transaction, mend)
  const changes = invert(mend.changes)
  await changeLinks(transaction, changes)
  await holdAgain(transaction, mend)
  const copies = await transaction.select().from(files).where(anyOf(files.id, mend.created.fileIds))
  for (const copy of copies) await moves.discard(copy)
  await transaction.delete(files).where(anyOf(files.id, mend.created.fileIds))
  await recordChanges(transaction, mend.productionId, changes)
}
