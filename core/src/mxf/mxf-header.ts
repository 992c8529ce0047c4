import { toHex, viewOf } from '../bytes/index.ts'
import type { HeaderNumbers } from '../headers/index.ts'
import { headerItems, isSet, type MetadataSet, primerPack, readItems, readPrimer } from './header-metadata.ts'
import { type Klv, MxfError, readKlv } from './klv.ts'
import { byInstance, fromUtf16, isKind, references, tags } from './package.ts'

/** What the header of an MXF file says. */
export interface MxfHeader {
  /** Its shape, as far as the header says it. */
  readonly shape: string
  readonly numbers: Omit<HeaderNumbers, 'stored' | 'notes' | 'createdAt'>
  /** The byte at which what follows it begins. */
  readonly end: number
}

/**
 * Reads the header metadata of an MXF file (SMPTE ST 377-1, section 9, annexes A and B), where that is plain: closed
 * and complete, of one material package, all of whose timecode begins at one label.
 * @param bytes the first of the file, up to the end of its header
 * @returns null where anything is otherwise
 */
export function readMxfHeader(bytes: Uint8Array): MxfHeader | null {
  try {
    return readPlain(bytes)
  } catch (error) {
    if (error instanceof MxfError) return null
    throw error
  }
}

const closedAndComplete = /^060e2b34020501..0d010201010204..$/

/** Items in which each file has its own: ids, times, and what is read as its numbers. */
const numbered = new Set<number>([
  ...[tags.instance, tags.modified, tags.created, tags.lastModified, tags.generation],
  ...[tags.duration, tags.containerDuration, tags.startTimecode],
])

type ById = ReadonlyMap<string, MetadataSet>

function readPlain(bytes: Uint8Array): MxfHeader | null {
  const pack = readKlv(bytes, 0)
  const header = headerItems(bytes)
  const [first] = header
  if (!closedAndComplete.test(pack.key) || first?.key !== primerPack) return null
  readPrimer(first.value)
  const sets = header.filter(isSet).map((klv) => ({ key: klv.key, items: readItems(klv) }))
  const byId = byInstance({ sets })
  const numbers = areOfOneLength(sets, byId) ? readNumbers(sets, byId) : null
  return numbers && { shape: shapeOf(pack, header, sets), numbers, end: header.at(-1)?.end ?? first.end }
}

/** Whether all that lasts does so for the same time, as far as it is counted at one rate. */
function areOfOneLength(sets: readonly MetadataSet[], byId: ById): boolean {
  const lengths = new Map<string, string>()
  for (const { items } of sets.filter((set) => isKind(set, 'track'))) {
    const rate = hexOf(items.get(tags.editRate))
    const segment = byId.get(hexOf(items.get(tags.segment)))
    const parts = references(segment?.items.get(tags.components)).map((id) => byId.get(id))
    // Of several parts of one track each has a length of its own.
    for (const set of parts.length === 1 ? [segment, ...parts] : [segment]) {
      const length = hexOf(set?.items.get(tags.duration))
      if ((lengths.get(rate) ?? length) !== length) return false
      lengths.set(rate, length)
    }
  }
  return true
}

const hexOf = (value: Uint8Array | undefined): string => (value ? toHex(value) : '')

const unsignedOf = (value: Uint8Array | undefined): number | null =>
  value?.length === 8 ? Number(viewOf(value).getBigInt64(0)) : null

function readNumbers(sets: readonly MetadataSet[], byId: ById): MxfHeader['numbers'] | null {
  const [material, ...others] = sets.filter((set) => isKind(set, 'material'))
  const id = material?.items.get(tags.packageId)
  if (!material || !id || others.length) return null
  const name = fromUtf16(material.items.get(tags.packageName) ?? new Uint8Array()).trim()
  // What is no plain letter may be written in one of several ways.
  if (!/^[\x20-\x7e]*$/.test(name)) return null
  const labels = new Map(
    sets
      .filter((set) => isKind(set, 'timecode'))
      .map(({ items }) => {
        const [start, base] = [items.get(tags.startTimecode), items.get(tags.roundedTimecodeBase)]
        return [`${hexOf(start)} ${hexOf(base)}`, { start: unsignedOf(start), base }]
      }),
  )
  const [label] = labels.values()
  if (labels.size > 1 || (label && (label.start === null || label.start < 0 || label.base?.length !== 2))) return null
  const lengths = lengthsOf(sets, material, byId)
  return (
    lengths && {
      ...lengths,
      timecode: label
        ? { frame: label.start as number, labelsPerSecond: viewOf(label.base as Uint8Array).getUint16(0) }
        : null,
      materialPackage: { id: `0x${toHex(id).toUpperCase()}`, name: name || null },
    }
  )
}

