import { channelCount, type MediaFacts } from '../media/index.ts'
import { count } from '../text/index.ts'
import { pcmBytes } from './estimate.ts'
import type { Recipe } from './recipe.ts'
import { planTracks } from './tracks.ts'

/** Copies that are looked at, or that leave the house, have sound as their purpose wants it. */
const isForEditing = ({ purpose }: Recipe): boolean => purpose.startsWith('cutting') || purpose === 'finishing'

/**
 * What a recipe takes from sound that is meant to be used, in words that go on after "its sound is real, and"; null
 * when it takes nothing. Of a guide nobody minds.
 */
export function soundLoss(recipe: Recipe, facts: Pick<MediaFacts, 'sound'>): string | null {
  if (!isForEditing(recipe) || facts.sound.length === 0) return null
  if (recipe.sound === 'compressed') return 'is compressed'
  const tracks = planTracks(facts, recipe.tracks)
  const kept = tracks.flatMap(({ of }) => of).filter((channel) => channel !== 'silence').length
  const lost = channelCount(facts) - kept
  if (lost > 0) return `loses ${count(lost, 'channel')}`
  const deepest = Math.max(...facts.sound.map(({ bitDepth }) => bitDepth ?? 0))
  const made = Math.max(...tracks.map(({ bitDepth }) => 8 * pcmBytes(recipe, bitDepth)))
  return deepest > made ? `gets ${made} bits where it has ${deepest}` : null
}
