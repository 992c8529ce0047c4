import { fileName, listedReelLength, possibleStems, reelKey, sameReel } from '../naming/index.ts'
import { alikeBelow } from '../signature/index.ts'
import { rateKey, toNumber } from '../time/index.ts'
import type { Candidate, Wanted } from './identity.ts'

/** So many files of one key are all looked at; of more, those alone that agree in something else. */
const fewOfOneKey = 24
/** A key that more files share than this, and of which nothing else is known, finds nothing. */
const mostOfOneKey = 400

/**
 * Finds the few files that may be what is wanted, by what they share with it: the content; the name; the reel; start
 * and length. What shares none of these is none of it, and is never looked at.
 */
export class CandidateIndex {
  readonly #files: readonly Candidate[]
  readonly #byKey = new Map<string, number[]>()
  readonly #suffixes: readonly string[]
  #positionOf: ReadonlyMap<string, number> | null = null

  constructor(files: readonly Candidate[], suffixes: readonly string[]) {
    this.#files = files
    this.#suffixes = suffixes
    files.forEach((file, position) => {
      for (const key of this.#keysOf(file)) {
        const list = this.#byKey.get(key)
        if (list) list.push(position)
        else this.#byKey.set(key, [position])
      }
    })
  }

  /** The candidates of one wanted thing, in the order of the files. */
  of(wanted: Wanted): Candidate[] {
    const found = new Set<number>()
    const agrees = agreement(wanted)
    const take = (key: string, isWeak = false): void => {
      const list = this.#byKey.get(key) ?? []
      const takesAll = list.length <= fewOfOneKey || (agrees === null && !isWeak && list.length <= mostOfOneKey)
      for (const position of list) if (takesAll || agrees?.(this.#files[position] as Candidate)) found.add(position)
    }
    const { startFrame, frames, reel, fingerprint, pictures } = wanted
    if (fingerprint !== null)
      for (const position of this.#byKey.get(`content ${fingerprint}`) ?? []) found.add(position)
    for (const stem of new Set(wanted.names.flatMap((name) => possibleStems(name, this.#suffixes))))
      take(`name ${stem}`)
    if (reel !== null) take(`reel ${listed(reel)}`, true)
    for (const [id, distance] of pictures ?? []) {
      const position = distance <= alikeBelow ? this.#positions().get(id) : undefined
      if (position !== undefined) found.add(position)
    }
    if (startFrame !== null && frames !== null) take(`start ${startFrame} length ${frames}`)
    return [...found].sort((a, b) => a - b).map((position) => this.#files[position] as Candidate)
  }

  /** Where each file stands; made when it is first asked for. */
  #positions(): ReadonlyMap<string, number> {
    this.#positionOf ??= new Map(this.#files.map(({ id }, position) => [id, position]))
    return this.#positionOf
  }

  #keysOf({ path, facts, reel, fingerprint }: Candidate): string[] {
    const keys = possibleStems(fileName(path), this.#suffixes).map((stem) => `name ${stem}`)
    if (fingerprint !== null) keys.push(`content ${fingerprint}`)
    if (reel !== null) keys.push(`reel ${listed(reel)}`)
    if (facts.startFrame !== null && facts.picture)
      keys.push(`start ${facts.startFrame} length ${facts.picture.frames}`)
    return keys
  }
}

const listed = (reel: string): string => reelKey(reel).slice(0, listedReelLength)

/**
 * Whether a file agrees in what tells files of one name or reel apart: start, length, or that it covers the first use;
 * of those that know none of these, the reel. Null when nothing of it is known.
 */
function agreement({ startFrame, frames, reel, uses }: Wanted): ((file: Candidate) => boolean) | null {
  const [use] = uses
  if (startFrame === null && frames === null && !use && reel === null) return null
  const [from, to] = use ? [toNumber(use.range.start), toNumber(use.range.end)] : [0, 0]
  const at = use ? rateKey(use.rate) : ''
  return ({ facts, reel: own }) => {
    const { picture } = facts
    if (startFrame !== null && facts.startFrame === startFrame) return true
    if (frames !== null && picture?.frames === frames) return true
    if (use && picture && facts.startFrame !== null && rateKey(picture.rate) === at)
      return facts.startFrame <= from && facts.startFrame + picture.frames >= to
    return reel !== null && own !== null && startFrame === null && !use && sameReel(reel, own)
  }
}
