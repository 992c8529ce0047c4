import { dirname, join } from 'node:path'
import type { HashKind } from '@ennick/core'
import { formatNumber } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { FolderLeft, type HeldFolder, isThereBelow, withFolder, withHeld } from '../disk/held-folder.ts'
import { whyNoRoom } from '../disk/room.ts'
import { explainFileError, isFileError } from '../errors.ts'
import { assertAttempt } from '../queue/attempt.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure, waitsIfGone } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import type { JobResult } from '../store/job-types.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { volumes } from '../store/schema.ts'
import { assertSameBox } from './another-box.ts'
import { assertVolumeHere } from './assert-volume-here.ts'
import { dropJournal, type Journal, readJournal, type SourceFile, type VerifiedCopy } from './copier.ts'
import { type CopiedFiles, copyFiles } from './copy-files.ts'
import { stampOf } from './describe-file.ts'
import { isOfHistory, readListed, writeManifest } from './manifest-history.ts'
import { areAllMedia, readCopied, registerCopies } from './register-copies.ts'
import { scanVolume } from './scan.ts'
import { growChains, type SourceHistories, sortHistories } from './source-histories.ts'
import { pathsOfClips } from './volume-clips.ts'
import { nameUnreadable, type PassedOver, pathIn, type Unreadable, walkFolders } from './walk.ts'

export interface OffloadInput {
  readonly volumeId: string
  readonly destinationId: string
  readonly folder: string
  readonly hash: HashKind
  /** Clips that are left, by choice. */
  readonly leave?: readonly string[]
}

export type OffloadResult = Extract<JobResult, { kind: 'offload' }>

/** An offload that goes on: what is copied, from where and to where, both held. */
interface Offload {
  readonly context: WorkContext
  readonly meter: ProgressMeter
  readonly input: OffloadInput
  readonly source: VolumeRow
  readonly destination: VolumeRow
  readonly from: HeldFolder
  readonly to: HeldFolder
}

const backAgain = 'The offload goes on when it is back.'

/**
 * Copies everything on a volume to storage, but for clips that are left by choice. Each file is hashed while it is
 * read, written under a hidden name, read back and compared, and only then given its name. What is there already is
 * compared and never overwritten. A run that was stopped goes on where it was. At the end a manifest is written beside
 * the copies, and clips know their new home. It is done when everything was copied: what was not is named, and the job
 * has failed.
 */
export async function offload(context: WorkContext, meter: ProgressMeter, input: OffloadInput): Promise<OffloadResult> {
  const source = await readVolume(context, input.volumeId)
  const destination = await readVolume(context, input.destinationId)
  const target = join(destination.rootPath, input.folder)
  if (target === source.rootPath || target.startsWith(`${source.rootPath}/`))
    throw new JobFailure(`${target} lies inside of what is to be copied: choose a destination on another volume.`)
  // Away is told before anything is held; and what is held is looked at again, so that it is the volume that was meant.
  await assertSameBox(context.database, source)
  for (const volume of [source, destination]) await assertVolumeHere(context.database, volume, backAgain)
  try {
    return await withHeld(source.rootPath, (from) =>
      withHeld(destination.rootPath, async (root) => {
        for (const volume of [source, destination]) await assertVolumeHere(context.database, volume, backAgain)
        for (const held of [from, root]) await held.assertThere()
        const to = await root.folder(input.folder, { make: true })
        try {
          return await copyAll({ context, meter, input, source, destination, from, to })
        } finally {
          await to.release()
        }
      }),
    )
  } catch (error) {
    context.signal.throwIfAborted()
    if (isFileError(error)) throw new JobFailure(explainFileError(error, target), { cause: error })
    throw error
  }
}

