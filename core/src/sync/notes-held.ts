import { envelopeSourceRate } from './envelope.ts'
import { Fourier } from './fourier.ts'

/** An eighth of a second, and half of that: long enough to tell neighbouring notes apart, short enough for quick ones. */
const frameSamples = 1024
const hopSamples = 512
const hopSeconds = hopSamples / envelopeSourceRate
/** The start is listened to whole, and of every minute that follows a part: music goes on. */
const [wholeSeconds, everySeconds, partSeconds] = [12, 60, 6]

/** Pitches that are looked at, in hertz: below them are hum and steps, and above little that is held. */
const [lowest, highest] = [120, 3400]
/** A peak stands so far above the middle of its frame, and is no weaker than this against the loudest of it. */
const [overMiddle, leastOfLoudest] = [10, 0.04]
/** From frame to frame a pitch that is held moves by no more cents than this, and over its length by no more than that. */
const [movesCents, spreadCents] = [25, 14]
/** A note lasts so long; what lasts longer is hum, a tone or a machine. */
const [shortestFrames, longestFrames] = [Math.ceil(0.25 / hopSeconds), Math.floor(5 / hopSeconds)]

/** A pitch that goes on from frame to frame. */
interface Pitch {
  readonly begins: number
  readonly cents: number[]
}

/** What was found of notes in a channel. */
export interface NotesHeld {
  /** Of all that is not silent, from 0 to 1: where a note is held. */
  readonly share: number
  readonly notes: number
  /** Different pitches among them, octaves apart the same. */
  readonly pitches: number
  /** From 0 to 1: how well they lie on one scale of twelve equal steps, whatever it is tuned to. */
  readonly tuned: number
}

/**
 * Music holds notes most of the time, of several pitches, and all on one scale. The pitches of speech glide, those of
 * machines and of hum stay, and neither keeps to a scale; a signal has one or two. Drums alone are not known by this.
 */
export const soundsLikeMusic = ({ share, notes, pitches, tuned }: NotesHeld): boolean =>
  share >= 0.5 && notes >= 24 && pitches >= 5 && tuned >= 0.5

/** Looks for notes in a channel as its samples come, at `envelopeSourceRate`. */
export class NoteMeter {
  readonly #frame = new Float64Array(frameSamples)
  #filled = 0
  #taken = 0
  #frames = 0
  readonly #sounding: number[] = []
  #open: Pitch[] = []
  readonly #notes: Pitch[] = []

  add(samples: Float32Array): void {
    for (let index = 0; index < samples.length; ) {
      const second = this.#taken / envelopeSourceRate
      const isListening = second < wholeSeconds || second % everySeconds < partSeconds
      const count = Math.min(samples.length - index, frameSamples - this.#filled)
      if (isListening) {
        this.#frame.set(samples.subarray(index, index + count), this.#filled)
        this.#filled += count
        if (this.#filled === frameSamples) this.#look()
      } else if (this.#filled > 0) {
        this.#filled = 0
        this.#end(this.#open)
        this.#open = []
      }
      index += count
      this.#taken += count
    }
  }

  finish(): NotesHeld {
    this.#end(this.#open)
    this.#open = []
    const held = new Set<number>()
    const middles: number[] = []
    let [x, y, weight] = [0, 0, 0]
    for (const { begins, cents } of this.#notes) {
      const middle = meanOf(cents)
      middles.push(middle)
      const turn = (2 * Math.PI * middle) / semitone
      x += cents.length * Math.cos(turn)
      y += cents.length * Math.sin(turn)
      weight += cents.length
      for (let frame = begins; frame < begins + cents.length; frame++) held.add(frame)
    }
    const tuning = (Math.atan2(y, x) * semitone) / (2 * Math.PI)
    const sounding = this.#sounding
    return {
      share: sounding.filter((frame) => held.has(frame)).length / Math.max(1, sounding.length),
      notes: middles.length,
      pitches: new Set(middles.map((middle) => Math.round((middle - tuning) / semitone) % 12)).size,
      tuned: Math.hypot(x, y) / Math.max(1, weight),
    }
  }

  /** Looks at the frame that is full, and moves on by a hop. */
  #look(): void {
    const frame = this.#frames++
    const found = pitchesOf(this.#frame)
    this.#frame.copyWithin(0, hopSamples)
    this.#filled = frameSamples - hopSamples
    if (found) this.#sounding.push(frame)
    const left = new Set(found ?? [])
    const ended: Pitch[] = []
    this.#open = this.#open.filter((pitch) => {
      const last = pitch.cents.at(-1) as number
      let next: number | null = null
      for (const cents of left)
        if (Math.abs(cents - last) <= movesCents && (next === null || Math.abs(cents - last) < Math.abs(next - last)))
          next = cents
      if (next === null) {
        ended.push(pitch)
        return false
      }
      left.delete(next)
      pitch.cents.push(next)
      return true
    })
    this.#end(ended)
    for (const cents of left) this.#open.push({ begins: frame, cents: [cents] })
  }

