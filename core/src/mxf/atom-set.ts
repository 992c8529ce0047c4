import { fromHex, toHex, viewOf } from '../bytes/index.ts'
import { type HeaderMetadata, type MetadataSet, readHeader, writeHeader } from './header-metadata.ts'
import { MxfError } from './klv.ts'
import {
  byInstance,
  fromUtf16,
  isKind,
  item,
  referenceArray,
  references,
  tags,
  trackNameLabel,
  unsigned,
  utf16,
} from './package.ts'

/**
 * The name of a comment that keeps room in a header for what files of a set say of each other. It goes when they do.
 */
export const reserveComment = 'reserve'

/** What a file says of another one of its set: two tracks with sequence, clip and name, and the references to them. */
const bytesForEach = 720
/** What a comment takes beside its text of two bytes a character. */
const bytesOfComment = 98

/** So many characters of names and comments are counted on, so that headers are as long whatever those say. */
const usualCharacters = 320

/**
 * How many characters such a comment has to have in each file of a set of so many.
 * @param said what else is written into the header, by its names
 */
export function reserveCharacters(files: number, said: Readonly<Record<string, string>> = {}): number {
  if (files < 2) return 0
  const bytes = Object.entries(said).map(
    ([name, text]) => bytesOfComment / 2 - reserveComment.length + name.length + text.length,
  )
  const spoken = bytes.reduce((sum, each) => sum + each, 0)
  return (bytesForEach / 2) * (files - 1) + 60 + Math.max(0, usualCharacters - spoken)
}

/** The bytes by which the files of a set have longer headers than one alone. */
export const reserveBytes = (files: number): number => (files > 1 ? bytesForEach * (files - 1) : 0)

/** A track of essence in a package: the track, its sequence and the clip in that. */
interface Track {
  readonly sets: readonly [MetadataSet, MetadataSet, MetadataSet]
}

/** The header of one file of one essence, and in it what makes it one of a set. */
interface AtomHeader {
  readonly header: HeaderMetadata
  readonly instances: ReadonlyMap<string, MetadataSet>
  readonly material: MetadataSet
  /** What holds the essence of this file. */
  readonly file: MetadataSet
  /** Where that came from, a reel; null where no reel is known. */
  readonly reel: MetadataSet | null
}

/** What files of one essence are to a reader of them: one clip, or strangers. */
export interface AtomIdentity {
  /** The ids of packages in hexadecimal (SMPTE ST 330). */
  readonly materialId: string
  readonly clipName: string | null
  readonly fileId: string
  readonly reelId: string | null
  readonly reel: string | null
  /** The file packages that the clip's tracks lead to, in order. */
  readonly trackFileIds: readonly string[]
}

/**
 * Makes files of one essence each one clip: SMPTE ST 390 has the material package of each name the tracks of the whole
 * set. They get the material package's id and the reel's of the first, tracks that lead to the essence of every file,
 * and a name for each of those.
 * @param starts the bytes of each file up to the end of its header, the picture's first
 * @param names of the tracks, in the same order
 * @returns for each file the bytes that take the place of as many of its own, and where
 * @throws MxfError when one is no such file, or its header has no room
 */
export function joinAtomSet(
  starts: readonly Uint8Array[],
  names: readonly string[],
): { readonly offset: number; readonly bytes: Uint8Array }[] {
  const atoms = starts.map(readAtom)
  return atoms.map((atom, index) => ({
    offset: atom.header.start,
    bytes: writeHeader(joined(atom, index, atoms, names)),
  }))
}

/** What a file of one essence says of its clip. @throws MxfError when it is no such file */
export function readAtomIdentity(start: Uint8Array): AtomIdentity {
  const atom = readAtom(start)
  const nameOf = (set: MetadataSet | null): string | null => {
    const name = set?.items.get(tags.packageName)
    return name ? fromUtf16(name) : null
  }
  return {
    materialId: idOf(atom.material),
    clipName: nameOf(atom.material),
    fileId: idOf(atom.file),
    reelId: atom.reel && idOf(atom.reel),
    reel: nameOf(atom.reel),
    trackFileIds: essenceTracks(atom, atom.material).map(({ sets: [, , clip] }) => sourceOf(clip)),
  }
}

const idOf = (set: MetadataSet): string => toHex(item(set, tags.packageId))
const sourceOf = (clip: MetadataSet): string => toHex(item(clip, tags.sourcePackage))
const theOnly = <T>(found: readonly T[], what: string): T => {
  if (found.length !== 1) throw new MxfError(`it has ${found.length} ${what} instead of one`)
  return found[0] as T
}

function readAtom(start: Uint8Array): AtomHeader {
  const header = readHeader(start)
  const instances = byInstance(header)
  const material = theOnly(
    header.sets.filter((set) => isKind(set, 'material')),
    'material packages',
  )
  const sources = new Map(header.sets.filter((set) => isKind(set, 'source')).map((set) => [idOf(set), set]))
  const partial = { header, instances, material }
  const own = theOnly(
    essenceTracks(partial, material).filter(({ sets: [, , clip] }) => sources.has(sourceOf(clip))),
    'tracks',
  )
  const file = sources.get(sourceOf(own.sets[2])) as MetadataSet
  const essence = theOnly(essenceTracks(partial, file), 'tracks of essence')
  return { ...partial, file, reel: sources.get(sourceOf(essence.sets[2])) ?? null }
}

