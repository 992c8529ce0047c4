import { channelCount, pictureRange } from '../media/index.ts'
import { fileName, normalName, reelKey, stem } from '../naming/index.ts'
import { compareText, groupBy, remember } from '../text/index.ts'
import { type ExactRange, type Rate, rateKey, toNumber } from '../time/index.ts'
import type { KnownIdentity, WantedUse } from './identity.ts'

/** How many contents among all files at hand say each of the values that somebody asks for. */
export interface ValueCounts {
  /** How many contents there are. */
  readonly contents: number
  readonly names: ReadonlyMap<string, number>
  readonly reels: ReadonlyMap<string, number>
  readonly starts: ReadonlyMap<number, number>
  readonly lengths: ReadonlyMap<number, number>
  readonly channels: ReadonlyMap<number, number>
  readonly folders: ReadonlyMap<string, number>
  /** Of uses; none of one at whose rate nothing is known. */
  readonly covering: ReadonlyMap<string, number>
}

export const nameKey = (path: string): string => normalName(stem(fileName(path)))
export const folderKey = (path: string): string => normalName(folderOf(path))
export const rangeKey = ({ start, end }: ExactRange, at: Rate): string =>
  `${toNumber(start)} to ${toNumber(end)} at ${rateKey(at)}`

const folderOf = (path: string): string => fileName(path.slice(0, Math.max(0, path.lastIndexOf('/'))))

/**
 * Counts what some files say, and what covers some uses, among all: in one pass, in which nothing is kept of what
 * nobody asks for.
 */
export function countValues(
  files: readonly KnownIdentity[],
  asked: readonly KnownIdentity[],
  uses: readonly WantedUse[],
): ValueCounts {
  const [nameOf, reelOf, folderKeyOf] = [remember(nameKey), remember(reelKey), remember(normalName)]
  const names = new Map(asked.map(({ path }) => [nameOf(fileName(path)), 0]))
  const reels = new Map(asked.flatMap(({ reel }) => (reel === null ? [] : [[reelOf(reel), 0]])))
  const starts = new Map(asked.flatMap(({ facts }) => (facts.startFrame === null ? [] : [[facts.startFrame, 0]])))
  const lengths = new Map(asked.flatMap(({ facts }) => (facts.picture ? [[facts.picture.frames, 0]] : [])))
  const channels = new Map(asked.map(({ facts }) => [channelCount(facts), 0]))
  const folders = new Map(asked.map(({ path }) => [folderKeyOf(folderOf(path)), 0]))
  const usesByRate = groupBy(uses, (use) => rateKey(use.rate))
  const ranges = new Map([...usesByRate.keys()].map((key) => [key, new Ranges()]))
  const isCounted = onceEachContent(files)
  let contents = 0
  for (const file of files) {
    if (!isCounted(file)) continue
    const { path, facts, reel } = file
    contents++
    addTo(names, nameOf(fileName(path)))
    if (reel !== null) addTo(reels, reelOf(reel))
    if (facts.startFrame !== null) addTo(starts, facts.startFrame)
    if (facts.picture) addTo(lengths, facts.picture.frames)
    addTo(channels, channelCount(facts))
    addTo(folders, folderKeyOf(folderOf(path)))
    if (facts.picture && facts.startFrame !== null && facts.kind !== 'still' && ranges.size)
      ranges.get(rateKey(facts.picture.rate))?.add(facts)
  }
  const covering = new Map<string, number>()
  for (const [key, known] of ranges) {
    const covers = known.counter()
    if (covers)
      for (const { range, rate } of usesByRate.get(key) ?? []) covering.set(rangeKey(range, rate), covers(range))
  }
  return { contents, names, reels, starts, lengths, channels, folders, covering }
}

function addTo<K>(counts: Map<K, number>, key: K): void {
  const known = counts.get(key)
  if (known !== undefined) counts.set(key, known + 1)
}

/** The same content twice makes nothing commoner: of equal files the first by its id is counted. */
function onceEachContent(files: readonly KnownIdentity[]): (file: KnownIdentity) => boolean {
  const seen = new Set<string>()
  const twice = new Map<string, KnownIdentity>()
  for (const file of files) {
    const { fingerprint } = file
    if (fingerprint === null) continue
    const before = seen.size
    if (seen.add(fingerprint).size === before) twice.set(fingerprint, file)
  }
  if (twice.size)
    for (const file of files) {
      const first = file.fingerprint === null ? undefined : twice.get(file.fingerprint)
      if (first && compareText(file.id, first.id) < 0) twice.set(file.fingerprint as string, file)
    }
  return (file) => file.fingerprint === null || (twice.get(file.fingerprint) ?? file) === file
}

/** Where the files of one rate lie, in frames. */
class Ranges {
  readonly #starts: number[] = []
  readonly #ends: number[] = []

  add(facts: KnownIdentity['facts']): void {
    const range = pictureRange(facts)
    if (!range) return
    this.#starts.push(range.startFrame)
    this.#ends.push(range.endFrame)
  }

  /** How many of them cover a stretch; null where there are none. */
  counter(): ((range: ExactRange) => number) | null {
    if (this.#starts.length === 0) return null
    const [starts, ends] = [Float64Array.from(this.#starts).sort(), Float64Array.from(this.#ends).sort()]
    return ({ start, end }) => {
      const begunBy = rank(starts, (frame) => frame <= toNumber(start))
      return begunBy - rank(ends, (frame) => frame < toNumber(end))
    }
  }
}

/** How many of a sorted list come before. */
function rank(sorted: Float64Array, isBefore: (frame: number) => boolean): number {
  let [low, high] = [0, sorted.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (isBefore(sorted[middle] as number)) low = middle + 1
    else high = middle
  }
  return low
}
