import { randomFrom } from '../../../core/src/testing/random.ts'
import { Refusal } from './harness.ts'

/** Acts in any order, the same for the same seed. Each is told, so that a fault says how it came to that. */
export class WalkByChance {
  /** From 0 to below 1. */
  protected readonly chance: () => number
  readonly #told: string[] = []

  constructor(readonly seed: number) {
    this.chance = randomFrom(seed)
  }

  protected pick<T>(list: readonly T[]): T {
    return list[Math.floor(this.chance() * list.length)] as T
  }

  protected readonly tell = (what: string): void => void this.#told.push(what)

  /** @throws what is wrong, with all that came before */
  protected fail(...what: readonly string[]): never {
    throw new Error([...what, ...this.#told].join('\n'))
  }

  /** Does what may be refused: a refusal is an answer, as something else came first. */
  protected async attempt(act: () => Promise<void>): Promise<void> {
    await act.call(this).catch((error: Error) => {
      if (!(error instanceof Refusal) || error.status >= 500) throw error
      this.tell(error.message)
    })
  }
}
