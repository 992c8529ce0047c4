import { rm } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { count, formatNumber } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { FolderLeft, type HeldFolder, withFolder, withHeld } from '../disk/held-folder.ts'
import { whyNoRoom } from '../disk/room.ts'
import { isNoRoom } from '../disk/system-error.ts'
import { rootIdentity } from '../disk/volume-presence.ts'
import { explainFileError, isFileError } from '../errors.ts'
import { assertVolumeHere } from '../intake/assert-volume-here.ts'
import { dropJournal, Refused, readJournal, type SourceFile, type VerifiedCopy } from '../intake/copier.ts'
import { type CopiedFiles, type CopyRun, copyFiles } from '../intake/copy-files.ts'
import { sameStamp, stampOf, stampOfPlaced } from '../intake/describe-file.ts'
import { readListed, writeGeneration } from '../intake/manifest-history.ts'
import { lookAtVolumes } from '../intake/presence.ts'
import { partPath } from '../placements/unfinished-files.ts'
import { assertAttempt } from '../queue/attempt.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import type { JobInput, JobResult } from '../store/job-types.ts'
import type { KnownFile } from '../store/known-material.ts'
import { volumes } from '../store/schema.ts'
import { orderArchive } from './archive.ts'
import { writeFolderIn } from './hand-off.ts'
import { orderPull, type PullOrder, tableOf } from './pull-order.ts'
import { copyPiece } from './pull-piece.ts'
import { outstandingOf, type PlannedVolume, type PulledClip, type PullPlan, pathsOf, placesOf } from './pull-plan.ts'
import { keepHanded } from './since.ts'

type PullInput = Extract<JobInput, { kind: 'pull' }>
type PullResult = Extract<JobResult, { kind: 'pull' }>

/** A file of a volume that is copied, and what of the catalogue it is a part of. */
type WantedFile = SourceFile & { readonly known: KnownFile }

const backAgain = 'The pull goes on when it is back.'

/**
 * Copies what is needed elsewhere into a folder of its own: each file hashed while it is read, read back and compared
 * before it has its name; what is there already is compared and never overwritten. Beside it go a manifest, a table of
 * what is in it and what is not, and what the order has besides. What is away stays outstanding: another pull into the
 * same folder goes on from there.
 */
export async function pullMedia(context: WorkContext, meter: ProgressMeter, input: PullInput): Promise<PullResult> {
  const { database, job } = context
  // What left a moment ago is outstanding, and nothing waits for it.
  await lookAtVolumes(database, await database.select().from(volumes).where(eq(volumes.productionId, job.productionId)))
  const order = await (input.cutId === null
    ? orderArchive(context)
    : orderPull(context, { ...input, cutId: input.cutId }))
  const target = join(input.folder, input.name)
  if (order.plan.volumes.length === 0) throw new JobFailure('Nothing of what is wanted is here: nothing was copied.')
  try {
    return await withHeld(input.folder, async (folder) => {
      await assertAsAsked(folder, input)
      return withFolder(folder, input.name, (to) => pullInto(to, { context, meter, input, order, plan: order.plan }), {
        make: true,
      })
    })
  } catch (error) {
    context.signal.throwIfAborted()
    if (isFileError(error)) throw new JobFailure(explainFileError(error, target), { cause: error })
    throw error
  }
}

/** A disk that was taken out since leaves its empty mount point behind: nothing is written there. */
async function assertAsAsked(held: HeldFolder, { folder, place }: PullInput): Promise<void> {
  if (!place) return
  const now = await rootIdentity(folder)
  await held.assertThere()
  if (now.mountPath === place.mountPath && now.rootInode === place.rootInode) return
  throw new JobFailure(
    `${folder} is another folder than the one that was chosen: its disk was taken out, or it was replaced. ` +
      'Nothing was written. Put the disk in again and retry; or pull again, into what is there now.',
  )
}

interface Pull {
  readonly context: WorkContext
  readonly meter: ProgressMeter
  readonly input: PullInput
  readonly order: PullOrder
  readonly plan: PullPlan
}

/** Removes what earlier attempts of this job have left that were killed while they wrote their lists. */
async function clearUnfinishedLists(to: HeldFolder, { id, attempts }: WorkContext['job']): Promise<void> {
  for (let attempt = 1; attempt < attempts; attempt++)
    await rm(to.at(partPath('lists', id, attempt)), { recursive: true, force: true })
}

