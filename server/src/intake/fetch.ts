import { utimes } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { type ChecksummedFile, formatNumber, type HashKind, hashKinds } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { stampOfStats } from '../disk/fingerprint.ts'
import { FolderLeft, type HeldFolder, isThereBelow, withFolder, withHeld } from '../disk/held-folder.ts'
import { whyNoRoom } from '../disk/room.ts'
import { isNoRoom } from '../disk/system-error.ts'
import { hashFile, readBack } from '../engine/copy.ts'
import { download, StoreTrouble } from '../engine/download.ts'
import { explainFileError, isFileError } from '../errors.ts'
import { dropUnfinished, partPath, removeParts } from '../placements/unfinished-files.ts'
import { assertAttempt } from '../queue/attempt.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import { addJob } from '../queue/jobs.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import { fetchedFiles } from '../store/job-schema.ts'
import type { FetchState, JobInput, JobResult } from '../store/job-types.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { volumes } from '../store/schema.ts'
import { assertVolumeHere } from './assert-volume-here.ts'
import { anotherIsThere, linkIsThere, nameCopy, Refused, type VerifiedCopy } from './copier.ts'
import { forEachAtOnce } from './describe-file.ts'
import { readListed, writeManifest } from './manifest-history.ts'
import { readStoreList, type StoreList } from './store-list.ts'
import { nameUnreadable } from './walk.ts'

type FetchInput = Extract<JobInput, { kind: 'fetch' }>
type FetchResult = Extract<JobResult, { kind: 'fetch' }>

/** Files that come at once: while one is read back another arrives. */
const atOnce = 2
/** Rows written in one statement. */
const rowsAtOnce = 2000

/** A fetch that goes on. */
interface Fetch {
  readonly context: WorkContext
  readonly list: StoreList
  readonly destination: VolumeRow
  readonly to: HeldFolder
  readonly onBytes: (bytes: number) => void
  readonly onSize: (bytes: number) => void
}

/**
 * Fetches what a list names from a store. Each file comes under a hidden name, is held against the checksum of its list
 * and read back from the disk, and only then has its own: what has a name is whole. What is there already is compared,
 * and never overwritten. The state of each file is kept, for people to see while they come.
 */
export async function fetchListed(context: WorkContext, meter: ProgressMeter, input: FetchInput): Promise<FetchResult> {
  const { database, signal } = context
  const [destination] = await database.select().from(volumes).where(eq(volumes.id, input.destinationId))
  if (!destination) throw new JobFailure('The volume that it was to come to was removed.')
  const backAgain = 'The fetch goes on when it is back.'
  await assertVolumeHere(database, destination, backAgain)
  const list = await readStoreList(input.address, signal).catch((error) => {
    throw error instanceof StoreTrouble ? new JobFailure(`The list cannot be read. ${error.message}`) : error
  })
  if (list.files.length === 0) throw new JobFailure(`${list.name} names no file that is fetched.`)
  const target = join(destination.rootPath, input.folder)
  try {
    return await withHeld(destination.rootPath, async (root) => {
      await assertVolumeHere(database, destination, backAgain)
      await root.assertThere()
      return withFolder(root, input.folder, (to) => fetchAll({ context, list, destination, to }, meter, input), {
        make: true,
      })
    })
  } catch (error) {
    signal.throwIfAborted()
    if (error instanceof FolderLeft)
      throw new JobFailure(`Volume “${destination.label}” left. What has come is safe. ${backAgain}`, {
        waitsForVolume: destination.id,
      })
    if (isFileError(error)) throw new JobFailure(explainFileError(error, target), { cause: error })
    throw error
  }
}