async function copyAll(offload: Offload): Promise<OffloadResult> {
  const { context, input, source, destination, from, to } = offload
  const { database, job } = context
  const { files: all, emptyFolders, unreadable, passedOver: passedByWalk } = await listFiles(source)
  const leave = await pathsOfClips(database, source.id, input.leave ?? [])
  const chosen = all.filter((file) => !leave.has(file.path))
  const left = all.filter((file) => leave.has(file.path)).map((file) => file.path)
  if (chosen.length === 0)
    throw new JobFailure(`Everything on “${source.label}” was left by choice: nothing was copied.`)
  const histories = await sortHistories(from, to, chosen, input.hash)
  const files = [...histories.first, ...histories.files]
  const passedOver = [...passedByWalk, ...histories.passedOver]
  const journal = await readJournal(to, input.hash)
  await assertRoom(to, source, files, journal)
  const { verified, already, refused } = await copyVolume(offload, histories, journal)
  refused.push(...unreadable, ...(await makeFolders(to, emptyFolders)))
  const unlike = unlikeListed(verified, histories.listed, input.hash)
  const unlikePaths = new Set(unlike.map(({ path }) => path))
  const asListed = verified.filter(({ path }) => !unlikePaths.has(path))
  // A worker that stood still while another did all this has nothing to add to it.
  await assertAttempt(database, job)

  const manifest = asListed.some(({ path }) => !isOfHistory(path))
    ? await writeManifest(context, destination, input.folder, to, source.label, input.hash, asListed)
    : null
  let copied = await readCopied(database, source, verified)
  if (!areAllMedia(copied, verified)) {
    await scanFirst(offload)
    copied = await readCopied(database, source, verified)
  }
  await registerCopies(context, source, destination, input.folder, copied)
  const bytes = verified.reduce((sum, copy) => sum + copy.sizeBytes, 0)
  const outcome = [
    `${formatNumber(verified.length)} of ${formatNumber(files.length)} files verified by ${input.hash}`,
    ...(refused.length ? [`${formatNumber(refused.length)} not copied`] : []),
    ...(unlike.length ? [`${formatNumber(unlike.length)} unlike their manifest`] : []),
    ...(left.length ? [`${formatNumber(left.length)} more left by choice`] : []),
    ...(passedOver.length ? [`${formatNumber(passedOver.length)} passed over`] : []),
  ].join(', ')
  await writeHistory(
    database,
    job.productionId,
    'volume',
    source.id,
    `Offloaded “${source.label}” to ${to.path}: ${outcome}.`,
  )
  await announce(database, job.productionId, 'volumes', 'clips', 'pairs', 'cuts')
  const result: OffloadResult = {
    kind: 'offload',
    copied: verified.length - already,
    already,
    bytes,
    manifest,
    refused,
    unlike,
    left,
    passedOver,
  }
  if (refused.length || verified.length !== files.length)
    throw new JobFailure(
      `${formatNumber(verified.length)} of ${formatNumber(files.length)} files are copied and verified. ` +
        `${nameUnreadable(refused, 'was not copied')} Look at it, and retry: it goes on from there.`,
      { result },
    )
  if (unlike.length)
    throw new JobFailure(
      `All ${formatNumber(files.length)} files are copied and read back, and ` +
        `${nameUnreadable(unlike, 'is not what its manifest says')} ` +
        'It is there as it lies on the source: look for another copy of it.',
      { result },
    )
  // The journal is Ennick's own; the manifest says from now on what it said.
  await dropJournal(to)
  return result
}

/** A card that was never scanned, or was filled since, is scanned, so that its clips know of their copies. */
async function scanFirst({ context, meter, source }: Offload): Promise<void> {
  await scanVolume(context, meter, source.id).catch((error) => {
    // What could not be read of it was told by the copying already.
    if (!(error instanceof JobFailure) || error.result === null) throw error
  })
}

/** Files that are not what the manifests say that came with them: each was changed, or damaged, since they were written. */
const unlikeListed = (
  verified: readonly VerifiedCopy[],
  listed: ReadonlyMap<string, string>,
  kind: HashKind,
): { path: string; reason: string }[] =>
  verified.flatMap(({ path, hash }) => {
    const said = listed.get(path)
    return said === undefined || said === hash
      ? []
      : [{ path, reason: `Its ${kind} was ${said} and is ${hash}: it was changed or damaged since.` }]
  })

