import type { FindingClip } from '@ennick/core'
import { nameTodayOf } from '../pairs/name-today.ts'
import { planCopyOf } from '../pairs/stamped-copy.ts'
import type { KnownClip, KnownPair } from '../store/known-material.ts'
import type { ProductionRow } from '../store/production-row.ts'

type FindingPair = FindingClip['pairs'][number]

/**
 * A pair as the checks look at it; what few of them ask for is worked out when they do. It holds nothing of the
 * material that it was read with: that would be kept for as long as any clip that was described with it stays as it is.
 */
export class PairInFindings implements FindingPair {
  readonly id: string
  readonly name: string
  readonly kind: FindingPair['kind']
  readonly viewingLut: FindingPair['viewingLut']
  readonly verdict: FindingPair['verdict']
  readonly recipe: FindingPair['recipe']
  readonly originalChanged: boolean
  readonly soundChange: string | null
  readonly #production: ProductionRow
  readonly #clip: KnownClip
  readonly #pair: KnownPair

  constructor(production: ProductionRow, clip: KnownClip, pair: KnownPair) {
    this.id = pair.id
    this.name = pair.name
    this.kind = pair.kind
    this.viewingLut = pair.viewingLut
    this.verdict = pair.verdict
    this.recipe =
      pair.recipeId !== null && pair.recipeVersion !== null
        ? { id: pair.recipeId, name: pair.recipe?.name ?? pair.recipeId, version: pair.recipeVersion }
        : null
    this.originalChanged = pair.originalChanged
    this.soundChange = pair.soundChange
    this.#production = production
    this.#clip = clip
    this.#pair = pair
  }

  get comparison(): FindingPair['comparison'] {
    return this.#pair.compare()
  }

  get isCuredByCopy(): boolean {
    return 'copy' in planCopyOf(this.#clip, this.#pair)
  }

  get nameToday(): string | null {
    return nameTodayOf(this.#production, this.#clip, this.#pair)
  }
}
