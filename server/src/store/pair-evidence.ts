import { basename } from 'node:path'
import {
  compareTwin,
  type EvidenceRow,
  isStretching,
  type MadePart,
  planTracks,
  type Recipe,
  sourceName,
  stem,
} from '@ennick/core'
import type { files, pairs } from './schema.ts'

type FileRow = Pick<typeof files.$inferSelect, 'path' | 'facts' | 'problem'>

/** The evidence on a pair from what is known now; null when nothing of the made item is. */
export function pairEvidence(
  clip: { readonly name: string; readonly reel: string | null },
  original: FileRow,
  made: readonly { readonly file: FileRow; readonly part: MadePart['part'] }[],
  pair: Pick<typeof pairs.$inferSelect, 'contentWidth' | 'contentHeight' | 'laidSound'>,
  suffixes: readonly string[],
  recipe: Recipe | null = null,
): EvidenceRow[] | null {
  const unreadable = (whose: string, problem: string | null): EvidenceRow[] => [
    {
      aspect: 'kind',
      expected: `${whose} that can be read`,
      found: problem ?? 'not readable',
      agrees: false,
      difference: problem,
    },
  ]
  if (made.length === 0) return null
  if (!original.facts) return unreadable('an original', original.problem)
  const parts: MadePart[] = []
  for (const { file, part } of made) {
    if (!file.facts) return unreadable('media', file.problem)
    const clipName = part === 'picture' ? (file.facts.materialPackage?.name ?? null) : null
    parts.push({ part, name: basename(file.path), clipName, facts: file.facts })
  }
  const content =
    pair.contentWidth !== null && pair.contentHeight !== null
      ? { width: pair.contentWidth, height: pair.contentHeight }
      : null
  // A recipe's own way of naming and of laying out sound is no difference.
  const source = pair.laidSound ? { ...original.facts, sound: pair.laidSound.sound } : original.facts
  const facts = recipe ? { ...source, sound: planTracks(source, recipe.tracks) } : source
  const whole = parts.find(({ part }) => part !== 'sound') ?? (parts[0] as MadePart)
  const named = recipe && recipe.namePattern !== sourceName ? { plannedName: stem(whole.name).replace(/_V1$/, '') } : {}
  const identity = {
    name: basename(original.path),
    formerNames: [clip.name],
    ...named,
    isStretched: recipe !== null && isStretching(recipe),
    facts,
    reel: clip.reel,
  }
  return compareTwin(identity, parts, suffixes, content)
}