async function pullInto(to: HeldFolder, pull: Pull): Promise<PullResult> {
  const { context, meter, input, order, plan } = pull
  const { database, job } = context
  await clearUnfinishedLists(to, job)
  const refused: { path: string; reason: string }[] = []
  const wanted = new Map<PlannedVolume, WantedFile[]>()
  for (const each of plan.volumes) wanted.set(each, await listWanted(each, refused))
  const listed = await readListed(database, to, input.hash)
  await assertRoom(to, wanted)
  const pieces = plan.volumes.flatMap((planned) => planned.pieces)
  const totalBytes = [
    ...[...wanted.values()].flat().map(({ sizeBytes }) => sizeBytes),
    ...pieces.map(({ bytes }) => bytes),
  ].reduce((sum, bytes) => sum + bytes, 0)
  let doneBytes = 0
  meter.restart()
  const onBytes = (bytes: number): void => {
    doneBytes += bytes
    meter.report(doneBytes, totalBytes, 'bytes')
  }
  const copies: VerifiedCopy[] = []
  let already = 0
  for (const [planned, files] of wanted) {
    const copied = await copyVolume(to, pull, { planned, files, listed, before: copies.length, onBytes })
    copies.push(...copied.verified.map((copy) => ({ ...copy, path: `${planned.folder}/${copy.path}` })))
    refused.push(...copied.refused.map((each) => ({ ...each, path: `${planned.folder}/${each.path}` })))
    already += copied.already
  }
  await assertAttempt(database, job)
  const manifest = copies.length ? await writeGeneration(database, to, input.name, input.hash, copies) : null
  const byPath = new Map(copies.map((copy) => [copy.path, copy]))
  const isIn = (pulled: PulledClip): boolean =>
    pulled.outstanding === null && placesOf(plan, pulled).every((path) => byPath.has(path))
  const clipsInIt = new Set(plan.clips.filter(isIn).map(({ clip }) => clip.id))
  const outstanding = outstandingOf(plan, clipsInIt).map(({ name, reason }) => ({ name, reason }))
  const lists = await order.along({ folder: to.path, outstanding, copies: byPath })
  const table = { name: 'what is in it.csv', content: tableOf(order, byPath) }
  const stamp = new Date().toISOString().slice(0, 19).replaceAll(':', '-')
  const taken = await writeFolderIn(
    to,
    {
      ...{ name: `lists ${stamp}`, part: partPath('lists', job.id, job.attempts) },
      list: [table, ...order.luts.files, ...lists.written],
    },
    async (name) => name,
  )
  const result: PullResult = {
    kind: 'pull',
    ...{ copied: copies.length - already, already, manifest, refused, outstanding },
    bytes: copies.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0),
    events: order.coverage(clipsInIt),
    ...{ lists: taken, withoutLists: lists.without },
    ...(lists.opened && { opened: lists.opened }),
  }
  if (order.handed) await keepHanded(database, job.id, order.handed)
  const told = [
    `${count(copies.length, 'file')} verified by ${input.hash}`,
    ...(refused.length ? [`${formatNumber(refused.length)} not copied`] : []),
    ...(outstanding.length ? [`${formatNumber(outstanding.length)} outstanding`] : []),
  ].join(', ')
  const { subject, subjectId, what } = order.record
  await writeHistory(database, job.productionId, subject, subjectId, `${what} to ${to.path}: ${told}.`)
  await announce(database, job.productionId, 'cuts', 'handoffs')
  if (refused.length)
    throw new JobFailure(
      `${formatNumber(copies.length)} of ${formatNumber(copies.length + refused.length)} files ` +
        'are copied and verified. ' +
        `${refused[0]?.path}: ${refused[0]?.reason} Look at it, and retry: it goes on from there.`,
      { result },
    )
  if (outstanding.length === 0)
    for (const { folder } of plan.volumes) await withFolder(to, folder, (held) => dropJournal(held))
  return result
}

/** The files of a volume as they lie there; one that is another by now is not copied for what it was. */
async function listWanted(
  { volume, folder, files }: PlannedVolume,
  refused: { path: string; reason: string }[],
): Promise<WantedFile[]> {
  const wanted: WantedFile[] = []
  for (const known of files) {
    const refuse = (reason: string): number => refused.push({ path: `${folder}/${known.path}`, reason })
    try {
      // Of numbered stills all of them together.
      if (!sameStamp(known, await stampOfPlaced(known))) refuse(changedSince)
      else
        for (const path of pathsOf(known)) wanted.push({ ...(await stampOf(join(volume.rootPath, path))), path, known })
    } catch (error) {
      if (!isFileError(error)) throw error
      refuse(explainFileError(error, known.path))
    }
  }
  return wanted
}