async function fetchAll(
  fetch: Omit<Fetch, 'onBytes' | 'onSize'>,
  meter: ProgressMeter,
  input: FetchInput,
): Promise<FetchResult> {
  const { context, list, destination, to } = fetch
  const { database, job, signal } = context
  const { files } = list
  await writeRows(context, files)
  await assertRoom(to, files, list.name)
  const kinds = hashKinds.filter((kind) => files.some((file) => file.kind === kind))
  // What a new generation of the manifest rests on is verified before anything comes on top of it.
  for (const kind of kinds) await readListed(database, to, kind)
  for (const folder of new Set(files.map(({ path }) => dirname(path)))) await tidy(to, folder, job.id)

  const isSized = files.every(({ sizeBytes }) => sizeBytes !== null)
  const total = isSized ? files.reduce((sum, { sizeBytes }) => sum + (sizeBytes ?? 0), 0) : files.length
  let [doneBytes, ended, already] = [0, 0, 0]
  const report = (): void => meter.report(isSized ? doneBytes : ended, total, isSized ? 'bytes' : 'files')
  const verified: (VerifiedCopy & { kind: HashKind })[] = []
  const refused: { path: string; reason: string }[] = []
  meter.restart()
  const fetchOne = async (file: ChecksummedFile, ordinal: number): Promise<void> => {
    signal.throwIfAborted()
    let fileBytes = 0
    let { sizeBytes } = file
    const tell = rarely(() => setState(context, ordinal, { sizeBytes, doneBytes: fileBytes }))
    const onBytes = (bytes: number): void => {
      fileBytes += bytes
      doneBytes += bytes
      report()
      tell.now()
    }
    const onSize = (bytes: number): void => {
      sizeBytes = bytes
    }
    try {
      await to.assertThere()
      const { copy, wasThere } = await bring({ ...fetch, onBytes, onSize }, file, () =>
        setState(context, ordinal, { state: 'arriving' }),
      ).finally(tell.ended)
      verified.push({ ...copy, kind: file.kind })
      if (wasThere) already++
      await setState(context, ordinal, { state: 'verified', sizeBytes: copy.sizeBytes, doneBytes: copy.sizeBytes })
    } catch (error) {
      signal.throwIfAborted()
      await to.assertThere()
      if (isNoRoom(error))
        throw new JobFailure(
          `${destination.rootPath} is full after ` +
            `${formatNumber(verified.length)} of ${formatNumber(files.length)} files. Those are verified; ` +
            'free some space and retry, and it goes on from there.',
        )
      if (!(error instanceof StoreTrouble || error instanceof Refused || isFileError(error))) throw error
      const reason = isFileError(error) ? explainFileError(error, file.path) : (error as Error).message
      refused.push({ path: file.path, reason })
      await setState(context, ordinal, { state: 'refused', reason, doneBytes: 0 })
    } finally {
      ended++
      doneBytes += (file.sizeBytes ?? fileBytes) - fileBytes
      report()
    }
  }
  try {
    await forEachAtOnce([...files.entries()], atOnce, ([ordinal, file]) => fetchOne(file, ordinal))
  } finally {
    if (verified.length > already) await scanLater(context, destination)
  }
  await assertAttempt(database, job)
  let manifest: string | null = null
  for (const kind of kinds) {
    const copies = verified.filter((copy) => copy.kind === kind)
    if (copies.length)
      manifest = await writeManifest(context, destination, input.folder, to, destination.label, kind, copies)
  }
  const bytes = verified.reduce((sum, copy) => sum + copy.sizeBytes, 0)
  const far = `${formatNumber(verified.length)} of ${formatNumber(files.length)} files`
  const outcome = refused.length ? `${far} verified, ${formatNumber(refused.length)} not fetched` : `${far} verified`
  await writeHistory(
    database,
    job.productionId,
    'volume',
    destination.id,
    `Fetched ${list.name} to ${to.path}: ${outcome}.`,
  )
  await announce(database, job.productionId, 'volumes')
  const result: FetchResult = {
    ...{ kind: 'fetch', fetched: verified.length - already, already, bytes, manifest },
    refused: refused.length,
  }
  if (refused.length)
    throw new JobFailure(
      `${far} are there and verified. ${nameUnreadable(refused, 'is not')} Retry, and it goes on from there.`,
      { result },
    )
  return result
}

/** Brings one file, or finds that it is there. @throws StoreTrouble or Refused with the reason why it is not had */
async function bring(
  fetch: Fetch,
  file: ChecksummedFile,
  onArriving: () => Promise<void>,
): Promise<{ copy: VerifiedCopy; wasThere: boolean }> {
  const { context, list, to, onBytes, onSize } = fetch
  const { job, signal, pause } = context
  const name = basename(file.path)
  return withFolder(
    to,
    dirname(file.path),
    async (folder) => {
      if (await folder.look(name)) return { copy: await compare(fetch, file, folder), wasThere: true }
      await onArriving()
      const part = basename(partPath(name, job.id, job.attempts))
      await folder.assertTakes(name, part)
      const { kind, sizeBytes } = file
      const open = await folder.create(part)
      try {
        const address = list.addressOf(file)
        const come = await download(address, open, { signal, pause, kind, sizeBytes, onBytes, onSize }).finally(() =>
          open.close(),
        )
        if (come.hash !== file.hash)
          throw new Refused(
            `Its ${kind} should be ${file.hash} and is ${come.hash}: it was changed in the store since it was ` +
              'listed, or damaged on the way.',
          )
        const back = await readBack(folder.at(part), { kind, signal, pause })
        if (back.hash !== file.hash)
          throw new Refused(
            `It does not read back as it came (${kind} ${come.hash} came, ${back.hash} read): ` +
              'the destination may be failing.',
          )
        const changed = come.modifiedAt ?? dateOf(file.modifiedAt)
        if (changed) await utimes(folder.at(part), changed, changed)
        await to.assertThere()
        const placed = await nameCopy(folder, part, name)
        if (!placed) return { copy: await compare(fetch, file, folder), wasThere: true }
        const stamp = stampOfStats(await statOf(folder, name))
        return { copy: { path: file.path, ...stamp, hash: back.hash, wasDirect: back.wasDirect }, wasThere: false }
      } finally {
        await dropUnfinished(folder.at(part))
      }
    },
    { make: true },
  )
}

