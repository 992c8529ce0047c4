import { sequenceStems } from '../media/index.ts'
import { baseName, comparablePath, normalName, stem } from '../naming/index.ts'
import type { ResolvableClip } from './resolution.ts'

/**
 * Numbered stills by what lists call them. Here a pattern of number signs stands for all of them; other systems write
 * the first still, a range, a conversion.
 */
export class SequenceIndex {
  readonly #byPath = new Map<string, ResolvableClip>()
  readonly #byStem = new Map<string, ResolvableClip[]>()

  /** Clips that are no numbered stills are left out. */
  add(clip: ResolvableClip): void {
    if (clip.firstStill === undefined) return
    for (const path of clip.originalPaths) this.#byPath.set(comparablePath(path), clip)
    const own = normalName(stem(clip.name))
    this.#byStem.set(own, [...(this.#byStem.get(own) ?? []), clip])
  }

  /** The stills that a path means in whatever writing. */
  at(path: string): ResolvableClip | undefined {
    if (this.#byPath.size === 0) return undefined
    const known = comparablePath(path)
    const own = stem(baseName(known))
    const from = known.lastIndexOf('/') + 1
    for (const name of sequenceStems(own)) {
      const clip = this.#byPath.get(known.slice(0, from) + name + known.slice(from + own.length))
      if (clip) return clip
    }
    return undefined
  }

  /** The stills that a normal stem means in whatever writing. */
  called(asked: string): readonly ResolvableClip[] {
    if (this.#byStem.size === 0) return []
    return sequenceStems(asked).flatMap((name) => this.#byStem.get(name) ?? [])
  }
}
