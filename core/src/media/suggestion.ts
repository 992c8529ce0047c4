import type { MediaFacts, PictureFacts } from './facts.ts'

export type Suggestion = 'cut as it is' | 'proxy' | 'transcode' | 'not measured'

/** Codecs whose every frame stands alone: a cut can begin at any of them without decoding others. */
const framesAlone = new Set([
  'prores',
  'dnxhd',
  'mjpeg',
  'ffv1',
  'rawvideo',
  'dpx',
  'png',
  'tiff',
  'exr',
  'v210',
  'jpeg2000',
  'qtrle',
  'r210',
  'dvvideo',
  'cfhd',
  'huffyuv',
  'ffvhuff',
  'utvideo',
])

/** Whether every frame stands alone, by its codec or by its first frames; null where neither says. */
export const isAllIntra = ({ codec, stored }: PictureFacts): boolean | null =>
  framesAlone.has(codec) ? true : (stored?.isIntra ?? null)

/** Streams that a cutting room wants to play at once: two pictures, and one to spare while they change. */
export const wantedStreams = 3

/** Streams of a clip that were measured to go at once; null where that was not measured. */
export interface MeasuredStreams {
  /** That are decoded. */
  readonly plays: number | null
  /** That its volume delivers. */
  readonly reads: number | null
}

/**
 * What would make a clip good to cut with, and why: which of the two is the trouble, reading it or decoding it.
 * @param productionWidth a picture larger than this is larger than what is finished
 */
export function suggest(
  facts: MediaFacts | null,
  { plays, reads }: MeasuredStreams,
  productionWidth: number,
): { suggestion: Suggestion; reason: string } {
  if (facts?.kind !== 'picture' || !facts.picture)
    return { suggestion: 'cut as it is', reason: 'sound and stills are light' }
  if (plays === null) return { suggestion: 'not measured', reason: 'how fast it decodes here is not known yet' }
  const isAlone = isAllIntra(facts.picture)
  const atOnce = plays === 0 ? 'does not play in real time here' : `plays ${plays === 1 ? 'one' : plays} at once here`
  const isSlowDisk = reads !== null && reads < wantedStreams
  if (plays >= wantedStreams && isSlowDisk)
    return {
      suggestion: 'proxy',
      reason:
        `${atOnce}, but its volume delivers ${reads === 0 ? 'not even one' : reads}: ` +
        'reading is the trouble, and a smaller view of it would not help',
    }
  if (plays >= wantedStreams && isAlone) return { suggestion: 'cut as it is', reason: `${atOnce}, and is all-intra` }
  if (plays >= wantedStreams) return { suggestion: 'cut as it is', reason: atOnce }
  const trouble =
    reads === null
      ? ''
      : isSlowDisk
        ? '; both decoding and reading it are too slow'
        : '; decoding is the trouble, and a smaller view of it may be enough'
  if (isLarger(facts.picture, productionWidth))
    return { suggestion: 'proxy', reason: `${atOnce}, and is larger than the production${trouble}` }
  if (!isAlone && !isSlowDisk)
    return {
      suggestion: 'transcode',
      reason:
        `${atOnce}${isAlone === false ? '; it is long GOP' : ''}: ` +
        `an easier codec of the same size would play${trouble}`,
    }
  return { suggestion: 'proxy', reason: `${atOnce}${trouble}` }
}

const isLarger = (picture: PictureFacts, width: number): boolean => picture.width > width
