import { decodeEvidence, type EvidenceRow } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { decodeWhole } from '../engine/picture-proof.ts'
import { stampOfPlaced } from '../intake/describe-file.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import type { JobResult } from '../store/job-schema.ts'
import { type KnownPair, readMaterial } from '../store/material.ts'
import { pairs } from '../store/schema.ts'
import { compareEveryFrame } from './compare-every-frame.ts'
import { pictureOf } from './present.ts'

/**
 * Decodes made items from their first frame to their last, behind all other work, and writes what came of it beside
 * their proof. Items for cutting are proven by some of their pictures when they are made; this compares all of them
 * with the original's, where that is here.
 */
export async function decodePairs(
  context: WorkContext,
  meter: ProgressMeter,
  pairIds: readonly string[],
): Promise<JobResult> {
  const { database, job, signal } = context
  const material = await readMaterial(database, job.productionId)
  const asked = pairIds.flatMap((pairId) => material.pairs.get(pairId) ?? [])
  const here = asked.filter((pair) => pair.files.length > 0 && pair.files.every(({ file }) => file.presence === 'here'))
  const total = here.reduce((sum, pair) => sum + framesOf(pair), 0)
  meter.restart()
  let before = 0
  let clean = 0
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
    const clip = material.clips.get(pair.clipId)
    const pictures = complaint === null && clip ? await compareEveryFrame(pair, clip, signal) : null
    if (complaint === null && pictures?.agrees !== false) clean++
    else if (await areThere(pair)) broken++
    else continue
    await keepDecoded(database, pair, complaint, pictures)
  }
  await announce(database, job.productionId, 'pairs', 'clips', 'cuts')
  return { kind: 'decode', clean, broken, absent: pairIds.length - clean - broken }
}

/**
 * Writes down how a pair, as it was read before, has decoded. Decoding takes long: what a check found meanwhile stays,
 * and when it found other files under the names of this pair's, the decode says nothing of them.
 */
export async function keepDecoded(
  database: Database,
  pair: KnownPair,
  complaint: string | null,
  pictures: EvidenceRow | null = null,
): Promise<void> {
  await database.transaction(async (transaction) => {
    const [now] = await transaction
      .select({ proof: pairs.proof, made: pairs.madeFingerprints })
      .from(pairs)
      .where(eq(pairs.id, pair.id))
      .for('update')
    if (!now || now.made.join() !== pair.madeFingerprints.join()) return
    const others = (now.proof ?? []).filter(({ aspect }) => aspect !== 'decode' && !(pictures && aspect === 'pictures'))
    const proof = [
      ...others,
      decodeEvidence(pictureOf(pair)?.frames ?? null, complaint),
      ...(pictures ? [pictures] : []),
    ]
    await transaction.update(pairs).set({ proof, checkedAt: new Date() }).where(eq(pairs.id, pair.id))
  })
}

/** A file that was taken away while it was to be read is not broken. */
async function areThere(pair: KnownPair): Promise<boolean> {
  for (const { file } of pair.files) if (!(await stampOfPlaced(file).catch(() => null))) return false
  return true
}

const framesOf = (pair: KnownPair): number =>
  pair.files.reduce((sum, { file }) => sum + (file.facts?.picture?.frames ?? 0), 0)
