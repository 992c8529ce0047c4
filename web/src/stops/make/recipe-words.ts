import type { OfferedRecipe, RecipeDraft } from '@ennick/contract'
import { codecTraits, containerLabel } from '@ennick/core'

/** A recipe's size in words: "half size", "1920 × 1080". */
export function sizeWords(size: RecipeDraft['size']): string {
  switch (size.kind) {
    case 'source':
      return 'source size'
    case 'divided':
      return { 2: 'half size', 4: 'a quarter', 8: 'an eighth' }[size.by]
    case 'production':
      return 'the production’s raster'
    case 'raster':
      return `${size.width} × ${size.height}`
  }
}

/** What a recipe does, in a line. */
export const recipeLine = (recipe: RecipeDraft): string =>
  [
    `${codecTraits[recipe.codec].label} in ${containerLabel[recipe.container]}`,
    sizeWords(recipe.size),
    recipe.viewingLut ? 'log through the viewing LUT' : 'no LUT',
    ...(recipe.burnIn ? ['burn-in'] : []),
    recipe.suffix ? `name ends in ${recipe.suffix}` : 'same name as the original',
  ].join(' · ')

/** A recipe without its identity and what the list adds. */
export function draftOf({ id: _, version: __, isBuiltIn: ___, warnings: ____, ...draft }: OfferedRecipe): RecipeDraft {
  return draft
}

/** A recipe as a file that another Ennick reads. */
export const recipeFileText = (draft: RecipeDraft): string => `${JSON.stringify({ format: 'ennick recipe', recipe: draft }, null, 2)}\n`
