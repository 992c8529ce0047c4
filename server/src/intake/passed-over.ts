import type { PassedOverKind } from '@ennick/contract'
import type { PassedOver } from './walk.ts'

/** So many of each kind are named; there may be very many. */
const named = 5

/** Counts what a walk passes over, by its kind, and keeps the first of each by name. */
export class PassedOverKinds {
  readonly #kinds = new Map<PassedOver['what'], { total: number; first: string[] }>()

  readonly add = ({ path, what }: PassedOver): void => {
    const kind = this.#kinds.get(what) ?? { total: 0, first: [] }
    this.#kinds.set(what, kind)
    if (++kind.total <= named) kind.first.push(path)
  }

  list(): PassedOverKind[] {
    return [...this.#kinds].map(([what, kind]) => ({ what, ...kind }))
  }
}
