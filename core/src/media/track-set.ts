import { fileName } from '../naming/index.ts'
import { compareText, groupBy } from '../text/index.ts'
import type { MediaFacts } from './facts.ts'
import { joinFacts } from './spanned-take.ts'

/** Names as people count: …A2 before …A10. */
const inOrder = new Intl.Collator('en', { numeric: true })

/**
 * Finds clips whose tracks are files of their own (MXF OP-Atom, SMPTE ST 390): one file with the picture and no sound,
 * and others with a stream of sound each, that all name one material package. Where a set, or a part of it, lies in
 * several folders at once, each folder has its own.
 * @returns the files of each set, the picture first, then the sound in the order of its names
 */
export function findTrackSets<T extends { readonly path: string; readonly facts: MediaFacts }>(
  files: readonly T[],
): T[][] {
  const named = files.filter(({ facts }) => facts.container === 'mxf' && facts.materialPackage?.id)
  return [...groupBy(named, ({ facts }) => facts.materialPackage?.id as string).values()].flatMap((all) => {
    const isTwice =
      all.filter(({ facts }) => facts.picture).length > 1 ||
      groupBy(all, ({ path }) => fileName(path)).size < all.length
    const folderOf = ({ path }: T): string => path.slice(0, path.lastIndexOf('/') + 1)
    const groups = isTwice ? [...groupBy(all, folderOf).values()] : [all]
    return groups.flatMap((group) => {
      const pictures = group.filter(({ facts }) => facts.picture && facts.sound.length === 0)
      const sounds = group.filter(({ facts }) => !facts.picture && facts.sound.length === 1)
      const [picture] = pictures
      if (!picture || pictures.length > 1 || sounds.length === 0 || sounds.length + 1 < group.length) return []
      const sorted = sounds.sort((a, b) => inOrder.compare(a.path, b.path) || compareText(a.path, b.path))
      return [[picture, ...sorted]]
    })
  })
}

/** Whether the files of a clip are its tracks, side by side; else several are its parts, one after another. */
export const isTrackSet = (files: readonly { readonly facts?: MediaFacts | null }[]): boolean =>
  files.length > 1 &&
  files[0]?.facts?.picture != null &&
  files.slice(1).every(({ facts }) => facts != null && facts.picture === null)

/** The facts of a clip's files, as of one: side by side where they are its tracks, else one after another. */
export function clipFacts(parts: readonly MediaFacts[]): MediaFacts {
  const [first] = parts as [MediaFacts, ...MediaFacts[]]
  if (!isTrackSet(parts.map((facts) => ({ facts })))) return parts.length === 1 ? first : joinFacts(parts)
  return { ...first, sound: parts.flatMap(({ sound }) => sound) }
}

/** What a clip of such files is called: as the files say, or as the picture's is without the word for its track. */
export const nameOfSet = (name: string, facts: MediaFacts): string =>
  facts.materialPackage?.name ?? name.replace(/[_.]?V\d*$/i, '')
