import {
  comparedFrames,
  comparePictureStretches,
  mostShift,
  normalStretches,
  type PictureComparison,
  pictureEvidence,
  type Stretch,
  sameRate,
  signPictures,
  stretchStarts,
  surelySame,
} from '@ennick/core'
import { lookAt } from '../engine/look.ts'
import { areAsKnown } from '../intake/describe-file.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announceClips } from '../store/announce.ts'
import type { KnownClip, KnownPair } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { compareSound } from './compare-sound.ts'
import { giveWay } from './give-way.ts'
import { keepProof } from './keep-proof.ts'
import { lookAtClip } from './look-at-clip.ts'
import { PictureCatalogue } from './picture-catalogue.ts'

/** Pictures are told apart finely: by this raster a shift of one frame shows in grain and in slow pans. */
const width = 64
const height = 36
/** A proxy that is longer or shorter by more than this was cut: then its timecode says which frame is which. */
const mostCutFrames = 4

type Asked = readonly { readonly pairId: string; readonly clipId: string }[]

/**
 * Compares the pictures of pairs with those of their originals, and how their sound lies to them, and writes what came
 * of it beside their proof.
 * @param next the next pairs after one of them, a few at a time
 * @returns how many were compared
 */
export async function comparePicturesOf(
  context: WorkContext,
  meter: ProgressMeter,
  next: (after: string | null) => Promise<Asked>,
): Promise<number> {
  const { database, job, signal } = context
  let compared = 0
  let after: string | null = null
  let catalogue: PictureCatalogue | null = null
  for (;;) {
    const asked: Asked = await next(after)
    if (asked.length === 0) return compared
    const material = await readMaterial(
      database,
      job.productionId,
      asked.map(({ clipId }) => clipId),
    )
    for (const { pairId, clipId } of asked) {
      await giveWay(context)
      after = pairId
      const [pair, clip] = [material.pairs.get(pairId), material.clips.get(clipId)]
      if (!pair || !clip || !(await areThere(pair, clip))) continue
      const seen = await look(clip, pair, signal)
      if (!seen || !(await areThere(pair, clip))) continue
      let { comparison } = seen
      let shows: string | null = null
      // What is only somewhat alike may be a look-alike: then another original is clearly nearer.
      if (comparison.kind !== 'alike' || comparison.distance > surelySame) {
        catalogue ??= await PictureCatalogue.read(database, job.productionId)
        shows = await catalogue.otherThan(database, clipId, signPictures(seen.made))
        if (shows !== null) comparison = { kind: 'other' }
      }
      const row = pictureEvidence(comparison, shows)
      const picturesCompared = [...clip.files, ...pair.files.map(({ file }) => file)].map((file) => file.fingerprint)
      const sound = await compareSound(clip, pair, seen.besideSeconds, signal)
      if (!(await areThere(pair, clip))) continue
      const rows = [...(row ? [row] : []), ...sound]
      await keepProof(database, pair, ['pictures', 'sound sync'], rows, { picturesCompared })
      await announceClips(database, job.productionId, [clipId], 'pairs', 'clips', 'cuts')
      meter.report(++compared, compared + asked.length, 'files')
    }
  }
}

/** Whether all files of both are where they were, and as they were. */
const areThere = (pair: KnownPair, clip: KnownClip): Promise<boolean> =>
  areAsKnown([...clip.files, ...pair.files.map(({ file }) => file)])

async function look(
  clip: KnownClip,
  pair: KnownPair,
  signal: AbortSignal,
): Promise<{ comparison: PictureComparison; made: readonly Stretch[]; besideSeconds: number } | null> {
  const part = pair.files.find(({ part }) => part !== 'sound')
  const source = clip.main.facts
  const facts = part?.file.facts
  if (!part || !source?.picture || !facts?.picture) return null
  const unknown = { comparison: { kind: 'not known' as const }, made: [], besideSeconds: 0 }
  // Frames of two rates do not stand beside each other.
  if (!sameRate(source.picture.rate, facts.picture.rate)) return unknown
  const isCut = Math.abs(source.picture.frames - facts.picture.frames) > mostCutFrames
  if (isCut && (source.startFrame === null || facts.startFrame === null)) return unknown
  /** The original's frame beside the item's first one. */
  const beside = isCut ? (facts.startFrame as number) - (source.startFrame as number) : 0
  const starts = stretchStarts(facts.picture.frames, comparedFrames)
  const made = await lookAt({ ...part.file, facts }, starts, comparedFrames, signal)
  const original = await lookAtClip(
    clip.files.filter((file) => file.facts?.picture),
    starts.map((start) => start + beside - mostShift),
    comparedFrames + 2 * mostShift,
    signal,
  )
  const moved = made.stretches.map((stretch) => ({ ...stretch, from: stretch.from + beside }))
  return {
    comparison: comparePictureStretches(
      normalStretches(original, width, height),
      normalStretches(moved, width, height),
    ),
    made: made.stretches,
    besideSeconds: (beside * source.picture.rate.denominator) / source.picture.rate.numerator,
  }
}