/** The tracks of a package that lead to essence; its timecode is none. */
function essenceTracks({ instances }: Pick<AtomHeader, 'instances'>, of: MetadataSet): Track[] {
  return references(of.items.get(tags.tracks)).flatMap((id): Track[] => {
    const track = instances.get(id)
    const sequence = instances.get(toHex(track?.items.get(tags.segment) ?? new Uint8Array()))
    const [first] = references(sequence?.items.get(tags.components))
    const clip = instances.get(first ?? '')
    return track && sequence && clip && isKind(clip, 'sourceClip') ? [{ sets: [track, sequence, clip] }] : []
  })
}

/** The first essence track has this id in every package that the set shares; one before it is its timecode. */
const firstTrackId = 2

function joined(atom: AtomHeader, own: number, atoms: readonly AtomHeader[], names: readonly string[]): HeaderMetadata {
  const [first] = atoms as [AtomHeader]
  const { header, material, file, reel } = atom
  const replaced = new Map<MetadataSet, readonly MetadataSet[]>()
  const newIds = instanceIds(header)
  const setOf = (set: MetadataSet, changes: readonly (readonly [number, Uint8Array])[]): MetadataSet => ({
    key: set.key,
    items: new Map([...set.items, ...changes]),
  })

  /** Gives a package the tracks that each file of the set has in its own, and what else is to be another. */
  const share = (of: MetadataSet, inFirst: MetadataSet, in_: (each: AtomHeader) => MetadataSet | null): void => {
    const tracks = atoms.flatMap((each, index) => {
      const holder = in_(each)
      const track = holder && essenceTracks(each, holder)[0]
      if (!track) return []
      const marks = [
        [tags.trackId, unsigned(firstTrackId + index)],
        [tags.trackName, utf16(names[index] ?? '')],
      ] as const
      return [{ index, sets: track.sets, marks }]
    })
    const ids = tracks.map(({ index, sets, marks }) => {
      if (index === own) {
        replaced.set(sets[0], [setOf(sets[0], marks)])
        return toHex(item(sets[0], tags.instance))
      }
      const [trackId, sequenceId, clipId] = [newIds(), newIds(), newIds()]
      const [track, sequence, clip] = sets
      added.push(
        setOf(track, [...marks, [tags.instance, fromHex(trackId)], [tags.segment, fromHex(sequenceId)]]),
        setOf(sequence, [
          [tags.instance, fromHex(sequenceId)],
          [tags.components, referenceArray([clipId])],
        ]),
        setOf(clip, [[tags.instance, fromHex(clipId)]]),
      )
      return trackId
    })
    const others = references(of.items.get(tags.tracks)).filter(
      (id) => !essenceTracks(atom, of).some(({ sets: [track] }) => toHex(item(track, tags.instance)) === id),
    )
    const same = [tags.packageId, tags.packageName, tags.created, tags.modified].flatMap((tag) => {
      const value = inFirst.items.get(tag)
      return value ? [[tag, value] as const] : []
    })
    replaced.set(of, [setOf(of, [...same, [tags.tracks, referenceArray([...others, ...ids])]])])
  }
  const added: MetadataSet[] = []
  share(material, first.material, (each) => each.material)
  if (reel && first.reel) {
    share(reel, first.reel, (each) => each.reel)
    const [essence] = essenceTracks(atom, file)
    const clip = (essence as Track).sets[2]
    replaced.set(clip, [
      setOf(clip, [
        [tags.sourcePackage, item(first.reel, tags.packageId)],
        [tags.sourceTrack, unsigned(firstTrackId + own)],
      ]),
    ])
  }
  const reserves = new Set(
    header.sets.filter((set) => isKind(set, 'comment') && fromUtf16(item(set, tags.commentName)) === reserveComment),
  )
  const gone = new Set([...reserves].map((set) => toHex(item(set, tags.instance))))
  const sets = header.sets
    .filter((set) => !reserves.has(set))
    .flatMap((set) => replaced.get(set) ?? [set])
    .map((set) => withoutComments(set, gone))
  return { ...header, primer: new Map([...header.primer, [tags.trackName, trackNameLabel]]), sets: [...sets, ...added] }
}

function withoutComments(set: MetadataSet, gone: ReadonlySet<string>): MetadataSet {
  const comments = references(set.items.get(tags.comments))
  const kept = comments.filter((id) => !gone.has(id))
  if (kept.length === comments.length) return set
  const items = new Map(set.items)
  if (kept.length) items.set(tags.comments, referenceArray(kept))
  else items.delete(tags.comments)
  return { key: set.key, items }
}

/** Ids that no set of a header has yet. */
function instanceIds({ sets }: HeaderMetadata): () => string {
  const [first] = sets
  if (!first) throw new MxfError('its header has no sets')
  const used = new Set(sets.map((set) => toHex(item(set, tags.instance))))
  const base = item(first, tags.instance)
  let next = 0x10000
  return () => {
    for (;;) {
      const id = base.slice()
      viewOf(id).setUint32(12, next++)
      if (!used.has(toHex(id))) return toHex(id)
    }
  }
}
