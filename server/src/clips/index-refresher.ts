import type { Change } from '@ennick/contract'
import type { Database } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import { refreshIndex } from './index-refresh.ts'

const restMilliseconds = 200

/**
 * Freshens the index soon after a change, so that whoever looks next need not wait for it. Reading freshens it as well:
 * this only takes the waiting away.
 */
export class IndexRefresher {
  readonly #database: Database
  readonly #kept: KeptMaterial
  readonly #waiting = new Map<string, NodeJS.Timeout>()
  #working: Promise<void> = Promise.resolve()

  constructor(database: Database, kept: KeptMaterial) {
    this.#database = database
    this.#kept = kept
  }

  onChange(change: Change): void {
    const { productionId, topic } = change
    if (
      productionId === null ||
      (topic !== 'clips' && topic !== 'pairs' && topic !== 'cuts') ||
      this.#waiting.has(productionId)
    )
      return
    this.#waiting.set(
      productionId,
      setTimeout(() => {
        this.#waiting.delete(productionId)
        this.#working = this.#working
          .then(() => refreshIndex(this.#database, productionId, this.#kept))
          .catch((error: Error) => console.error(`The index of clips was not freshened: ${error.message}`))
      }, restMilliseconds),
    )
  }

  async close(): Promise<void> {
    for (const timer of this.#waiting.values()) clearTimeout(timer)
    await this.#working
  }
}
