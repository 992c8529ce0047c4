import { type EnvelopeMatch, EnvelopeMatcher, type PreparedEnvelope } from './correlate.ts'
import { envelopeRate, liveliness } from './envelope.ts'

/** What is heard of a picture or a recording. */
export interface Heard {
  readonly id: string
  /** Null where it has no sound at all. */
  readonly envelope: Float32Array | null
  /** The shoot day that is said of it; null where none is. */
  readonly day: string | null
}

/** A recording in which the sound of a picture may lie. */
export interface HeardPlace {
  readonly soundId: string
  /** Of the recording at the picture's first frame, to a fiftieth of a second; below zero when it begins later. */
  readonly roughSeconds: number
  /** How alike the two are there, from 0 to 1. */
  readonly likeness: number
}

/** What became of a picture. */
export type WaveformOutcome =
  | { readonly kind: 'found'; readonly pictureId: string; readonly place: HeardPlace }
  | { readonly kind: 'several'; readonly pictureId: string; readonly places: readonly HeardPlace[] }
  | { readonly kind: 'no scratch' | 'silent' | 'too short' | 'nothing alike'; readonly pictureId: string }

/** By chance alone two envelopes reach a weight of 9 over an hour; what is less says nothing. */
const leastWeight = 11
/** By so much the right place stands out from every other one. */
const clearly = 1.4
/** An envelope that changes less is that of silence, of hiss or of a tone. */
const leastLiveliness = 0.05
const leastOverlapSeconds = 2

/**
 * Finds for each picture the recording, and the place in it, that its scratch track is most like. One of them is found
 * where it stands out clearly from every other place of every recording; where two do, a person chooses.
 * @param sameDay whether a picture and a recording may belong together at all
 * @returns an outcome after each picture, so that the caller can do other things meanwhile
 */
export function* matchWaveforms(
  pictures: readonly Heard[],
  recordings: readonly Heard[],
  sameDay: (picture: Heard, recording: Heard) => boolean,
): Generator<WaveformOutcome> {
  const length = (heard: readonly Heard[]): number => Math.max(1, ...heard.map(({ envelope }) => envelope?.length ?? 0))
  const matcher = new EnvelopeMatcher((length(pictures) + length(recordings)) / 2)
  const prepared = recordings.flatMap((recording) =>
    isLively(recording) ? [{ recording, ready: matcher.prepare(recording.envelope) }] : [],
  )
  for (const picture of pictures) {
    const pictureId = picture.id
    const overlap = leastOverlapSeconds * envelopeRate
    if (!picture.envelope) yield { kind: 'no scratch', pictureId }
    else if (!isLively(picture)) yield { kind: 'silent', pictureId }
    else if (picture.envelope.length < overlap) yield { kind: 'too short', pictureId }
    else {
      const ready = matcher.prepare(picture.envelope)
      const ofDay = prepared.filter(({ recording }) => sameDay(picture, recording))
      yield decide(pictureId, placesOf(matcher, ready, ofDay, overlap))
    }
  }
}

const isLively = (heard: Heard): heard is Heard & { readonly envelope: Float32Array } =>
  heard.envelope !== null && liveliness(heard.envelope) >= leastLiveliness

interface RatedPlace {
  readonly soundId: string
  readonly match: EnvelopeMatch
}

function placesOf(
  matcher: EnvelopeMatcher,
  picture: PreparedEnvelope,
  recordings: readonly { readonly recording: Heard; readonly ready: PreparedEnvelope }[],
  overlap: number,
): RatedPlace[] {
  const matches = matcher.match(
    picture,
    recordings.map(({ ready }) => ready),
    overlap,
  )
  const places = recordings.flatMap(({ recording }, index) => {
    const match = matches[index]
    return match ? [{ soundId: recording.id, match }] : []
  })
  return places.sort((a, b) => b.match.weight - a.match.weight)
}

function decide(pictureId: string, places: readonly RatedPlace[]): WaveformOutcome {
  const [best, ...others] = places
  if (!best || best.match.weight < leastWeight || best.match.weight < clearly * best.match.nextWeight)
    return { kind: 'nothing alike', pictureId }
  const rivals = others.filter(({ match }) => match.weight >= leastWeight && match.weight * clearly > best.match.weight)
  if (rivals.length > 0) return { kind: 'several', pictureId, places: [best, ...rivals].map(asPlace) }
  return { kind: 'found', pictureId, place: asPlace(best) }
}

