import { fileName, listedReelLength, possibleStems, reelKey } from '../naming/index.ts'
import { alikeBelow } from '../signature/index.ts'
import { compareText, remember } from '../text/index.ts'
import type { KnownIdentity, Wanted } from './identity.ts'
import { Namesakes } from './namesakes.ts'

/**
 * Finds the few files that may be what is wanted, by what they share with it: the content; the name; the reel; start
 * and length. What shares none of these is none of it, and is never looked at. Only keys that are wanted are kept, so
 * that a large catalogue costs one pass over it.
 */
export class CandidateIndex<File extends KnownIdentity> {
  readonly #suffixes: readonly string[]
  readonly #byKey = new Map<string, Namesakes<File>>()
  readonly #byId: ReadonlyMap<string, File>

  constructor(wanted: readonly Wanted[], files: readonly File[], suffixes: readonly string[]) {
    this.#suffixes = suffixes
    const pictured = new Set(wanted.flatMap(({ pictures }) => [...(pictures?.keys() ?? [])]))
    this.#byId = new Map(pictured.size ? files.flatMap((file) => (pictured.has(file.id) ? [[file.id, file]] : [])) : [])
    for (const key of wanted.flatMap((item) => keysOfWanted(item, suffixes)))
      if (!this.#byKey.has(key)) this.#byKey.set(key, new Namesakes<File>())
    // Counter names stand on every reel, and reels on every clip: what a word comes to is worked out once.
    const stemsOf = remember((name) =>
      possibleStems(name, suffixes).flatMap((stem) => this.#byKey.get(`name ${stem}`) ?? []),
    )
    const reelOf = remember((reel) => this.#byKey.get(`reel ${listed(reel)}`))
    for (const file of files) {
      const { path, facts, reel, fingerprint } = file
      for (const list of stemsOf(fileName(path))) list.add(file)
      if (fingerprint !== null) this.#byKey.get(contentKey(fingerprint))?.add(file)
      if (reel !== null) reelOf(reel)?.add(file)
      if (facts.startFrame !== null && facts.picture)
        this.#byKey.get(spanKey(facts.startFrame, facts.picture.frames))?.add(file)
    }
  }

  /** The candidates of one wanted thing, each once, by their ids. */
  of(wanted: Wanted): File[] {
    const found = new Set<File>()
    for (const key of keysOfWanted(wanted, this.#suffixes)) {
      const isContent = key === contentKey(wanted.fingerprint ?? '')
      const list = this.#byKey.get(key)
      for (const file of (isContent ? list?.files : list?.of(wanted, key.startsWith('reel '))) ?? []) found.add(file)
    }
    for (const [id, distance] of wanted.pictures ?? []) {
      const file = distance <= alikeBelow ? this.#byId.get(id) : undefined
      if (file) found.add(file)
    }
    return [...found].sort((a, b) => compareText(a.id, b.id))
  }
}

const listed = (reel: string): string => reelKey(reel).slice(0, listedReelLength)
const contentKey = (fingerprint: string): string => `content ${fingerprint}`
const spanKey = (startFrame: number, frames: number): string => `start ${startFrame} length ${frames}`

function keysOfWanted({ names, reel, startFrame, frames, fingerprint }: Wanted, suffixes: readonly string[]): string[] {
  const stems = new Set(names.flatMap((name) => possibleStems(name, suffixes)))
  const keys = [...stems].map((stem) => `name ${stem}`)
  if (fingerprint !== null) keys.push(contentKey(fingerprint))
  if (reel !== null) keys.push(`reel ${listed(reel)}`)
  if (startFrame !== null && frames !== null) keys.push(spanKey(startFrame, frames))
  return keys
}