async function copyVolume(offload: Offload, histories: SourceHistories, journal: Journal): Promise<CopiedFiles> {
  const { context, meter, input, source, destination, from, to } = offload
  const { database } = context
  const files = [...histories.first, ...histories.files]
  const totalBytes = files.reduce((sum, file) => sum + file.sizeBytes, 0)
  let doneBytes = 0
  meter.restart()
  const assertThere = async (verified: number): Promise<void> => {
    for (const [volume, held] of [
      [source, from],
      [destination, to],
    ] as const)
      await held.assertThere().catch((error) => {
        if (!(error instanceof FolderLeft)) throw error
        throw new JobFailure(
          `Volume “${volume.label}” left after ${formatNumber(verified)} of ${formatNumber(files.length)} files ` +
            'were copied and read back. Those are safe; put it in again and the offload goes on.',
          { waitsForVolume: volume.id },
        )
      })
  }
  const full = (verified: number): JobFailure =>
    new JobFailure(
      `${destination.rootPath} is full after ${formatNumber(verified)} of ${formatNumber(files.length)} files. ` +
        'Those are verified; free some space and retry, and it goes on from there.',
    )
  const onBytes = (bytes: number): void => {
    doneBytes += bytes
    meter.report(doneBytes, totalBytes, 'bytes')
  }
  const run = { context, from, to, kind: input.hash, journal, assertThere, full, onBytes }
  // What an attempt began of a history is finished before that is read.
  const begun = await copyFiles({ ...run, listed: new Map() }, histories.first)
  begun.refused.push(...(await growChains(database, to, histories.grown, '')))
  // What a new generation of the manifest rests on is verified before anything is copied on top of it.
  const listed = await readListed(database, to, input.hash)
  const copied = await copyFiles({ ...run, listed }, histories.files)
  copied.refused.push(...(await growChains(database, to, histories.grown)))
  return {
    verified: [...begun.verified, ...copied.verified],
    already: begun.already + copied.already,
    refused: [...begun.refused, ...copied.refused],
  }
}

async function readVolume({ database }: WorkContext, volumeId: string): Promise<VolumeRow> {
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!volume) throw new JobFailure('One of the two volumes was removed.')
  return volume
}

/** What is on a volume: its files, the folders in which there is nothing at all, and what is not gone through. */
interface Listed {
  readonly files: readonly SourceFile[]
  readonly emptyFolders: readonly string[]
  readonly unreadable: readonly Unreadable[]
  readonly passedOver: readonly PassedOver[]
}

async function listFiles(source: VolumeRow): Promise<Listed> {
  const files: SourceFile[] = []
  const folders: string[] = []
  const unreadable: Unreadable[] = []
  const passedOver: PassedOver[] = []
  const listener = {
    onUnreadable: (each: Unreadable) => unreadable.push(each),
    onPassedOver: (each: PassedOver) => passedOver.push(each),
  }
  try {
    for await (const { folder, names } of walkFolders(source.rootPath, listener)) {
      if (folder) folders.push(folder)
      for (const path of names.map((name) => pathIn(folder, name))) {
        const stamp = await stampOf(join(source.rootPath, path)).catch((error) => {
          unreadable.push({ path, reason: explainFileError(error, path) })
          return null
        })
        if (stamp) files.push({ path, ...stamp })
      }
    }
  } catch (error) {
    throw new JobFailure(
      `Volume “${source.label}” cannot be read: ${explainFileError(error, source.rootPath)} ${backAgain}`,
      waitsIfGone(error, source.id),
    )
  }
  if (files.length === 0)
    throw new JobFailure(`There is nothing on volume “${source.label}” to copy. ${nameUnreadable(unreadable)}`.trim())
  const holding = new Set(
    [...files, ...folders.map((path) => ({ path })), ...unreadable].map(({ path }) => dirname(path)),
  )
  return { files, emptyFolders: folders.filter((folder) => !holding.has(folder)), unreadable, passedOver }
}

/** Folders belong to how a card is built, also those in which there is nothing. Tells which could not be made. */
async function makeFolders(to: HeldFolder, folders: readonly string[]): Promise<{ path: string; reason: string }[]> {
  const refused: { path: string; reason: string }[] = []
  for (const path of folders)
    await withFolder(to, path, async () => undefined, { make: true }).catch((error) => {
      refused.push({ path, reason: explainFileError(error, path) })
    })
  return refused
}

async function assertRoom(
  to: HeldFolder,
  source: VolumeRow,
  files: readonly SourceFile[],
  journal: Journal,
): Promise<void> {
  let needed = 0
  for (const file of files)
    if (!journal.has(file.path) && !(await isThereBelow(to, file.path))) needed += file.sizeBytes
  const trouble = whyNoRoom(`“${source.label}”`, needed, await to.freeBytes(), `at ${to.path}`)
  if (trouble !== null) throw new JobFailure(`${trouble} Nothing was copied.`)
}
