import { toHex, viewOf } from '../bytes/index.ts'
import type { HeaderNumbers } from '../headers/index.ts'
import { placeOf, readItems } from './header-metadata.ts'
import { type Klv, MxfError, readKlv } from './klv.ts'
import { fromUtf16, tags } from './package.ts'

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

interface KnownSet {
  /** What kind of set it is: two bytes of its key, in hexadecimal. */
  readonly kind: string
  readonly items: ReadonlyMap<number, Uint8Array>
}

/** Kinds of sets, by the two bytes of their key that tell them apart (ST 377-1, table 17). */
const kinds = {
  ...{ sequence: '010f', sourceClip: '0111', timecode: '0114', container: '0123', identification: '0130' },
  ...{ material: '0136', source: '0137', track: '013b' },
}

const aSet = /^060e2b34025301..0d01010101(01....)/
const closedAndComplete = /^060e2b34020501..0d010201010204..$/

/** Local tags beside those that are read elsewhere. */
const more = {
  ...{ dataDefinition: 0x0201, duration: 0x0202, start: 0x1501, base: 0x1502, drop: 0x1503, editRate: 0x4b01 },
  ...{ linkedPackage: 0x2701, containerDuration: 0x3002, sampleRate: 0x3d03 },
  ...{ preface: 0x3b02, generation: 0x0102 },
}

/** Items in which each file has its own: ids, times, and what is read as its numbers. */
const numbered = new Set<number>([
  ...[tags.instance, tags.modified, tags.created, more.duration, more.containerDuration, more.start],
  ...[more.preface, more.generation],
])

function readPlain(bytes: Uint8Array): MxfHeader | null {
  const pack = readKlv(bytes, 0)
  const { start, byteCount } = placeOf(bytes)
  const end = start + byteCount
  if (!closedAndComplete.test(pack.key) || end > bytes.length) return null
  const header: Klv[] = []
  for (let at = start; at < end; at = header.at(-1)?.end ?? end) header.push(readKlv(bytes.subarray(0, end), at))
  const sets = header.flatMap(asSet)
  if (!isPrimer(header[0]) || !areOfOneLength(sets)) return null
  const numbers = readNumbers(sets)
  return numbers && { shape: shapeOf(pack, header, sets), numbers, end }
}

function asSet(klv: Klv): KnownSet[] {
  const kind = aSet.exec(klv.key)?.[1]
  return kind ? [{ kind: kind.slice(0, 4), items: readItems(klv) }] : []
}

const primer = '060e2b34020501010d01020101050100'
const primerRowBytes = 18

/** Whether the header begins with what its local tags stand for (ST 377-1, 9.2), as many as it counts. */
const isPrimer = (first: Klv | undefined): boolean =>
  first?.key === primer &&
  first.value.length >= 8 &&
  first.value.length === 8 + primerRowBytes * viewOf(first.value).getUint32(0)

/** Whether all that lasts does so for the same time, as far as it is counted at one rate. */
function areOfOneLength(sets: readonly KnownSet[]): boolean {
  const byId = new Map(sets.map((set) => [toHex(set.items.get(tags.instance) ?? new Uint8Array()), set]))
  const lengths = new Map<string, string>()
  for (const { items } of ofKind(sets, 'track')) {
    const rate = toHex(items.get(more.editRate) ?? new Uint8Array())
    const segment = byId.get(toHex(items.get(tags.segment) ?? new Uint8Array()))
    const parts = idsIn(segment?.items.get(tags.components)).map((id) => byId.get(id))
    // Of several parts of one track each has a length of its own.
    for (const set of parts.length === 1 ? [segment, ...parts] : [segment]) {
      const length = toHex(set?.items.get(more.duration) ?? new Uint8Array())
      if ((lengths.get(rate) ?? length) !== length) return false
      lengths.set(rate, length)
    }
  }
  return true
}

const ofKind = (sets: readonly KnownSet[], kind: keyof typeof kinds): KnownSet[] =>
  sets.filter((set) => set.kind === kinds[kind])

const unsignedOf = (value: Uint8Array | undefined): number | null =>
  value?.length === 8 ? Number(viewOf(value).getBigInt64(0)) : null

