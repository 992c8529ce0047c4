/** Chance that falls the same way again from the same seed, so that what went wrong can be looked at again. */
export class Chance {
  #state: number

  constructor(seed: number) {
    this.#state = seed >>> 0
  }

  /** From 0 to below 1 (mulberry32). */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0
    let mixed = this.#state
    mixed = Math.imul(mixed ^ (mixed >>> 15), mixed | 1)
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61)
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296
  }

  /** A whole number from 0 to below `end`. */
  below(end: number): number {
    return Math.floor(this.next() * end)
  }

  pick<T>(list: readonly T[]): T {
    if (list.length === 0) throw new Error('There is nothing to pick from.')
    return list[this.below(list.length)] as T
  }

  /** Some of a list, at least one, in their order. */
  some<T>(list: readonly T[]): T[] {
    const chosen = list.filter(() => this.next() < 0.5)
    return chosen.length ? chosen : [this.pick(list)]
  }
}
