import { planStampedCopy, type StampedCopy } from '@ennick/core'
import type { KnownClip, KnownPair } from '../store/known-material.ts'

/** How a copy sets a pair's item right without a picture being encoded again, or why none does. */
export function planCopyOf(
  clip: KnownClip,
  pair: KnownPair,
): { readonly copy: StampedCopy } | { readonly refusal: string } {
  const [made] = pair.files
  if (pair.files.length !== 1 || !made?.file.facts || !clip.main.facts)
    return { refusal: 'it is of several files, or unreadable' }
  if (made.file.presence !== 'here') return { refusal: 'its file is not here' }
  const plan = planStampedCopy(pair.compare() ?? [], clip.main.facts, made.file.facts)
  const isOfRecipe = 'copy' in plan && plan.copy.sound !== null && pair.recipe !== null
  return isOfRecipe ? { refusal: 'its recipe lays out its sound, so that it is made again instead' } : plan
}
