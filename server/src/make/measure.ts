import { groupBy } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { measureDecode } from '../engine/decode-speed.ts'
import { measureRead } from '../engine/read-speed.ts'
import { isFileError } from '../errors.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announceClips } from '../store/announce.ts'
import { decodeSpeeds, readSpeeds } from '../store/catalogue-schema.ts'
import type { JobResult } from '../store/job-types.ts'
import type { KnownClip } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'

/**
 * Decodes a short sample of each clip, one after another, and reads a piece of the largest from each of their volumes:
 * apart, so that it can be told which of the two is the trouble. Keeps how fast that went.
 */
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
  await measureVolumes(context, moving)
  return { kind: 'measure', measured, skipped: clipIds.length - measured }
}

/** Reading is a matter of the volume: the largest of its files tells most. */
async function measureVolumes({ database, signal }: WorkContext, clips: readonly KnownClip[]): Promise<void> {
  for (const own of groupBy(clips, ({ main }) => main.volumeId).values()) {
    const { main } = own.reduce((largest, clip) => (clip.main.sizeBytes > largest.main.sizeBytes ? clip : largest))
    // Numbered stills are many small files: reading one of them says nothing of all.
    if (main.sequence) continue
    // One that has gone meanwhile tells nothing, and is no reason to lose what was measured.
    const bytesPerSecond = await measureRead(main.fullPath, main.sizeBytes, signal).catch((error) => {
      if (isFileError(error)) return null
      throw error
    })
    if (bytesPerSecond === null) continue
    const set = { bytesPerSecond, measuredAt: new Date() }
    await database
      .insert(readSpeeds)
      .values({ volumeId: main.volumeId, ...set })
      .onConflictDoUpdate({ target: readSpeeds.volumeId, set })
  }
}