function readNumbers(sets: readonly KnownSet[]): MxfHeader['numbers'] | null {
  const [material, ...others] = ofKind(sets, 'material')
  const id = material?.items.get(tags.packageId)
  if (!material || !id || others.length) return null
  const name = fromUtf16(material.items.get(tags.packageName) ?? new Uint8Array()).trim()
  // What is no plain letter may be written in one of several ways.
  if (!/^[\x20-\x7e]*$/.test(name)) return null
  const labels = new Map(
    ofKind(sets, 'timecode').map(({ items }) => {
      const start = unsignedOf(items.get(more.start))
      return [`${start} ${toHex(items.get(more.base) ?? new Uint8Array())}`, { start, base: items.get(more.base) }]
    }),
  )
  const [label] = labels.values()
  if (labels.size > 1 || (label && (label.start === null || label.start < 0 || label.base?.length !== 2))) return null
  const lengths = lengthsOf(sets, material)
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
function lengthsOf(sets: readonly KnownSet[], material: KnownSet): { frames: number | null; samples: number[] } | null {
  const byId = new Map(sets.map((set) => [toHex(set.items.get(tags.instance) ?? new Uint8Array()), set]))
  const sampleRates = new Set(sets.flatMap(({ items }) => items.get(more.sampleRate) ?? []).map(toHex))
  const frames: number[] = []
  const samples: number[] = []
  for (const trackId of idsIn(material.items.get(tags.tracks))) {
    const track = byId.get(trackId)
    const sequence = byId.get(toHex(track?.items.get(tags.segment) ?? new Uint8Array()))
    const definition = toHex(sequence?.items.get(more.dataDefinition) ?? new Uint8Array()).slice(16, 30)
    const duration = unsignedOf(sequence?.items.get(more.duration))
    if (definition === dataDefinitions.picture) frames.push(duration ?? -1)
    if (definition !== dataDefinitions.sound) continue
    const [rate] = sampleRates
    const editRate = track?.items.get(more.editRate)
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

/** The ids of sets that an item lists. */
function idsIn(value: Uint8Array | undefined): string[] {
  if (!value || value.length < 8) return []
  const count = viewOf(value).getUint32(0)
  if (value.length !== 8 + 16 * count) return []
  return Array.from({ length: count }, (_, index) => toHex(value.subarray(8 + 16 * index, 24 + 16 * index)))
}

/** All that the header says but for its numbers; ids are written as the place of what they name. */
function shapeOf(pack: Klv, header: readonly Klv[], sets: readonly KnownSet[]): string {
  const places = new Map<string, string>()
  for (const [index, { kind, items }] of sets.entries()) {
    places.set(toHex(items.get(tags.instance) ?? new Uint8Array()), `set ${index}`)
    const packageId = items.get(tags.packageId)
    if (packageId && (kind === kinds.material || kind === kinds.source))
      places.set(toHex(packageId), `package ${index}`)
  }
  // What files that hold essence are called is no fact; what a reel is called is.
  const files = new Set(
    ofKind(sets, 'container')
      .flatMap(({ items }) => items.get(more.linkedPackage) ?? [])
      .map(toHex),
  )
  const wordOf = (value: Uint8Array): string => {
    const ids = idsIn(value)
    if (ids.length && ids.every((id) => places.has(id))) return ids.map((id) => places.get(id)).join(', ')
    const hex = toHex(value)
    return places.get(hex) ?? hex
  }
  const wordsOf = ({ kind, items }: KnownSet): string[] => {
    if (kind === kinds.identification) return [kind]
    const isNamed = kind === kinds.material || files.has(toHex(items.get(tags.packageId) ?? new Uint8Array()))
    const told = [...items].filter(([tag]) => !numbered.has(tag) && !(isNamed && tag === tags.packageName))
    return [kind, ...told.map(([tag, value]) => `${tag} ${wordOf(value)}`)]
  }
  // Of the partition: its version and grid; its operational pattern and what it contains.
  const partition = [pack.value.subarray(0, 8), pack.value.subarray(64)].map(toHex)
  return ['mxf', ...partition, ...header.map(({ key }) => key), ...sets.flatMap(wordsOf)].join('\n')
}
