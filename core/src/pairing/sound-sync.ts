import { compare, type Fraction, formatFrames, fraction, multiply, type Rate, rateAsFraction } from '../time/index.ts'
import type { EvidenceRow } from './compare.ts'

/** By less than this nobody hears it, and encoders that compress sound shift it. */
const halfAFrame = fraction(1, 2)

/**
 * How the sound of an item lies to its original's, as evidence: in sync; less than a frame off, which is told and is no
 * fault, as compressed sound begins some samples late; or off by a frame and more.
 * @param lateSamples by which the item's sound comes later than its original's, below zero earlier
 * @param rate of the pictures
 */
export function soundSyncEvidence(lateSamples: number, sampleRate: number, rate: Rate): EvidenceRow {
  const late: Fraction = multiply(fraction(Math.round(Math.abs(lateSamples)), sampleRate), rateAsFraction(rate))
  const row = { aspect: 'sound sync', expected: 'at the moment of the original’s' } as const
  if (compare(late, halfAFrame) < 0)
    return { ...row, found: `${Math.round(Math.abs(lateSamples))} samples off`, agrees: true, difference: null }
  const found = `${formatFrames(late)} ${lateSamples > 0 ? 'late' : 'early'}`
  const agrees = compare(late, fraction(1)) < 0
  return { ...row, found, agrees, difference: `its sound runs ${found}` }
}
