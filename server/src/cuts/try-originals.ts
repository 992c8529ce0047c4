import { lookAtFile } from '../pairs/look-at-file.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announceClips } from '../store/announce.ts'
import type { JobResult } from '../store/job-types.ts'
import type { KnownClip } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'

/** Decodes clips' originals at head, quarters and tail, whether that was done before or not. */
export async function tryOriginals(
  context: WorkContext,
  meter: ProgressMeter,
  clipIds: readonly string[],
): Promise<JobResult> {
  const { database, job, signal } = context
  const material = await readMaterial(database, job.productionId, clipIds)
  const counts = { clean: 0, damaged: 0, absent: 0 }
  let done = 0
  for (const clip of material.clips.values()) {
    signal.throwIfAborted()
    counts[await tryClip(context, clip)]++
    await announceClips(database, job.productionId, [clip.id], 'clips', 'cuts')
    meter.report(++done, clipIds.length, 'files')
  }
  return { kind: 'try', ...counts }
}

async function tryClip(context: WorkContext, clip: KnownClip): Promise<'clean' | 'damaged' | 'absent'> {
  if (clip.presence !== 'here') return 'absent'
  const outcomes = []
  for (const file of clip.files) outcomes.push(await lookAtFile(context, file, file.volume, clip.id))
  if (outcomes.includes('absent')) return 'absent'
  return outcomes.includes('damaged') ? 'damaged' : 'clean'
}
