import { differingShapes } from './signature.ts'

/** Of the signs of two files that show the same, fewer than this share differ; of two others, about half. */
const mostDiffering = 0.3

/** Finds the few files whose large shapes are nearest, by counting the signs that differ. */
export class ShapeIndex {
  readonly #entries: readonly { readonly id: string; readonly shapes: Int32Array }[]

  constructor(entries: readonly { readonly id: string; readonly shapes: Int32Array }[]) {
    this.#entries = entries
  }

  /** The ids of the nearest, best first; none that is farther than what shows the same could be. */
  nearest(shapes: Int32Array, most: number): string[] {
    const found: { id: string; share: number }[] = []
    for (const { id, shapes: other } of this.#entries) {
      const { differing, of } = differingShapes(shapes, other)
      if (of === 0) continue
      const share = differing / of
      if (share > mostDiffering) continue
      const last = found.at(-1)
      if (last && found.length >= most && last.share <= share) continue
      const at = found.findIndex((each) => each.share > share)
      found.splice(at < 0 ? found.length : at, 0, { id, share })
      if (found.length > most) found.pop()
    }
    return found.map(({ id }) => id)
  }
}
