import { fileName, normalName, stem } from '../naming/index.ts'
import { compareText, groupBy } from '../text/index.ts'
import { type MediaFacts, trackNamesOf } from './facts.ts'
import { joinFacts } from './spanned-take.ts'

/** Names as people count: …A2 before …A10. */
const inOrder = new Intl.Collator('en', { numeric: true })

interface DescribedFile {
  readonly path: string
  readonly facts: MediaFacts
}

/**
 * Finds clips whose tracks are files of their own.
 * @returns the files of each set, the picture first, then the sound in the order of its names
 */
export const findTrackSets = <T extends DescribedFile>(files: readonly T[]): T[][] => [
  ...findAtomSets(files),
  ...findSplitRecordings(files),
]

/**
 * Sets of MXF OP-Atom (SMPTE ST 390): one file with the picture and no sound, and others with a stream of sound each,
 * that all name one material package. Where a set, or a part of it, lies in several folders at once, each folder has
 * its own.
 */
function findAtomSets<T extends DescribedFile>(files: readonly T[]): T[][] {
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
      return [[picture, ...byName(sounds)]]
    })
  })
}

const byName = <T extends DescribedFile>(files: readonly T[]): T[] =>
  [...files].sort((a, b) => inOrder.compare(a.path, b.path) || compareText(a.path, b.path))

/**
 * Recordings of which a recorder wrote every track into a file of its own: files of one folder that are called alike
 * but for the word for a track, and of which their notes say that they began at the same sample of the same day, in the same
 * scene, take and tape; all just as long.
 */
function findSplitRecordings<T extends DescribedFile>(files: readonly T[]): T[][] {
  const recordingOf = ({ path, facts }: T): string | null => {
    const { kind, sound, soundNotes: notes } = facts
    const name = fileName(path)
    if (kind !== 'sound' || sound.length !== 1 || sound[0]?.samples === null) return null
    if (!notes || notes.timeReferenceSamples === null || withoutTrack(name) === stem(name)) return null
    const folder = path.slice(0, path.lastIndexOf('/') + 1)
    return JSON.stringify([folder, recordedAs(name, facts), notes.originationDate, notes.scene, notes.take])
  }
  const groups = groupBy(files, recordingOf)
  groups.delete(null)
  return [...groups.values()].filter((group) => group.length > 1).map(byName)
}

/** What files of one recording have in common: their name but for the track, their start, length, rate and tape. */
export function recordedAs(name: string, { sound: [first], soundNotes, timeReferenceSamples }: MediaFacts): string {
  const reference = soundNotes?.timeReferenceSamples ?? timeReferenceSamples
  return JSON.stringify([
    ...[normalName(withoutTrack(name)), reference, first?.samples, first?.sampleRate, soundNotes?.tape ?? ''],
  ])
}

/** The name of a recording without the word for a track: "T04_1" and "T04_2" are two of one, "T05_L" and "T05_R" too. */
const withoutTrack = (name: string): string => stem(name).replace(/[_.-](?:(?:ch|tr)?\d{1,2}|[lr])$/i, '')

/** Whether the files of a clip are its tracks, side by side; else several are its parts, one after another. */
export const isTrackSet = (files: readonly { readonly facts?: MediaFacts | null }[]): boolean =>
  files.length > 1 && files.slice(1).every(({ facts }) => facts != null && facts.picture === null)

/** The facts of a clip's files, as of one: side by side where they are its tracks, else one after another. */
export function clipFacts(parts: readonly MediaFacts[]): MediaFacts {
  const [first] = parts as [MediaFacts, ...MediaFacts[]]
  if (!isTrackSet(parts.map((facts) => ({ facts })))) return parts.length === 1 ? first : joinFacts(parts)
  return {
    ...first,
    sound: parts.flatMap(({ sound }) => sound),
    ...(first.soundNotes && { soundNotes: { ...first.soundNotes, trackNames: parts.flatMap(trackNamesOf) } }),
  }
}

/** What a clip of such files is called: as the files say, or as the first is without the word for its track. */
export const nameOfSet = (name: string, { kind, materialPackage }: MediaFacts): string =>
  kind === 'sound' ? withoutTrack(name) : (materialPackage?.name ?? name.replace(/[_.]?V\d*$/i, ''))
