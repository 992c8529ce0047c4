import type { Rate } from '@ennick/core'
import { eq } from 'drizzle-orm'
import type { FileStamp } from '../disk/fingerprint.ts'
import { HeldFolder } from '../disk/held-folder.ts'
import { explainFileError, isFileError } from '../errors.ts'
import { isGrowing } from '../intake/at-rest.ts'
import { describePlaced, forEachAtOnce, lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { asKnownStills } from '../intake/stills-mark.ts'
import { nameUnreadable, type Unreadable } from '../intake/walk.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import type { Queryable } from '../store/database.ts'
import type { JobResult } from '../store/job-types.ts'
import type { KnownClip, KnownFile, KnownPair, VolumeRow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { productionRate } from '../store/production-row.ts'
import { files, pairs, volumes } from '../store/schema.ts'
import { lookForVolume } from '../store/volume-presence.ts'

/**
 * Looks at every known file on the volumes that are here, reads again those that changed, and compares every pair anew.
 * What something is still writing is left as it is known, and looked at again by a scan (`intake/watched-folders.ts`).
 */
export async function checkFiles(
  context: WorkContext,
  meter: ProgressMeter,
  volumeId: string | null,
): Promise<JobResult> {
  const { database, config, job, signal } = context
  const material = await readMaterial(database, job.productionId)
  const look: Look = {
    ...{ database, rate: productionRate(material.production), restSeconds: config.restSeconds, signal },
    ...{ roots: new Map(), growing: new Map(), unreadable: [] },
  }
  let changedFiles = 0
  try {
    for (const volume of material.volumes) {
      if (volumeId !== null && volume.id !== volumeId) continue
      const root = await holdIfHere(database, volume)
      if (root) look.roots.set(volume.id, root)
    }
    const toLook = [...material.files.values()].filter((file) => look.roots.has(file.volumeId))
    let done = 0
    await forEachAtOnce(toLook, 2, async (file) => {
      signal.throwIfAborted()
      if (await lookAgain(look, file)) changedFiles++
      meter.report(++done, toLook.length, 'files')
    })
  } finally {
    for (const root of look.roots.values()) await root.release()
  }
  for (const [id, growingFiles] of look.growing)
    await database.update(volumes).set({ growingFiles }).where(eq(volumes.id, id))
  const after = await readMaterial(database, job.productionId)
  for (const clip of after.clips.values()) {
    for (const pair of clip.pairs) await comparePair(database, clip, pair)
  }
  await announce(database, job.productionId, 'pairs', 'clips', 'volumes', 'cuts')
  const growing = [...look.growing.values()].reduce((sum, files) => sum + files, 0)
  const result: JobResult = { kind: 'check', pairs: after.pairs.size, changedFiles, ...(growing && { growing }) }
  if (look.unreadable.length)
    throw new JobFailure(`${nameUnreadable(look.unreadable)} What is known of it stays as it was.`, { result })
  return result
}

/**
 * The root of a volume, held, when it is in; what is held is looked at, so that it is not what takes its place
 * meanwhile.
 */
async function holdIfHere(database: Queryable, volume: VolumeRow): Promise<HeldFolder | null> {
  const root = await HeldFolder.hold(volume.rootPath, { isOwn: volume.kind === 'made' }).catch(() => null)
  if (!root) return null
  let isIt = false
  try {
    isIt =
      (await lookForVolume(database, volume)) &&
      (await root.assertThere().then(
        () => true,
        () => false,
      ))
  } finally {
    if (!isIt) await root.release()
  }
  return isIt ? root : null
}

interface Look {
  readonly database: Queryable
  readonly rate: Rate
  readonly restSeconds: number
  readonly signal: AbortSignal
  /** The roots of the volumes that are looked at, held. */
  readonly roots: Map<string, HeldFolder>
  /** How many files of a volume something is still writing. */
  readonly growing: Map<string, number>
  readonly unreadable: Unreadable[]
}

/** @returns whether anything about the file was other than what was known. */
async function lookAgain(look: Look, file: KnownFile): Promise<boolean> {
  const { database, rate, restSeconds, signal, roots, growing, unreadable } = look
  // What lies at its place is another file, with a row of its own.
  if (file.isReplaced) return false
  let stamp: FileStamp | null
  try {
    stamp = await lookForPlaced(file)
    // A file is gone when its volume is still there without it.
    if (!stamp) await roots.get(file.volumeId)?.assertThere()
  } catch (error) {
    // Whether it is there is not known: nothing about it changes.
    if (!isFileError(error)) throw error
    unreadable.push({ path: file.fullPath, reason: explainFileError(error, file.fullPath) })
    return false
  }
  if (!stamp) {
    if (file.isGone) return false
    await database.update(files).set({ isGone: true }).where(eq(files.id, file.id))
    return true
  }
  if (sameStamp(file, stamp)) {
    if (!file.isGone) return false
    await database.update(files).set({ isGone: false, seenAt: new Date() }).where(eq(files.id, file.id))
    return true
  }
  // Places of what is made are scanned by nobody.
  if (file.volume.kind !== 'made' && isGrowing(stamp, restSeconds)) {
    growing.set(file.volumeId, (growing.get(file.volumeId) ?? 0) + 1)
    return false
  }
  const described = await describePlaced(file, stamp, { rate, knownAs: asKnownStills(file), signal })
  await database
    .update(files)
    // What was known of a file stays known when it is damaged: it keeps its place in the ledger.
    .set({ ...described, facts: described.facts ?? file.facts, isGone: false, seenAt: new Date() })
    .where(eq(files.id, file.id))
  return described.fingerprint !== file.fingerprint
}

/** Writes down that a pair's files were seen together, and as which; what is gone or away keeps its last. */
async function comparePair(database: Queryable, clip: KnownClip, pair: KnownPair): Promise<void> {
  if (clip.presence !== 'here' || pair.files.some(({ file }) => file.presence !== 'here') || pair.files.length === 0)
    return
  const madeFingerprints = pair.files.map(({ file }) => file.fingerprint)
  // Its pictures were proven when it was made: of another file under its name that says nothing.
  const isAnother = madeFingerprints.some((fingerprint, index) => fingerprint !== pair.madeFingerprints[index])
  await database
    .update(pairs)
    .set({ isCompared: true, madeFingerprints, checkedAt: new Date(), ...(isAnother ? { proof: null } : {}) })
    .where(eq(pairs.id, pair.id))
}
