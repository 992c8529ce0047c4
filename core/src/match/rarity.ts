import { pictureRange } from '../media/index.ts'
import { fileName, normalName, reelKey, stem } from '../naming/index.ts'
import { compareText, remember } from '../text/index.ts'
import { type ExactRange, type Rate, rateKey, toNumber } from '../time/index.ts'
import type { Candidate } from './identity.ts'

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

/** Where the files of one rate lie, sorted, in frames. */
interface Ranges {
  readonly starts: number[]
  readonly ends: number[]
}

/**
 * How rare each value is among the files at hand. The weight of an aspect is log₂(m/u) where it agrees and
 * log₂((1−m)/(1−u)) where it differs, u being how often it agrees by chance; what is not known weighs nothing.
 */
export class Rarity {
  #count = 0
  readonly #names = new Map<string, number>()
  readonly #reels = new Map<string, number>()
  readonly #starts = new Map<number, number>()
  readonly #lengths = new Map<number, number>()
  readonly #channels = new Map<number, number>()
  readonly #folders = new Map<string, number>()
  readonly #ranges = new Map<string, Ranges>()

  constructor(files: readonly Candidate[]) {
    const nameOf = remember(nameKey)
    const reelOf = remember(reelKey)
    for (const { path, facts, reel } of eachContentOnce(files)) {
      this.#count++
      add(this.#names, nameOf(fileName(path)))
      if (reel !== null) add(this.#reels, reelOf(reel))
      if (facts.startFrame !== null) add(this.#starts, facts.startFrame)
      if (facts.picture) add(this.#lengths, facts.picture.frames)
      add(
        this.#channels,
        facts.sound.reduce((sum, stream) => sum + stream.channels, 0),
      )
      add(this.#folders, folderKey(path))
      this.#addRange(facts)
    }
    for (const { starts, ends } of this.#ranges.values()) for (const list of [starts, ends]) list.sort((a, b) => a - b)
  }

  /** How likely one of all these files is the one, before anything is known of it, in bits. */
  get prior(): number {
    return -Math.log2(Math.max(1, this.#count))
  }

  name(agrees: boolean, value: string): number {
    return this.#weigh('name', agrees, this.#names.get(nameKey(value)) ?? 0)
  }
  reel(agrees: boolean, value: string): number {
    return this.#weigh('reel', agrees, this.#reels.get(reelKey(value)) ?? 0)
  }
  start(agrees: boolean, frame: number): number {
    const counted = this.#starts.get(frame) ?? 0
    return this.#weigh(
      'timecode',
      agrees,
      frame === 0 ? Math.max(counted, this.#of('timecode') * noughtIsCommon) : counted,
    )
  }
  length(agrees: boolean, frames: number): number {
    return this.#weigh('length', agrees, this.#lengths.get(frames) ?? 0)
  }
  channels(agrees: boolean, channels: number): number {
    return this.#weigh('channels', agrees, this.#channels.get(channels) ?? 0)
  }
  /** The folder right above a file; one that differs says nothing, as files are moved. */
  folder(path: string): number {
    return this.#weigh('folder', true, this.#folders.get(folderKey(path)) ?? 0)
  }
  /** That a file covers a use at its own timecode. Of a use that it does not cover the gate speaks. */
  coverage(range: ExactRange, at: Rate): number {
    const known = this.#ranges.get(rateKey(at))
    if (!known) return 0
    const covering = atMost(known.starts, toNumber(range.start)) - below(known.ends, toNumber(range.end))
    return this.#weigh('coverage', true, covering)
  }
  /** @param alike how many candidates show the same, this one among them */
  pictures(agrees: boolean, alike: number): number {
    return agrees ? pictureBits - Math.log2(Math.max(1, alike)) : -pictureBits
  }
  content(agrees: boolean): number {
    return agrees ? contentBits : contentDiffers
  }

  #of(aspect: WeighedAspect): number {
    return Math.max(this.#count, worldOf[aspect])
  }

  #weigh(aspect: WeighedAspect, agrees: boolean, counted: number): number {
    const m = agreesInTruth[aspect]
    const u = Math.min(0.99, Math.max(1, counted) / this.#of(aspect))
    return agrees ? Math.max(0, Math.log2(m / u)) : Math.log2((1 - m) / (1 - u))
  }

  #addRange(facts: Candidate['facts']): void {
    const range = facts.kind === 'still' || facts.startFrame === null ? null : pictureRange(facts)
    if (!range || !facts.picture) return
    const key = rateKey(facts.picture.rate)
    const known = this.#ranges.get(key) ?? { starts: [], ends: [] }
    this.#ranges.set(key, known)
    known.starts.push(range.startFrame)
    known.ends.push(range.endFrame)
  }
}

/** The same content twice makes nothing commoner: of equal files the first by its id is counted. */
function eachContentOnce(files: readonly Candidate[]): Candidate[] {
  const firsts = new Map<string, Candidate>()
  for (const file of files) {
    const { fingerprint } = file
    const first = fingerprint === null ? undefined : firsts.get(fingerprint)
    if (fingerprint !== null && (!first || compareText(file.id, first.id) < 0)) firsts.set(fingerprint, file)
  }
  return files.filter((file) => file.fingerprint === null || firsts.get(file.fingerprint) === file)
}

export const nameKey = (path: string): string => normalName(stem(fileName(path)))
export const folderKey = (path: string): string =>
  normalName(fileName(path.slice(0, Math.max(0, path.lastIndexOf('/')))))
function add<K>(counts: Map<K, number>, key: K): void {
  counts.set(key, (counts.get(key) ?? 0) + 1)
}

/** How many of a sorted list are at most, or below, a value. */
const atMost = (sorted: readonly number[], value: number): number => rank(sorted, (other) => other <= value)
const below = (sorted: readonly number[], value: number): number => rank(sorted, (other) => other < value)
function rank(sorted: readonly number[], isBefore: (other: number) => boolean): number {
  let [low, high] = [0, sorted.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (isBefore(sorted[middle] as number)) low = middle + 1
    else high = middle
  }
  return low
}
