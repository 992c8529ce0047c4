import type { ClipDetail, Span } from '@ennick/contract'
import type { Rate } from '@ennick/core'
import { Contribution } from '../contribution.ts'
import type { Queryable } from '../store/database.ts'
import type { Material } from '../store/known-material.ts'

/** What the cuts of a production make of its clips. */
export interface UsesOfClips {
  /** How many events use the clip. */
  count(clipId: string): number
  /** Where in the clip they lie, in frames of a rate. */
  spans(clipId: string, rate: Rate): Span[]
  list(clipId: string): ClipDetail['uses']
}

/** Cuts are a later stop: they say what they use. */
export const usesOfClips = new Contribution<(database: Queryable, material: Material) => Promise<UsesOfClips>>(
  'the uses of clips',
)
