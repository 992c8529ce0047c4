import { eq } from 'drizzle-orm'
import { measureDecode } from '../engine/decode-speed.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announceClips } from '../store/announce.ts'
import { decodeSpeeds } from '../store/catalogue-schema.ts'
import type { JobResult } from '../store/job-schema.ts'
import { readMaterial } from '../store/material.ts'

/** Decodes a short sample of each clip, one after another, and keeps how fast that went. */
export async function measureClips(
  context: WorkContext,
  meter: ProgressMeter,
  clipIds: readonly string[],
): Promise<JobResult> {
  const { database, job, signal } = context
  const material = await readMaterial(database, job.productionId, clipIds)
  const moving = [...material.clips.values()].filter(
    (clip) => clip.main.facts?.kind === 'picture' && clip.presence === 'here',
  )
  let measured = 0
  let done = 0
  for (const clip of moving) {
    signal.throwIfAborted()
    const [known] = await database
      .select()
      .from(decodeSpeeds)
      .where(eq(decodeSpeeds.fingerprint, clip.main.fingerprint))
    const framesPerSecond = known || !clip.main.facts ? null : await measureDecode(clip.main, clip.main.facts, signal)
    if (framesPerSecond !== null) {
      await database
        .insert(decodeSpeeds)
        .values({ fingerprint: clip.main.fingerprint, framesPerSecond })
        .onConflictDoNothing()
      await announceClips(database, job.productionId, [clip.id], 'clips')
      measured++
    }
    meter.report(++done, moving.length, 'files')
  }
  return { kind: 'measure', measured, skipped: clipIds.length - measured }
}
