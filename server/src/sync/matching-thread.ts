import {
  alignSound,
  type Heard,
  matchWaveforms,
  type SoundAlignment,
  sameDay,
  type WaveformOutcome,
} from '@ennick/core'

/** What can be asked, and what comes of it. */
export interface Matchings {
  /** Some pictures, and all recordings that they may lie in; an outcome for each of the pictures, in order. */
  match: {
    readonly asked: { readonly pictures: readonly Heard[]; readonly recordings: readonly Heard[] }
    readonly answered: WaveformOutcome[]
  }
  /** Two stretches of one moment, and how many samples they may lie apart. */
  align: {
    readonly asked: { readonly one: Float32Array; readonly other: Float32Array; readonly most: number }
    readonly answered: SoundAlignment | null
  }
}

export type MatchingTask = { [K in keyof Matchings]: { kind: K; asked: Matchings[K]['asked'] } }[keyof Matchings]

export default (task: MatchingTask): Matchings[keyof Matchings]['answered'] =>
  task.kind === 'match'
    ? [...matchWaveforms(task.asked.pictures, task.asked.recordings, sameDay)]
    : alignSound(task.asked.one, task.asked.other, task.asked.most)
