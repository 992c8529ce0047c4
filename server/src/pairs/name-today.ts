import { fileName, nameToday, nameValues } from '@ennick/core'
import type { KnownClip, KnownPair } from '../store/known-material.ts'
import { nameSourceOf } from '../store/name-source.ts'
import type { ProductionRow } from '../store/production-row.ts'

/** What a pair's made item would be called if it were made now; null where that is its name, or it is not renamed. */
export function nameTodayOf(
  production: Pick<ProductionRow, 'name'>,
  clip: KnownClip,
  { origin, recipe, recipeVersion, files }: KnownPair,
): string | null {
  const [made] = files
  if (origin !== 'made' || !made || files.length !== 1 || made.file.presence !== 'here') return null
  // What an older version has named is made again, and gets its name with that.
  if (!recipe || recipe.version !== recipeVersion) return null
  return nameToday(recipe, nameValues(nameSourceOf(production, clip)), fileName(made.file.path))
}
