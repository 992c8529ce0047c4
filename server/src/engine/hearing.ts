import { EnvelopeMaker, type TrackLevel, TrackMeter } from '@ennick/core'

/** What was heard of a clip from its first frame to its end. */
export interface HeardSound {
  /** All of its channels together. */
  readonly envelope: Float32Array
  readonly tracks: readonly TrackLevel[]
}

/** Measures what comes, channel by channel. */
export class Hearing {
  readonly #maker = new EnvelopeMaker()
  readonly #meters: TrackMeter[] = []
  readonly #sampleRate: number

  constructor(sampleRate: number) {
    this.#sampleRate = sampleRate
  }

  /** Takes the next samples of each channel, from -1 to 1. */
  take(channels: readonly Float32Array[]): void {
    const lowered = channels.map((samples, channel) => {
      this.#meters[channel] ??= new TrackMeter(this.#sampleRate)
      return this.#meters[channel].add(samples)
    })
    this.#maker.add(mixed(lowered))
  }

  finish(): HeardSound {
    return { envelope: this.#maker.finish(), tracks: this.#meters.map((meter) => meter.finish()) }
  }
}

/** The mean of all channels. */
export function mixed(channels: readonly Float32Array[]): Float32Array {
  const [first] = channels
  if (!first || channels.length === 1) return first ?? new Float32Array()
  const mix = new Float32Array(first.length)
  for (const samples of channels)
    for (let index = 0; index < mix.length; index++)
      mix[index] = (mix[index] as number) + (samples[index] as number) / channels.length
  return mix
}
