import { PatternError } from '../describe/index.ts'
import { normalName, stem } from '../naming/index.ts'
import { isTooLong, madeBase, type NameField } from './made-name.ts'
import type { Recipe } from './recipe.ts'

/** What a counter in a pattern gave a clip is not worked out anew: it depends on all that was made before. */
const counted = /\{counter/

/**
 * What a made item of one file would be called if its recipe named it now, with the original's name and what is said of
 * its clip as they are: an original that was renamed, or a scene that was corrected, leaves what was made of it behind.
 * @param madeName the item's file name, whose ending stays
 * @param values what stands for the fields of the pattern now
 * @returns null when that is its name, in whatever case or Unicode form, and where it is not renamed: files of an
 *   OP-Atom set carry their clip's name inside, and a receiving system has taken in what lies in numbered folders
 */
export function nameToday(
  recipe: Pick<Recipe, 'container' | 'folders' | 'namePattern' | 'suffix'>,
  values: Readonly<Record<NameField, string>>,
  madeName: string,
): string | null {
  if (recipe.container === 'mxf-op-atom' || recipe.folders.kind === 'numbered' || counted.test(recipe.namePattern))
    return null
  try {
    const now = `${madeBase(recipe.namePattern, values, 0)}${recipe.suffix}${madeName.slice(stem(madeName).length)}`
    return normalName(now) === normalName(madeName) || isTooLong(now) ? null : now
  } catch (error) {
    if (error instanceof PatternError) return null
    throw error
  }
}
