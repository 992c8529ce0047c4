import { fromHex, joinBytes, toHex, viewOf } from '../bytes/index.ts'
import type { HeaderMetadata, MetadataSet } from './header-metadata.ts'
import { MxfError } from './klv.ts'

/** Local tags of what is read and written here (SMPTE ST 377-1, annexes A and B). */
export const tags = {
  instance: 0x3c0a,
  packageId: 0x4401,
  packageName: 0x4402,
  tracks: 0x4403,
  modified: 0x4404,
  created: 0x4405,
  comments: 0x4406,
  trackId: 0x4801,
  trackName: 0x4802,
  segment: 0x4803,
  components: 0x1001,
  sourcePackage: 0x1101,
  sourceTrack: 0x1102,
  commentName: 0x5001,
  dataDefinition: 0x0201,
  duration: 0x0202,
  startTimecode: 0x1501,
  roundedTimecodeBase: 0x1502,
  editRate: 0x4b01,
  linkedPackage: 0x2701,
  containerDuration: 0x3002,
  samplingRate: 0x3d03,
  lastModified: 0x3b02,
  generation: 0x0102,
} as const

/** What the local tag of a track's name stands for. */
export const trackNameLabel = '060e2b34010101020107010201000000'

/** The kinds of sets that matter here, by the byte of their key that tells them apart (ST 377-1, table 17). */
const kinds = {
  ...{ material: '36', source: '37', comment: '3f', sourceClip: '11', track: '3b', sequence: '0f' },
  ...{ timecode: '14', container: '23', identification: '30' },
} as const
export const isKind = ({ key }: Pick<MetadataSet, 'key'>, kind: keyof typeof kinds): boolean =>
  key.slice(24, 30) === `0101${kinds[kind]}`

export function item({ items }: MetadataSet, tag: number): Uint8Array {
  const value = items.get(tag)
  if (!value) throw new MxfError(`a set of its header lacks item ${tag.toString(16)}`)
  return value
}

/** The ids in an item that refers to other sets, one or an array of them, in hexadecimal. */
export function references(value: Uint8Array | undefined): string[] {
  if (!value) return []
  if (value.length === 16) return [toHex(value)]
  const count = value.length < 8 ? 0 : viewOf(value).getUint32(0)
  if (value.length < 8 + 16 * count) throw new MxfError('a list of its header cannot be read')
  return Array.from({ length: count }, (_, index) => toHex(value.subarray(8 + 16 * index, 24 + 16 * index)))
}

/** An array of references as an item. */
export function referenceArray(ids: readonly string[]): Uint8Array {
  const head = new Uint8Array(8)
  viewOf(head).setUint32(0, ids.length)
  viewOf(head).setUint32(4, 16)
  return joinBytes([head, ...ids.map(fromHex)])
}

export function unsigned(value: number): Uint8Array {
  const bytes = new Uint8Array(4)
  viewOf(bytes).setUint32(0, value)
  return bytes
}

/** Text as it stands in the header: UTF-16, its highest byte first. */
export function utf16(text: string): Uint8Array {
  const bytes = new Uint8Array(2 * text.length)
  for (let index = 0; index < text.length; index++) viewOf(bytes).setUint16(2 * index, text.charCodeAt(index))
  return bytes
}

export function fromUtf16(bytes: Uint8Array): string {
  const view = viewOf(bytes)
  const codes = Array.from({ length: bytes.length >> 1 }, (_, index) => view.getUint16(2 * index))
  return String.fromCharCode(...codes).replace(/\0+$/, '')
}

/** The sets of a header by the id that others refer to them by. */
export const byInstance = ({ sets }: Pick<HeaderMetadata, 'sets'>): ReadonlyMap<string, MetadataSet> =>
  new Map(sets.flatMap((set) => (set.items.has(tags.instance) ? [[toHex(item(set, tags.instance)), set]] : [])))
