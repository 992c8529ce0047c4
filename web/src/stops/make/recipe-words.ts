import type { OfferedRecipe, RecipeDraft } from '@ennick/contract'
import {
  codecTraits,
  containerLabel,
  formatNumber,
  isAsSource,
  isUsual,
  type RecipeTracks,
  sourceName,
} from '@ennick/core'

/** A recipe's size in words: "half size", "1920 × 1080". */
export function sizeWords(size: RecipeDraft['size']): string {
  switch (size.kind) {
    case 'source':
      return 'source size'
    case 'divided':
      return { 2: 'half size', 4: 'a quarter', 8: 'an eighth' }[size.by]
    case 'nearest':
      return 'the smallest step not below the production'
    case 'production':
      return 'the production’s raster'
    case 'raster':
      return `${size.width} × ${size.height}`
  }
}

/** What a recipe keeps of the picture, where its codec leaves that open. */
const qualityWords = ({ quality }: RecipeDraft): string =>
  quality.kind === 'rate' ? `${formatNumber(quality.kilobits / 1000)} Mbit/s` : `${quality.step} quality`

/** Channels as a person writes them: "1, 2, 5-8", or "all". */
export function channelWords(keep: readonly number[] | null): string {
  if (keep === null) return 'all'
  const runs: [number, number][] = []
  for (const number of keep) {
    const last = runs.at(-1)
    if (last && number === last[1] + 1) last[1] = number
    else runs.push([number, number])
  }
  return runs.map(([from, to]) => (from === to ? String(from) : `${from}-${to}`)).join(', ')
}

/** Reads what `channelWords` writes; null for all channels, undefined for what is no list of them. */
export function readChannels(text: string): number[] | null | undefined {
  if (/^\s*(all)?\s*$/i.test(text)) return null
  const numbers = new Set<number>()
  for (const piece of text.split(',')) {
    const [, first, second] = /^\s*(\d{1,2})(?:\s*[-–]\s*(\d{1,2}))?\s*$/.exec(piece) ?? []
    const from = Number(first)
    const to = Number(second ?? first)
    if (!(from >= 1 && to >= from && to <= 64)) return undefined
    for (let number = from; number <= to; number++) numbers.add(number)
  }
  return [...numbers].sort((a, b) => a - b)
}

function trackWords({ keep, layout, atLeast }: RecipeTracks): string {
  const words = [
    ...(keep === null ? [] : [`channels ${channelWords(keep)}`]),
    ...(layout === 'as source' ? [] : [layout]),
    ...(atLeast ? [`filled to ${atLeast}`] : []),
  ]
  return `sound ${words.join(', ')}`
}

/** What a recipe does, in a line. */
export const recipeLine = (recipe: RecipeDraft): string =>
  [
    `${codecTraits[recipe.codec].label} in ${containerLabel[recipe.container]}`,
    sizeWords(recipe.size),
    ...(isUsual(recipe.quality) ? [] : [qualityWords(recipe)]),
    recipe.viewingLut ? 'log through the viewing LUT' : 'no LUT',
    ...(recipe.skipCodecs.length ? [`not of ${recipe.skipCodecs.join(', ')}`] : []),
    ...(recipe.skipPlaying === null ? [] : [`not of what plays ${recipe.skipPlaying} times at once`]),
    ...(recipe.burnIn ? ['burn-in'] : []),
    ...(isAsSource(recipe.tracks) ? [] : [trackWords(recipe.tracks)]),
    ...(recipe.syncedSound ? ['with synced recordings'] : []),
    recipe.namePattern !== sourceName
      ? `called ${recipe.namePattern}${recipe.suffix}`
      : recipe.suffix
        ? `name ends in ${recipe.suffix}`
        : 'same name as the original',
  ].join(' · ')

/** A recipe without its identity and what the list adds. */
export function draftOf({ id: _, version: __, isBuiltIn: ___, warnings: ____, ...draft }: OfferedRecipe): RecipeDraft {
  return draft
}

/** A recipe as a file that another Ennick reads. */
export const recipeFileText = (draft: RecipeDraft): string =>
  `${JSON.stringify({ format: 'ennick recipe', recipe: draft }, null, 2)}\n`
