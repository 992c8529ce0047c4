import { join } from 'node:path'
import { sequenceFramePaths } from '@ennick/core'
import { tryDecoding } from '../engine/try-original.ts'
import { damageOf } from '../make/explain-failure.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announceClips } from '../store/announce.ts'
import { originalTrials } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import type { JobResult } from '../store/job-schema.ts'
import { type KnownClip, type KnownFile, readMaterial } from '../store/material.ts'

/**
 * Decodes clips' originals at head, middle and end, behind all other work, and writes down what came of it. One that
 * fails is decoded whole, so that the damaged frames are named.
 */
export async function tryOriginals(
  { database, job, signal }: WorkContext,
  meter: ProgressMeter,
  clipIds: readonly string[],
): Promise<JobResult> {
  const material = await readMaterial(database, job.productionId, clipIds)
  const counts = { clean: 0, damaged: 0, absent: 0 }
  let done = 0
  for (const clip of material.clips.values()) {
    signal.throwIfAborted()
    const outcome = clip.presence === 'here' ? await tryClip(database, clip, signal) : 'absent'
    counts[outcome]++
    await announceClips(database, job.productionId, [clip.id], 'clips', 'cuts')
    meter.report(++done, clipIds.length, 'files')
  }
  return { kind: 'try', ...counts }
}

async function tryClip(database: Database, clip: KnownClip, signal: AbortSignal): Promise<'clean' | 'damaged'> {
  let outcome: 'clean' | 'damaged' = 'clean'
  for (const file of clip.files) {
    const broken = await brokenPlaces(file, signal)
    const complaint = broken.length
      ? ((await damageOf(clip, signal)) ?? `${file.fullPath} cannot be decoded at ${broken.join(' and ')}.`)
      : null
    if (complaint !== null) outcome = 'damaged'
    const values = { fileId: file.id, fingerprint: file.fingerprint, complaint, triedAt: new Date() }
    await database
      .insert(originalTrials)
      .values(values)
      .onConflictDoUpdate({ target: originalTrials.fileId, set: values })
  }
  return outcome
}

/** Of numbered stills the first, the middle and the last are tried. */
async function brokenPlaces(file: KnownFile, signal: AbortSignal): Promise<string[]> {
  const { facts, sequence } = file
  if (!facts) return []
  if (!sequence) return tryDecoding(file.fullPath, facts, signal)
  const stills = [...new Set(sequenceFramePaths(sequence))]
  const places = new Set([0, Math.floor(stills.length / 2), stills.length - 1])
  const broken: string[] = []
  for (const place of places) {
    const path = stills[place] as string
    const still = { ...facts, kind: 'still' as const }
    if ((await tryDecoding(join(file.root, path), still, signal)).length) broken.push(path)
  }
  return broken
}