  #end(pitches: readonly Pitch[]): void {
    for (const pitch of pitches) {
      const { length } = pitch.cents
      if (length < shortestFrames || length > longestFrames) continue
      const mean = meanOf(pitch.cents)
      const squares = pitch.cents.reduce((sum, value) => sum + (value - mean) ** 2, 0)
      if (squares <= length * spreadCents ** 2) this.#notes.push(pitch)
    }
  }
}

const semitone = 100
const meanOf = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length

const fourier = new Fourier(frameSamples)
/** Of von Hann. */
const window = Float64Array.from(
  { length: frameSamples },
  (_, index) => 0.5 - 0.5 * Math.cos((2 * Math.PI * index) / frameSamples),
)
/** Of a frame: 70 decibels below full scale. */
const silentPower = 1e-7
const linesPerHertz = frameSamples / envelopeSourceRate
const [firstLine, lastLine] = [Math.round(lowest * linesPerHertz), Math.round(highest * linesPerHertz)]

/** The pitches of a frame in cents above one hertz; null when it is silent. */
function pitchesOf(frame: Float64Array): number[] | null {
  let power = 0
  const windowed = new Float64Array(frameSamples)
  for (let index = 0; index < frameSamples; index++) {
    const sample = frame[index] as number
    power += sample * sample
    windowed[index] = sample * (window[index] as number)
  }
  if (power / frameSamples < silentPower) return null
  const { real, imaginary } = fourier.spectrum(windowed)
  const powers = new Float64Array(lastLine + 2)
  let loudest = 0
  for (let line = firstLine - 1; line < powers.length; line++) {
    const place = fourier.places[line] as number
    powers[line] = (real[place] as number) ** 2 + (imaginary[place] as number) ** 2
    if ((powers[line] as number) > loudest) loudest = powers[line] as number
  }
  // Every fourth line is enough to know the middle of all.
  const some = Float64Array.from(
    { length: (lastLine - firstLine) >> 2 },
    (_, index) => powers[firstLine + 4 * index] ?? 0,
  )
  const middle = some.sort()[some.length >> 1] as number
  const least = Math.max(middle * overMiddle ** 2, loudest * leastOfLoudest ** 2)
  const found: number[] = []
  for (let line = firstLine; line <= lastLine; line++) {
    const peak = powers[line] as number
    const [before, after] = [powers[line - 1] as number, powers[line + 1] as number]
    if (peak < least || peak < before || peak <= after) continue
    // The peak of a line under this window lies on a parabola through the logarithms.
    const [a, b, c] = [Math.log(before), Math.log(peak), Math.log(after)]
    found.push(1200 * Math.log2((line + (a - c) / (2 * (a - 2 * b + c))) / linesPerHertz))
  }
  return found
}
