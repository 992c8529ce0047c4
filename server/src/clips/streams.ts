import type { MediaFacts } from '@ennick/core'

/**
 * Streams of a clip that this machine decodes in real time at once, leaving a fifth of its speed for everything else.
 */
export function streamsAtOnce(facts: MediaFacts | null, framesPerSecond: number): number | null {
  const rate = facts?.kind === 'picture' ? facts.picture?.rate : null
  if (!rate) return null
  return Math.floor((framesPerSecond * 0.8 * rate.denominator) / rate.numerator)
}

/** Streams of a data rate that a volume delivers in real time at once, leaving a fifth of its speed for all else. */
export const streamsDelivered = (bitsPerSecond: number | null, bytesPerSecond: number): number | null =>
  bitsPerSecond === null || bitsPerSecond <= 0 ? null : Math.floor((bytesPerSecond * 8 * 0.8) / bitsPerSecond)