const dataDefinitions = { picture: '01030202010000', sound: '01030202020000' }

/** How long the tracks of the material package are: pictures in frames, sound in samples. */
function lengthsOf(
  sets: readonly MetadataSet[],
  material: MetadataSet,
  byId: ById,
): { frames: number | null; samples: number[] } | null {
  const sampleRates = new Set(sets.flatMap(({ items }) => items.get(tags.samplingRate) ?? []).map(toHex))
  const frames: number[] = []
  const samples: number[] = []
  for (const trackId of references(material.items.get(tags.tracks))) {
    const track = byId.get(trackId)
    const sequence = byId.get(hexOf(track?.items.get(tags.segment)))
    const definition = hexOf(sequence?.items.get(tags.dataDefinition)).slice(16, 30)
    const duration = unsignedOf(sequence?.items.get(tags.duration))
    if (definition === dataDefinitions.picture) frames.push(duration ?? -1)
    if (definition !== dataDefinitions.sound) continue
    const [rate] = sampleRates
    const editRate = track?.items.get(tags.editRate)
    if (duration === null || duration < 1 || sampleRates.size !== 1 || !rate || editRate?.length !== 8) return null
    const length = samplesIn(duration, editRate, rate)
    if (!(Number.isSafeInteger(length) && length > 0)) return null
    samples.push(length)
  }
  const [only = null] = frames
  if (frames.length > 1 || (only !== null && only < 1) || (only === null && samples.length === 0)) return null
  return { frames: only, samples }
}

/** A track that counts frames of 29.97 a second tells of its samples to half a sample. */
function samplesIn(duration: number, editRate: Uint8Array, sampleRate: string): number {
  const edits = viewOf(editRate)
  const [numerator, denominator] = [sampleRate.slice(0, 8), sampleRate.slice(8)].map((hex) => Number.parseInt(hex, 16))
  return Math.round((duration * (numerator ?? 0) * edits.getInt32(4)) / ((denominator ?? 0) * edits.getInt32(0)))
}

/** Whether an item has the form of a list of references. */
const isList = (value: Uint8Array): boolean => value.length > 8 && value.length === 8 + 16 * viewOf(value).getUint32(0)

/** All that the header says but for its numbers; ids are written as the place of what they name. */
function shapeOf(pack: Klv, header: readonly Klv[], sets: readonly MetadataSet[]): string {
  const places = new Map<string, string>()
  for (const [index, { items }] of sets.entries()) {
    places.set(hexOf(items.get(tags.instance)), `set ${index}`)
    const packageId = items.get(tags.packageId)
    if (packageId) places.set(toHex(packageId), `package ${index}`)
  }
  // What files that hold essence are called is no fact; what a reel is called is.
  const files = new Set(
    sets.filter((set) => isKind(set, 'container')).map(({ items }) => hexOf(items.get(tags.linkedPackage))),
  )
  const wordOf = (value: Uint8Array): string => {
    const ids = isList(value) ? references(value) : []
    if (ids.length && ids.every((id) => places.has(id))) return ids.map((id) => places.get(id)).join(', ')
    return places.get(toHex(value)) ?? toHex(value)
  }
  const wordsOf = (set: MetadataSet): string[] => {
    if (isKind(set, 'identification')) return []
    const isNamed = isKind(set, 'material') || files.has(hexOf(set.items.get(tags.packageId)))
    const told = [...set.items].filter(([tag]) => !numbered.has(tag) && !(isNamed && tag === tags.packageName))
    return [set.key, ...told.map(([tag, value]) => `${tag} ${wordOf(value)}`)]
  }
  // Of the partition: its version and grid; its operational pattern and what it contains.
  const words = [pack.value.subarray(0, 8), pack.value.subarray(64), header[0]?.value].map(hexOf)
  return ['mxf', ...words, ...header.map(({ key }) => key), ...sets.flatMap(wordsOf)].join('\n')
}
