import { decodeEvidence, type MediaFacts } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { decodeWhole } from '../engine/picture-proof.ts'
import { announce } from '../store/announce.ts'
import type { JobResult } from '../store/job-schema.ts'
import { pairs } from '../store/schema.ts'
import { readWorld, type WorldPair } from '../store/world.ts'
import type { WorkContext } from './context.ts'
import type { ProgressMeter } from './progress.ts'

/**
 * Decodes made items from their first frame to their last, behind all other work, and writes what came of it beside
 * their proof. Items for cutting are proven by some of their pictures when they are made; this proves the rest.
 */
export async function decodePairs(context: WorkContext, meter: ProgressMeter, pairIds: readonly string[]): Promise<JobResult> {
  const { database, job, signal } = context
  const world = await readWorld(database, job.productionId)
  const asked = pairIds.flatMap((pairId) => world.pairs.get(pairId) ?? [])
  const here = asked.filter((pair) => pair.files.length > 0 && pair.files.every(({ file }) => file.presence === 'here'))
  const total = here.reduce((sum, pair) => sum + framesOf(pair), 0)
  meter.restart()
  let before = 0
  let broken = 0
  for (const pair of here) {
    let complaint: string | null = null
    for (const { file } of pair.files) {
      signal.throwIfAborted()
      const frames = file.facts?.picture?.frames ?? null
      complaint ??= await decodeWhole(file.fullPath, frames, { signal, isPolite: true }, (done) =>
        meter.report(before + done, total, 'frames'),
      )
      before += frames ?? 0
    }
    if (complaint !== null) broken++
    const proof = [
      ...(pair.proof ?? []).filter(({ aspect }) => aspect !== 'decode'),
      decodeEvidence(pictureOf(pair)?.frames ?? null, complaint),
    ]
    await database.update(pairs).set({ proof, checkedAt: new Date() }).where(eq(pairs.id, pair.id))
    await announce(database, job.productionId, 'pairs')
  }
  await announce(database, job.productionId, 'pairs', 'clips', 'cuts')
  return { kind: 'decode', clean: here.length - broken, broken, absent: pairIds.length - here.length }
}

const pictureOf = (pair: WorldPair): MediaFacts['picture'] | null =>
  pair.files.find(({ part }) => part !== 'sound')?.file.facts?.picture ?? null
const framesOf = (pair: WorldPair): number => pair.files.reduce((sum, { file }) => sum + (file.facts?.picture?.frames ?? 0), 0)
