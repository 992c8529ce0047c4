import type { Rate } from '@ennick/core'
import { eq, inArray } from 'drizzle-orm'
import { announce } from '../store/announce.ts'
import type { Queryable } from '../store/database.ts'
import type { JobResult } from '../store/job-schema.ts'
import { pairEvidence } from '../store/pair-evidence.ts'
import { files, pairs } from '../store/schema.ts'
import { productionRate, readWorld, type World, type WorldClip, type WorldFile, type WorldPair } from '../store/world.ts'
import type { WorkContext } from './context.ts'
import { describePlaced, forEachAtOnce, sameStamp, stampOfPlaced } from './describe-file.ts'
import type { ProgressMeter } from './progress.ts'

/** Looks at every known file on the volumes that are here, reads again those that changed, and compares every pair anew. */
export async function checkFiles(context: WorkContext, meter: ProgressMeter, volumeId: string | null): Promise<JobResult> {
  const { database, job, signal } = context
  const world = await readWorld(database, job.productionId)
  const toLook = [...world.files.values()].filter((file) => file.volume.isHere && (volumeId === null || file.volumeId === volumeId))
  let done = 0
  let changedFiles = 0
  await forEachAtOnce(toLook, 2, async (file) => {
    signal.throwIfAborted()
    if (await lookAgain(database, file, productionRate(world.production), signal)) changedFiles++
    meter.report(++done, toLook.length, 'files')
  })
  const after = await readWorld(database, job.productionId)
  for (const clip of after.clips.values()) {
    for (const pair of clip.pairs) await comparePair(database, after, clip, pair)
  }
  await announce(database, job.productionId, 'pairs', 'clips', 'volumes', 'cuts')
  return { kind: 'check', pairs: after.pairs.size, changedFiles }
}

/** @returns whether anything about the file was other than what was known. */
async function lookAgain(database: Queryable, file: WorldFile, rate: Rate, signal: AbortSignal): Promise<boolean> {
  const stamp = await stampOfPlaced(file).catch(() => null)
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
  const described = await describePlaced(file, stamp, rate, signal)
  await database
    .update(files)
    .set({ ...described, isGone: false, seenAt: new Date() })
    .where(eq(files.id, file.id))
  return described.fingerprint !== file.fingerprint
}

/** Compares a pair whose files can both be seen and writes down the evidence; what is gone or away keeps its last. */
async function comparePair(database: Queryable, world: World, clip: WorldClip, pair: WorldPair): Promise<void> {
  if (clip.presence !== 'here' || pair.files.some(({ file }) => file.presence !== 'here') || pair.files.length === 0) return
  const comparison = pairEvidence(clip, clip.main, pair.files, pair, world.production.proxySuffixes)
  if (!comparison) return
  const madeFingerprints = pair.files.map(({ file }) => file.fingerprint)
  // Its pictures were proven when it was made: of another file under its name that says nothing.
  const isAnother = madeFingerprints.some((fingerprint, index) => fingerprint !== pair.madeFingerprints[index])
  await database
    .update(pairs)
    .set({ comparison, madeFingerprints, checkedAt: new Date(), ...(isAnother ? { proof: null } : {}) })
    .where(inArray(pairs.id, [pair.id]))
}