async function assertRoom(to: HeldFolder, wanted: ReadonlyMap<PlannedVolume, readonly WantedFile[]>): Promise<void> {
  let needed = 0
  for (const [{ folder }, files] of wanted)
    for (const { path, sizeBytes } of files) {
      if (!(await isThere(to, join(folder, path)))) needed += sizeBytes
    }
  for (const { folder, pieces } of wanted.keys())
    for (const { path, bytes } of pieces) if (!(await isThere(to, join(folder, path)))) needed += bytes
  const trouble = whyNoRoom('It', needed, await to.freeBytes(), `at ${to.path}`)
  if (trouble !== null) throw new JobFailure(`${trouble} Nothing was copied.`)
}

const isThere = (to: HeldFolder, path: string): Promise<boolean> =>
  withFolder(to, dirname(path), async (held) => (await held.look(basename(path))) !== null).catch(() => false)

function copyVolume(
  to: HeldFolder,
  { context, input }: Pull,
  run: {
    planned: PlannedVolume
    files: readonly WantedFile[]
    listed: ReadonlyMap<string, string>
    /** Files of other volumes that are copied by now. */
    before: number
    onBytes: (bytes: number) => void
  },
) {
  const { volume, folder } = run.planned
  const prefix = `${folder}/`
  const listed = new Map(
    [...run.listed].flatMap(([path, hash]) => (path.startsWith(prefix) ? [[path.slice(prefix.length), hash]] : [])),
  )
  return withHeld(volume.rootPath, async (from) => {
    await assertVolumeHere(context.database, volume, backAgain)
    return withFolder(
      to,
      folder,
      async (into) => {
        const soFar = (verified: number): string =>
          `after ${count(run.before + verified, 'file')} ${run.before + verified === 1 ? 'was' : 'were'} copied and read back`
        const assertThere = async (verified: number): Promise<void> => {
          for (const { held, name, next, waits } of [
            { held: from, name: `Volume “${volume.label}”`, next: 'it goes on', waits: { waitsForVolume: volume.id } },
            // Where it goes need be no volume: nobody watches whether that is back.
            { held: into, name: into.path, next: 'retry: it goes on from there', waits: {} },
          ])
            await held.assertThere().catch((error) => {
              if (!(error instanceof FolderLeft)) throw error
              throw new JobFailure(
                `${name} left ${soFar(verified)}. Those are safe; put it in again, and ${next}.`,
                waits,
              )
            })
        }
        const full = (verified: number): JobFailure =>
          new JobFailure(
            `${into.path} is full ${soFar(verified)}. Free some space and retry, and it goes on from there.`,
          )
        const journal = await readJournal(into, input.hash)
        const { onBytes } = run
        const copied = await copyFiles(
          { context, from, to: into, kind: input.hash, journal, listed, assertThere, full, onBytes },
          run.files.map(({ known: _, ...file }) => file),
        )
        return copyPieces(
          copied,
          { context, from, to: into, kind: input.hash, assertThere, full, onBytes },
          run.planned,
        )
      },
      { make: true },
    )
  })
}

/** The stretches of a volume's files, behind those that go as a whole. */
async function copyPieces(
  copied: CopiedFiles,
  run: Pick<CopyRun, 'context' | 'from' | 'to' | 'kind' | 'assertThere' | 'full' | 'onBytes'>,
  { volume, pieces }: PlannedVolume,
): Promise<CopiedFiles> {
  const { verified, refused } = copied
  let { already } = copied
  for (const piece of pieces) {
    run.context.signal.throwIfAborted()
    try {
      const stamp = await stampOf(join(volume.rootPath, piece.file.path))
      if (!sameStamp(piece.file, stamp)) throw new Refused(changedSince)
      const { copy, wasThere } = await withFolder(run.from, dirname(piece.file.path), async (folder) => {
        const name = basename(piece.file.path)
        const open = await folder.open(name)
        return copyPiece(run.context, piece, folder.pathOf(open, name), run.to, run.kind).finally(() => open.close())
      })
      verified.push(copy)
      if (wasThere) already++
    } catch (error) {
      run.context.signal.throwIfAborted()
      await run.assertThere(verified.length)
      if (isNoRoom(error)) throw run.full(verified.length)
      if (!(error instanceof Refused) && !isFileError(error)) throw error
      refused.push({
        path: piece.path,
        reason: error instanceof Refused ? error.message : explainFileError(error, piece.path),
      })
    }
    run.onBytes(piece.bytes)
  }
  return { verified, already, refused }
}

const changedSince = 'It is another than at the last look: check, and pull again.'
