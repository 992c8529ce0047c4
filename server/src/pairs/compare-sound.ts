import {
  alignSound,
  type EvidenceRow,
  fitOffset,
  type MeasuredStretch,
  type MediaFacts,
  soundSyncEvidence,
} from '@ennick/core'
import type { HeardFiles } from '../engine/decode-sound.ts'
import { soundStretches } from '../engine/hear.ts'
import type { KnownClip, KnownPair } from '../store/known-material.ts'

const sampleRate = 48_000
/** A second and a third, and no less than a quarter of that. */
const longest = 65_536
const shortest = 16_384
/** It may lie so far off; what lies farther is not found. */
const mostSeconds = 0.4
/** Where in what both have it is listened to, in parts of its length. */
const places = [0.1, 0.35, 0.6, 0.85]
/** One stretch alone may be like another by chance. */
const leastAgreeing = 2

/**
 * How the sound of an item lies to its original's, by a few stretches of both. None where either has none, where nothing
 * is heard that tells one moment from another, or where the stretches do not agree: then nothing is said.
 * @param besideSeconds the original's moment at the item's first frame
 */
export async function compareSound(
  clip: KnownClip,
  pair: KnownPair,
  besideSeconds: number,
  signal: AbortSignal,
): Promise<EvidenceRow[]> {
  const [source, item] = [clip.main.facts, pair.files.find(({ part }) => part !== 'sound')?.file]
  if (!source?.picture || !item?.facts?.picture || source.sound.length === 0 || item.facts.sound.length === 0) return []
  // What was laid with a recording is not its camera's sound.
  if (pair.laidSound) return []
  const original: HeardFiles = { files: clip.files.flatMap((file) => withFacts(file)) }
  const made: HeardFiles = { files: withFacts(item) }
  const [from, to] = [Math.max(0, -besideSeconds), Math.min(secondsOf(item.facts), secondsOf(source) - besideSeconds)]
  const samples = stretchOf(to - from)
  if (samples === null) return []
  const toMilliseconds = (seconds: number): number => Math.round(seconds * 1000) / 1000
  const moments = places.map((place) => toMilliseconds(from + place * (to - from - samples / sampleRate)))
  const beside = moments.map((seconds) => toMilliseconds(seconds + besideSeconds))
  const [ofOriginal, ofMade] = await Promise.all([
    soundStretches(original, { fromSeconds: beside, samples, sampleRate }, signal),
    soundStretches(made, { fromSeconds: moments, samples, sampleRate }, signal),
  ])
  const stretches: MeasuredStretch[] = []
  for (const [index, atSeconds] of moments.entries()) {
    const [one, other] = [ofOriginal[index], ofMade[index]]
    if (one?.length !== samples || other?.length !== samples) continue
    const aligned = alignSound(one, other, Math.min(mostSeconds * sampleRate, samples / 2))
    if (aligned) stretches.push({ atSeconds, offsetSamples: aligned.shiftSamples, sharpness: aligned.sharpness })
  }
  const offset = fitOffset(stretches, sampleRate)
  if (!offset || offset.agreeing < leastAgreeing) return []
  return [soundSyncEvidence(offset.offsetSamples, sampleRate, source.picture.rate)]
}

const withFacts = <File extends { readonly facts: MediaFacts | null }>(file: File): (File & { facts: MediaFacts })[] =>
  file.facts ? [{ ...file, facts: file.facts }] : []

function secondsOf({ picture }: MediaFacts): number {
  return picture ? (picture.frames * picture.rate.denominator) / picture.rate.numerator : 0
}

/** The longest stretch of a power of two that fits well into what both have. */
function stretchOf(seconds: number): number | null {
  for (let samples = longest; samples >= shortest; samples /= 2)
    if (seconds * sampleRate >= samples * 1.25) return samples
  return null
}