const asPlace = ({ soundId, match }: RatedPlace): HeardPlace => ({
  soundId,
  roughSeconds: match.lag / envelopeRate,
  likeness: Math.max(0, Math.min(1, match.likeness)),
})

/** How a stretch of a picture's sound was found to lie in its recording. */
export interface MeasuredStretch {
  /** Its middle, in seconds from the picture's first frame. */
  readonly atSeconds: number
  /** The sample of the recording at the picture's first frame, if this stretch alone is believed. */
  readonly offsetSamples: number
  /** From 0 to 1: how clear that was. */
  readonly sharpness: number
}

/** The place of a picture in its recording, measured to the sample. */
export interface MeasuredOffset {
  /** The sample of the recording at the picture's first frame. */
  readonly offsetSamples: number
  /** By how much the recorder's clock runs faster than the camera's, in millionths; null where too short to say. */
  readonly driftPartsPerMillion: number | null
  /** Stretches that agree, of those that were measured. */
  readonly agreeing: number
}

/** What is less sharp is no peak: two sounds that have nothing in common reach a fourteenth. */
const leastSharpness = 0.12
/** No clock of a recorder or camera is farther off than this. */
const mostDrift = 200e-6
/** Two places nearer to each other say nothing of the clocks. */
const driftSeconds = 20
/** A stretch in a room is off by a sample or two. */
const jitterSeconds = 0.0002

/**
 * The offset that most of the measured stretches agree on, with the clocks' drift as their slope. Null when they do not
 * agree: two thirds of the clear ones must lie within what clocks and rooms can explain.
 */
export function fitOffset(stretches: readonly MeasuredStretch[], sampleRate: number): MeasuredOffset | null {
  const clear = stretches.filter(({ sharpness }) => sharpness >= leastSharpness)
  const agreeing = clear.reduce<readonly MeasuredStretch[]>((most, one) => {
    const with1 = clear.filter(
      (other) =>
        Math.abs(other.offsetSamples - one.offsetSamples) <=
        sampleRate * (jitterSeconds + mostDrift * Math.abs(other.atSeconds - one.atSeconds)),
    )
    return with1.length > most.length ? with1 : most
  }, [])
  if (agreeing.length === 0 || agreeing.length * 3 < clear.length * 2) return null
  const times = agreeing.map(({ atSeconds }) => atSeconds)
  const isLong = Math.max(...times) - Math.min(...times) >= driftSeconds
  const mean = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length
  const [middle, offset] = [mean(times), mean(agreeing.map(({ offsetSamples }) => offsetSamples))]
  if (!isLong) return { offsetSamples: Math.round(offset), driftPartsPerMillion: null, agreeing: agreeing.length }
  const spread = agreeing.reduce((sum, { atSeconds }) => sum + (atSeconds - middle) ** 2, 0)
  const rise = agreeing.reduce((sum, each) => sum + (each.atSeconds - middle) * (each.offsetSamples - offset), 0)
  const slope = rise / spread
  return {
    offsetSamples: Math.round(offset - slope * middle),
    driftPartsPerMillion: (slope / sampleRate) * 1e6,
    agreeing: agreeing.length,
  }
}

/**
 * Where a picture's sound is worth measuring: the liveliest stretches of what both have, at its head, middle and tail.
 * @param envelope of the picture
 * @param overlap what both have, in seconds from the picture's first frame
 * @param seconds how long a stretch is
 * @returns first moments in seconds, whole milliseconds, in order; fewer where it is short, none where it is too short
 */
export function stretchesToMeasure(
  envelope: Float32Array,
  overlap: { readonly from: number; readonly to: number },
  seconds: number,
): number[] {
  const length = overlap.to - overlap.from - seconds
  if (length < 0) return []
  const parts = length < seconds ? 1 : 3
  const starts = Array.from({ length: parts }, (_, part) => {
    const [first, last] = [overlap.from + (length * part) / parts, overlap.from + (length * (part + 1)) / parts]
    let best = { at: first, energy: -1 }
    for (let at = first; at <= last; at += 0.1) {
      const energy = envelope
        .subarray(Math.round(at * envelopeRate), Math.round((at + seconds) * envelopeRate))
        .reduce((sum, value) => sum + value * value, 0)
      if (energy > best.energy) best = { at, energy }
    }
    return Math.ceil(best.at * 1000) / 1000
  })
  return [...new Set(starts)]
}
