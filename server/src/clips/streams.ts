import type { MediaFacts } from '@ennick/core'

/**
 * Streams of a clip that this machine decodes in real time at once, leaving a fifth of its speed for everything else.
 */
export function streamsAtOnce(facts: MediaFacts | null, framesPerSecond: number): number | null {
  const rate = facts?.kind === 'picture' ? facts.picture?.rate : null
  if (!rate) return null
  return Math.floor((framesPerSecond * 0.8 * rate.denominator) / rate.numerator)
}
