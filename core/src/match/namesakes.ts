import { sameReel } from '../naming/index.ts'
import { groupBy } from '../text/index.ts'
import { rateKey, toNumber } from '../time/index.ts'
import type { KnownIdentity, Wanted } from './identity.ts'

/** So many files of one key are all looked at; of more, those alone that agree in something else. */
const fewOfOneKey = 24
/** A key that more files share than this, and of which nothing else is known, finds nothing. */
const mostOfOneKey = 400

/** Files that share one key. Of many, those that agree in something else are found by their starts and lengths. */
export class Namesakes<File extends KnownIdentity> {
  readonly files: File[] = []
  #sorted: Sorted<File> | null = null

  add(file: File): void {
    this.files.push(file)
    this.#sorted = null
  }

  /**
   * Those worth a look: all of a few; of many those that agree in what tells files of one name or reel apart: start,
   * length, or that the first use is covered; of those that know none of these, the reel.
   * @param isWeak whether the key says too little when nothing else is known
   */
  of({ startFrame, frames, reel, uses }: Wanted, isWeak: boolean): readonly File[] {
    if (this.files.length <= fewOfOneKey) return this.files
    const [use] = uses
    if (startFrame === null && frames === null && !use && reel === null)
      return isWeak || this.files.length > mostOfOneKey ? [] : this.files
    const found: File[] = []
    if (startFrame !== null) found.push(...this.#between(startFrame, startFrame))
    if (frames !== null) found.push(...(this.#sort().byFrames.get(frames) ?? []))
    if (use) {
      const [from, to, at] = [toNumber(use.range.start), toNumber(use.range.end), rateKey(use.rate)]
      for (const file of this.#between(from - this.#sort().longestFrames, from)) {
        const { picture, startFrame: own } = file.facts
        if (picture && own !== null && rateKey(picture.rate) === at && own + picture.frames >= to) found.push(file)
      }
    } else if (reel !== null && startFrame === null)
      found.push(...this.files.filter((file) => file.reel !== null && sameReel(reel, file.reel)))
    return found
  }

  /** Those whose first frame is one of these. */
  #between(first: number, last: number): File[] {
    const { byStart } = this.#sort()
    let [low, high] = [0, byStart.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((byStart[middle] as Started<File>).startFrame < first) low = middle + 1
      else high = middle
    }
    const found: File[] = []
    for (let index = low; index < byStart.length; index++) {
      const { startFrame, file } = byStart[index] as Started<File>
      if (startFrame > last) break
      found.push(file)
    }
    return found
  }

  #sort(): Sorted<File> {
    this.#sorted ??= {
      byStart: this.files
        .flatMap((file) => (file.facts.startFrame === null ? [] : [{ startFrame: file.facts.startFrame, file }]))
        .sort((a, b) => a.startFrame - b.startFrame),
      byFrames: groupBy(this.files, ({ facts }) => facts.picture?.frames ?? 0),
      longestFrames: this.files.reduce((longest, { facts }) => Math.max(longest, facts.picture?.frames ?? 0), 0),
    }
    return this.#sorted
  }
}

interface Started<File> {
  readonly startFrame: number
  readonly file: File
}

interface Sorted<File> {
  readonly byStart: readonly Started<File>[]
  readonly byFrames: ReadonlyMap<number, File[]>
  readonly longestFrames: number
}
