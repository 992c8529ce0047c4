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
])

/** Whether every frame stands alone, by its codec or by its first frames; null where neither says. */
export const isAllIntra = ({ codec, stored }: PictureFacts): boolean | null =>
  framesAlone.has(codec) ? true : (stored?.isIntra ?? null)

/** Streams that a cutting room wants to play at once: two pictures, and one to spare while they change. */
export const wantedStreams = 3

/**
 * What would make a clip good to cut with, and why.
 * @param plays streams of it that were measured to decode at once; null when not measured
 * @param productionWidth a picture larger than this is larger than what is finished
 */
export function suggest(
  facts: MediaFacts | null,
  plays: number | null,
  productionWidth: number,
): { suggestion: Suggestion; reason: string } {
  if (facts?.kind !== 'picture' || !facts.picture)
    return { suggestion: 'cut as it is', reason: 'sound and stills are light' }
  if (plays === null) return { suggestion: 'not measured', reason: 'how fast it decodes here is not known yet' }
  const isAlone = isAllIntra(facts.picture)
  const atOnce = plays === 0 ? 'does not play in real time here' : `plays ${plays === 1 ? 'one' : plays} at once here`
  if (plays >= wantedStreams && isAlone) return { suggestion: 'cut as it is', reason: `${atOnce}, and is all-intra` }
  if (plays >= wantedStreams) return { suggestion: 'cut as it is', reason: atOnce }
  if (isLarger(facts.picture, productionWidth))
    return { suggestion: 'proxy', reason: `${atOnce}, and is larger than the production` }
  if (!isAlone)
    return {
      suggestion: 'transcode',
      reason: `${atOnce}${isAlone === false ? '; it is long GOP' : ''}: an easier codec of the same size would play`,
    }
  return { suggestion: 'proxy', reason: atOnce }
}

const isLarger = (picture: PictureFacts, width: number): boolean => picture.width > width
