import { nominalFramesPerSecond, type Rate } from '../time/index.ts'

export const qualitySteps = ['lighter', 'usual', 'finer'] as const
export type QualityStep = (typeof qualitySteps)[number]

/** How much of the picture is kept, where a codec leaves that open: a step, or a data rate that is aimed at. */
export type RecipeQuality =
  | { readonly kind: 'step'; readonly step: QualityStep }
  | { readonly kind: 'rate'; readonly kilobits: number }

export const usualQuality: RecipeQuality = { kind: 'step', step: 'usual' }

export const isUsual = (quality: RecipeQuality): boolean => quality.kind === 'step' && quality.step === 'usual'

/** The words that ask an encoder for a quality: one for each step, or those for a data rate. */
export const qualityWords =
  (steps: Readonly<Record<QualityStep, readonly string[]>>, forRate: (kilobits: number) => readonly string[]) =>
  (quality: RecipeQuality): readonly string[] =>
    quality.kind === 'step' ? steps[quality.step] : forRate(quality.kilobits)

/** A data rate that may swing by half, over two seconds. */
export const heldRate = (kilobits: number): string[] => [
  ...['-b:v', `${kilobits}k`, '-maxrate', `${Math.ceil(1.5 * kilobits)}k`, '-bufsize', `${2 * kilobits}k`],
]

/**
 * How much a step takes against the usual one, a rough guide: of a picture with grain lighter was 0.3 to 0.6 of it, and
 * finer 2.1 to 2.9, six times for long GOP.
 */
const weightOfStep: Readonly<Record<QualityStep, number>> = { lighter: 0.45, usual: 1, finer: 2.3 }

/**
 * Bits for each pixel of typical pictures.
 * @param usualBits those of the codec's usual quality
 */
export function typicalBits(
  usualBits: number,
  quality: RecipeQuality,
  made: { readonly width: number; readonly height: number; readonly rate: Rate },
): number {
  if (quality.kind === 'step') return usualBits * weightOfStep[quality.step]
  return (quality.kilobits * 1000) / (nominalFramesPerSecond(made.rate) * made.width * made.height)
}
