import { readFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { count, type HashKind, type HashList, hashKinds, hashToCheck, verifyAgainst } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { readAt } from '../disk/fingerprint.ts'
import { assertBeneath, withFolder, withHeld } from '../disk/held-folder.ts'
import { hashFile } from '../engine/copy.ts'
import { explainFileError } from '../errors.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { summarise } from '../queue/summary.ts'
import { NotRead, readApart } from '../reading/read-apart.ts'
import { announce } from '../store/announce.ts'
import { manifests } from '../store/catalogue-schema.ts'
import { writeHistory } from '../store/history.ts'
import type { JobResult } from '../store/job-types.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { volumes } from '../store/schema.ts'
import { assertVolumeHere } from './assert-volume-here.ts'
import { stampOf } from './describe-file.ts'
import { chainFile, historyFolder, isOfHistory } from './manifest-history.ts'
import { nameUnreadable, type Unreadable, walk } from './walk.ts'

/** Reads every file that a manifest lists and says which are missing, changed or extra. */
export async function verifyManifest(
  context: WorkContext,
  meter: ProgressMeter,
  manifestId: string,
): Promise<JobResult> {
  const { database, job, signal } = context
  const [row] = await database
    .select()
    .from(manifests)
    .innerJoin(volumes, eq(volumes.id, manifests.volumeId))
    .where(eq(manifests.id, manifestId))
  if (!row) throw new JobFailure('The manifest was removed.')
  const { manifests: manifest, volumes: volume } = row
  await assertVolumeHere(database, volume, 'It is verified when it is back.')
  const list = await readList(volume.rootPath, join(volume.rootPath, manifest.path))
  const root = join(volume.rootPath, manifest.folder)
  const found = new Map<string, { sizeBytes: number; hash: string | null }>()
  const unreadable: Unreadable[] = []
  for await (const { path } of walk(root, { onUnreadable: (each) => unreadable.push(each) })) {
    if (path.startsWith(`${historyFolder}/`)) continue
    const stamp = await stampOf(join(root, path)).catch((error) => {
      unreadable.push({ path, reason: explainFileError(error, path) })
      return null
    })
    if (stamp) found.set(path, { sizeBytes: stamp.sizeBytes, hash: null })
  }
  const total = list.files.reduce(
    (sum, file) => sum + (found.get(file.path)?.sizeBytes === file.sizeBytes ? file.sizeBytes : 0),
    0,
  )
  let bytes = 0
  meter.restart()
  for (const file of list.files) {
    signal.throwIfAborted()
    const there = found.get(file.path)
    const kind = hashToCheck(file.hashes)
    if (!there || kind === null || there.sizeBytes !== file.sizeBytes) continue
    const onBytes = (read: number): void => {
      bytes += read
      meter.report(bytes, total, 'bytes')
    }
    try {
      found.set(file.path, { ...there, hash: await hashFile(join(root, file.path), { kind, signal, onBytes }) })
    } catch (error) {
      signal.throwIfAborted()
      await assertVolumeHere(database, volume, 'It left while it was verified, and is verified when it is back.')
      unreadable.push({ path: file.path, reason: explainFileError(error, file.path) })
    }
  }
  await assertVolumeHere(database, volume, 'It left while it was verified, and is verified when it is back.')
  const isHidden = (path: string): boolean =>
    unreadable.some((each) => path === each.path || path.startsWith(`${each.path}/`))
  const lines = verifyAgainst(list, found).map((line) =>
    line.state === 'missing' && isHidden(line.path)
      ? { ...line, state: 'not checked' as const, detail: 'It cannot be read, or lies in a folder that cannot.' }
      : line,
  )
  const wrong = lines.filter((line) => line.state !== 'matches')
  const matching = lines.length - wrong.length
  const result: JobResult = { kind: 'verify', matching, bytes, lines: wrong }
  const what = `“${volume.label}” verified against ${manifest.path}: ${summarise(result)}.`
  await writeHistory(database, job.productionId, 'volume', volume.id, what)
  await announce(database, job.productionId, 'volumes')
  if (unreadable.length) {
    const others = count(matching, 'other file matches', 'other files match')
    throw new JobFailure(`${nameUnreadable(unreadable)} It was not verified; ${others}.`, { result })
  }
  return result
}

async function readList(root: string, path: string): Promise<HashList> {
  try {
    await assertBeneath(root, path)
    return await readApart('hash list', { text: await readFile(path, 'utf8') })
  } catch (error) {
    throw new JobFailure(error instanceof NotRead ? `${path}: ${error.message}` : explainFileError(error, path))
  }
}

/** So many manifests are looked into for what checksums they hold, and so much of each. */
const [mostLookedInto, enoughBytes] = [8, 65_536]

/** Whether a file is a manifest in a history. */
export const isManifest = (path: string): boolean => path.endsWith('.mhl') && isOfHistory(path)

/**
 * Which checksums the histories of manifests hold that came with a volume, of those that are known here.
 * @param lists the paths of its manifests; the last are looked into
 */
export async function kindsOfManifests(root: string, lists: readonly string[]): Promise<HashKind[]> {
  const found = new Set<HashKind>()
  for (const path of lists.slice(-mostLookedInto)) {
    const text = await readBeginning(root, path).catch(() => '')
    for (const kind of hashKinds) if (text.includes(`<${kind}`)) found.add(kind)
  }
  return hashKinds.filter((kind) => found.has(kind))
}

const readBeginning = (root: string, path: string): Promise<string> =>
  withHeld(root, (held) =>
    withFolder(held, dirname(path), async (folder) => {
      if (!(await folder.look(chainFile))) return ''
      const file = await folder.open(basename(path))
      return readAt(file, 0, enoughBytes)
        .then(String)
        .finally(() => file.close())
    }),
  )

/** Looks on a volume for manifests that came with it, and remembers them. */
export async function findManifests({ database }: Pick<WorkContext, 'database'>, volume: VolumeRow): Promise<number> {
  let found = 0
  for await (const { path } of walk(volume.rootPath, { onUnreadable: () => undefined })) {
    const match = /^(?:(.*)\/)?ascmhl\/[^/]+\.mhl$/.exec(path)
    if (!match) continue
    const list = await readList(volume.rootPath, join(volume.rootPath, path)).catch(() => null)
    if (!list) continue
    found++
    await database
      .insert(manifests)
      .values({ volumeId: volume.id, path, folder: match[1] ?? '', files: list.files.length })
      .onConflictDoNothing()
  }
  return found
}
