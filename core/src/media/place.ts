import { floor, formatTimecode, type Rate, samplesAsFrames, toNumber } from '../time/index.ts'
import type { MediaFacts } from './facts.ts'

/**
 * The start of a medium as a label. Sound is labelled at the rate and flag that its recorder stated, else at the
 * fallback's; a start between two frames has the label of the earlier.
 */
export function startLabel(facts: MediaFacts, fallback: Rate): string | null {
  if (facts.startFrame !== null && facts.picture)
    return formatTimecode(facts.startFrame, facts.picture.rate, facts.dropFrame)
  const first = facts.sound[0]
  if (facts.timeReferenceSamples === null || !first) return null
  const rate = facts.soundNotes?.timecodeRate ?? fallback
  const { start } = samplesAsFrames(facts.timeReferenceSamples, 0, first.sampleRate, rate)
  return formatTimecode(
    Number(floor(start)),
    rate,
    facts.soundNotes?.timecodeRate ? (facts.soundNotes.dropFrame ?? false) : false,
  )
}

/** How long a medium is in whole frames: its own for a picture, the fallback's for sound. Null for a still. */
export function lengthFrames(facts: MediaFacts, fallback: Rate): number | null {
  if (facts.kind === 'still') return null
  if (facts.picture) return facts.picture.frames
  const first = facts.sound[0]
  if (!first || first.samples === null) return null
  return Math.floor(
    toNumber(samplesAsFrames(0, first.samples, first.sampleRate, facts.soundNotes?.timecodeRate ?? fallback).end),
  )
}

/** The same as a label that counts from nought, at the rate and flag of the start. Null for a still. */
export function durationLabel(facts: MediaFacts, fallback: Rate): string | null {
  const frames = lengthFrames(facts, fallback)
  if (frames === null) return null
  const { soundNotes, picture, dropFrame } = facts
  return formatTimecode(
    frames,
    picture?.rate ?? soundNotes?.timecodeRate ?? fallback,
    picture ? dropFrame : soundNotes?.timecodeRate ? (soundNotes.dropFrame ?? false) : false,
  )
}

/** Bits per second over the whole medium; null when its length is not known or nothing runs. */
export function dataRate(facts: MediaFacts, sizeBytes: number): number | null {
  if (facts.kind === 'still') return null
  if (facts.picture?.frames)
    return Math.round(
      (sizeBytes * 8 * facts.picture.rate.numerator) / (facts.picture.frames * facts.picture.rate.denominator),
    )
  const first = facts.sound[0]
  return first?.samples ? Math.round((sizeBytes * 8 * first.sampleRate) / first.samples) : null
}
