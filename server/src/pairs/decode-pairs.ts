import { decodeEvidence, type EvidenceRow } from '@ennick/core'
import { decodeWhole } from '../engine/picture-proof.ts'
import { stampOfPlaced } from '../intake/describe-file.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import type { JobResult } from '../store/job-types.ts'
import { type KnownPair, playsNow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { compareEveryFrame } from './compare-every-frame.ts'
import { keepProof } from './keep-proof.ts'
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
  const here = asked.filter(playsNow)
  // Each is decoded, and then compared with its original.
  const total = 2 * here.reduce((sum, pair) => sum + framesOf(pair), 0)
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
    const pictures =
      complaint === null && clip
        ? await compareEveryFrame(pair, clip, signal, (done) => meter.report(before + done, total, 'frames'))
        : null
    before += framesOf(pair)
    if (complaint === null && pictures?.agrees !== false) clean++
    else if (await areThere(pair)) broken++
    else continue
    await keepDecoded(database, pair, complaint, pictures)
  }
  await announce(database, job.productionId, 'pairs', 'clips', 'cuts')
  return { kind: 'decode', clean, broken, absent: pairIds.length - clean - broken }
}

/** Writes down how a pair, as it was read before, has decoded, and how its pictures compare where they were compared. */
export const keepDecoded = (
  database: Database,
  pair: KnownPair,
  complaint: string | null,
  pictures: EvidenceRow | null = null,
): Promise<void> => {
  const decoded = decodeEvidence(pictureOf(pair)?.frames ?? null, complaint)
  return pictures
    ? keepProof(database, pair, ['decode', 'pictures'], [decoded, pictures])
    : keepProof(database, pair, ['decode'], [decoded])
}

/** A file that was taken away while it was to be read is not broken. */
async function areThere(pair: KnownPair): Promise<boolean> {
  for (const { file } of pair.files) if (!(await stampOfPlaced(file).catch(() => null))) return false
  return true
}

const framesOf = (pair: KnownPair): number =>
  pair.files.reduce((sum, { file }) => sum + (file.facts?.picture?.frames ?? 0), 0)
