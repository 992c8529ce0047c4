import { reelKey } from '../naming/index.ts'
import type { ExactRange, Rate } from '../time/index.ts'
import { folderKey, nameKey, rangeKey, type ValueCounts } from './value-counts.ts'

/**
 * How often an aspect agrees in true pairs (m of Fellegi and Sunter, “A Theory for Record Linkage”, 1969). Names are
 * changed by hand now and then; what a file says of itself is not, but for a faulty export.
 */
const agreesInTruth = {
  name: 0.85,
  reel: 0.98,
  timecode: 0.98,
  length: 0.98,
  channels: 0.95,
  folder: 0.7,
  coverage: 0.98,
}
export type WeighedAspect = keyof typeof agreesInTruth

/**
 * Values of which a small catalogue cannot tell how rare they are in the world: no name is believed to be commoner than
 * one in so many before it was counted. Folders and channels are counted as they are.
 */
const worldOf: Record<WeighedAspect, number> = {
  name: 1000,
  reel: 100,
  timecode: 1000,
  length: 200,
  channels: 1,
  folder: 1,
  coverage: 200,
}

/** A fingerprint of the same content agrees by chance never; of other content it is another file. */
export const contentBits = 40
const contentDiffers = Math.log2(0.01)

/** Pictures of five places agree by chance as little; those of other clips of the same set are counted. */
const pictureBits = 30

/** Cameras without timecode begin at nought: that a start is nought says little, however few of them are here. */
const noughtIsCommon = 0.25

/**
 * How rare each value is among the files at hand. The weight of an aspect is log₂(m/u) where it agrees and
 * log₂((1−m)/(1−u)) where it differs, u being how often it agrees by chance; what is not known weighs nothing.
 */
export class Rarity {
  readonly #counts: ValueCounts

  constructor(counts: ValueCounts) {
    this.#counts = counts
  }

  /** How likely one of all these files is the one, before anything is known of it, in bits. */
  get prior(): number {
    return -Math.log2(Math.max(1, this.#counts.contents))
  }

  name(agrees: boolean, value: string): number {
    return this.#weigh('name', agrees, this.#counts.names.get(nameKey(value)) ?? 0)
  }
  reel(agrees: boolean, value: string): number {
    return this.#weigh('reel', agrees, this.#counts.reels.get(reelKey(value)) ?? 0)
  }
  start(agrees: boolean, frame: number): number {
    const counted = this.#counts.starts.get(frame) ?? 0
    return this.#weigh(
      'timecode',
      agrees,
      frame === 0 ? Math.max(counted, this.#of('timecode') * noughtIsCommon) : counted,
    )
  }
  length(agrees: boolean, frames: number): number {
    return this.#weigh('length', agrees, this.#counts.lengths.get(frames) ?? 0)
  }
  channels(agrees: boolean, channels: number): number {
    return this.#weigh('channels', agrees, this.#counts.channels.get(channels) ?? 0)
  }
  /** The folder right above a file; one that differs says nothing, as files are moved. */
  folder(path: string): number {
    return this.#weigh('folder', true, this.#counts.folders.get(folderKey(path)) ?? 0)
  }
  /** That a file covers a use at its own timecode. Of a use that it does not cover the gate speaks. */
  coverage(range: ExactRange, at: Rate): number {
    const covering = this.#counts.covering.get(rangeKey(range, at))
    return covering === undefined ? 0 : this.#weigh('coverage', true, covering)
  }
  /** @param alike how many candidates show the same, this one among them */
  pictures(agrees: boolean, alike: number): number {
    return agrees ? pictureBits - Math.log2(Math.max(1, alike)) : -pictureBits
  }
  content(agrees: boolean): number {
    return agrees ? contentBits : contentDiffers
  }

  #of(aspect: WeighedAspect): number {
    return Math.max(this.#counts.contents, worldOf[aspect])
  }

  #weigh(aspect: WeighedAspect, agrees: boolean, counted: number): number {
    const m = agreesInTruth[aspect]
    const u = Math.min(0.99, Math.max(1, counted) / this.#of(aspect))
    return agrees ? Math.max(0, Math.log2(m / u)) : Math.log2((1 - m) / (1 - u))
  }
}
