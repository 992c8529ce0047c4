import { nameToday, stem } from '@ennick/core'
import type { KnownClip, KnownPair, Material } from '../store/material.ts'
import { originalName } from '../store/original-name.ts'

/** What a pair's made item would be called if it were made now; null where that is its name, or it is not renamed. */
export function nameTodayOf(
  { production }: Pick<Material, 'production'>,
  clip: KnownClip,
  { origin, recipe, recipeVersion, files }: KnownPair,
): string | null {
  const [made] = files
  if (origin !== 'made' || !made || files.length !== 1 || made.file.presence !== 'here') return null
  // What an older version has named is made again, and gets its name with that.
  if (!recipe || recipe.version !== recipeVersion) return null
  const { scene, take, day, camera } = clip.described
  const values = {
    ...{ source: stem(originalName(clip)), reel: clip.reel ?? '', production: production.name },
    ...{ scene: scene?.value ?? '', take: take?.value ?? '', day: day?.value ?? '', camera: camera?.value ?? '' },
  }
  return nameToday(recipe, values, made.file.path.slice(made.file.path.lastIndexOf('/') + 1))
}