/** Holds what is there already against the list. @throws Refused when it is anything else */
async function compare({ context, onBytes }: Fetch, file: ChecksummedFile, folder: HeldFolder): Promise<VerifiedCopy> {
  const { signal, pause } = context
  const name = basename(file.path)
  if (!(await statOf(folder, name)).isFile()) throw new Refused(linkIsThere)
  const open = await folder.open(name)
  try {
    const stamp = stampOfStats(await open.stat({ bigint: true }))
    const isOther = file.sizeBytes !== null && stamp.sizeBytes !== file.sizeBytes
    const options = { kind: file.kind, signal, pause, onBytes }
    const hash = isOther ? null : await hashFile(folder.pathOf(open, name), options)
    if (hash !== file.hash) throw new Refused(anotherIsThere)
    return { path: file.path, ...stamp, hash, wasDirect: null }
  } finally {
    await open.close()
  }
}

async function statOf(folder: HeldFolder, name: string) {
  const stats = await folder.look(name)
  if (!stats) throw new Refused('It was taken away again before it could be looked at.')
  return stats
}

function dateOf(text: string | null): Date | null {
  const time = Date.parse(text ?? '')
  return Number.isNaN(time) ? null : new Date(time)
}

async function writeRows({ database, job }: WorkContext, files: readonly ChecksummedFile[]): Promise<void> {
  const rows = files.map(({ path, sizeBytes }, ordinal) => ({ jobId: job.id, ordinal, path, sizeBytes }))
  await database.transaction(async (transaction) => {
    await transaction.delete(fetchedFiles).where(eq(fetchedFiles.jobId, job.id))
    for (let index = 0; index < rows.length; index += rowsAtOnce)
      await transaction.insert(fetchedFiles).values(rows.slice(index, index + rowsAtOnce))
  })
}

async function setState(
  { database, job }: WorkContext,
  ordinal: number,
  now: { readonly state?: FetchState; sizeBytes?: number | null; doneBytes?: number; reason?: string },
): Promise<void> {
  await database
    .update(fetchedFiles)
    .set(now)
    .where(and(eq(fetchedFiles.jobId, job.id), eq(fetchedFiles.ordinal, ordinal)))
}

/** Does something at most once a second, one after the other. */
function rarely(task: () => Promise<void>): { now(): void; ended(): Promise<void> } {
  let doneAt = 0
  let running: Promise<void> = Promise.resolve()
  return {
    now() {
      if (Date.now() - doneAt < 1000) return
      doneAt = Date.now()
      running = running.then(task)
      // It is met where the end is waited for.
      running.catch(() => undefined)
    },
    ended: () => running,
  }
}

/** Clears a folder of what an earlier attempt left unfinished. One that cannot be reached is told of its files. */
const tidy = (to: HeldFolder, below: string, jobId: string): Promise<void> =>
  withFolder(to, below, (folder) => removeParts(folder, jobId)).catch((error) => {
    if (!isFileError(error)) throw error
  })

async function assertRoom(to: HeldFolder, files: readonly ChecksummedFile[], name: string): Promise<void> {
  let needed = 0
  for (const file of files) if (!(await isThereBelow(to, file.path))) needed += file.sizeBytes ?? 0
  const trouble = whyNoRoom(`What ${name} names`, needed, await to.freeBytes(), `at ${to.path}`)
  if (trouble !== null) throw new JobFailure(`${trouble} Nothing was fetched.`)
}

/** What has come is read for the ledger, also where not all did. */
async function scanLater({ database, job }: WorkContext, { id, label }: VolumeRow): Promise<void> {
  await assertAttempt(database, job)
  await addJob(database, job.productionId, `Scan ${label}`, { kind: 'scan', volumeId: id })
}
