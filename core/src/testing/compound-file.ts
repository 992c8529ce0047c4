import { fromHex, joinBytes, viewOf } from '../bytes/index.ts'

/** A storage with what lies in it by name, or a stream. */
export interface Storage {
  /** Sixteen bytes in hexadecimal. */
  readonly classBytes?: string
  readonly children: Readonly<Record<string, Storage | Uint8Array>>
}

const miniBytes = 64
const miniCutoff = 4096
const none = 0xffff_ffff
const end = 0xffff_fffe

interface Entry {
  name: string
  type: number
  classBytes: string
  left: number
  right: number
  child: number
  content: Uint8Array | null
  start: number
}

/** Writes a compound file ([MS-CFB]): of version 3 with sectors of 512 bytes, or of version 4 with sectors of 4096. */
export function writeCompoundFile(root: Storage, sectorBytes: 512 | 4096 = 512): Uint8Array {
  const entries: Entry[] = []
  const add = (name: string, type: number, of: Storage | Uint8Array): number => {
    const isStream = of instanceof Uint8Array
    const entry: Entry = {
      ...{ name, type, classBytes: isStream ? '' : (of.classBytes ?? ''), left: none, right: none, child: none },
      ...{ content: isStream ? of : null, start: end },
    }
    const index = entries.push(entry) - 1
    if (!isStream) entry.child = tree(Object.entries(of.children))
    return index
  }
  // Names are sorted by their length first, then by their capitals ([MS-CFB], 2.6.4).
  const tree = (named: [string, Storage | Uint8Array][]): number => {
    const sorted = [...named].sort(([a], [b]) => a.length - b.length || (a.toUpperCase() < b.toUpperCase() ? -1 : 1))
    const grow = (from: number, to: number): number => {
      if (from >= to) return none
      const middle = (from + to) >> 1
      const [name, of] = sorted[middle] as (typeof sorted)[number]
      const index = add(name, of instanceof Uint8Array ? 2 : 1, of)
      const entry = entries[index] as Entry
      entry.left = grow(from, middle)
      entry.right = grow(middle + 1, to)
      return index
    }
    return grow(0, sorted.length)
  }
  add('Root Entry', 5, root)

  const sectors: Uint8Array[] = []
  const fat: number[] = []
  const store = (content: Uint8Array): number => {
    const count = Math.ceil(content.length / sectorBytes)
    if (count === 0) return end
    const start = sectors.length
    for (let index = 0; index < count; index++) {
      const sector = new Uint8Array(sectorBytes)
      sector.set(content.subarray(index * sectorBytes, (index + 1) * sectorBytes))
      sectors.push(sector)
      fat.push(index === count - 1 ? end : start + index + 1)
    }
    return start
  }
  const mini: Uint8Array[] = []
  const miniFat: number[] = []
  for (const entry of entries) {
    const { content } = entry
    if (!content?.length) continue
    if (content.length >= miniCutoff) {
      entry.start = store(content)
      continue
    }
    const count = Math.ceil(content.length / miniBytes)
    entry.start = miniFat.length
    const padded = new Uint8Array(count * miniBytes)
    padded.set(content)
    mini.push(padded)
    for (let index = 0; index < count; index++) miniFat.push(index === count - 1 ? end : entry.start + index + 1)
  }
  const miniStream = joinBytes(mini)
  const rootEntry = entries[0] as Entry
  rootEntry.start = store(miniStream)
  const miniFatStart = store(words(miniFat, sectorBytes / 4))
  const directory = joinBytes(entries.map((entry) => entryOf(entry, miniStream.length)))
  const directoryStart = store(directory)
  const fatSectors = Math.ceil((fat.length + 1) / (sectorBytes / 4 - 1))
  if (fatSectors > 109) throw new RangeError('A test needs no file as large as that.')
  const fatStart = sectors.length
  for (let index = 0; index < fatSectors; index++) fat.push(0xffff_fffd)
  const table = words(fat, sectorBytes / 4)
  const header = new Uint8Array(sectorBytes)
  header.set(fromHex('d0cf11e0a1b11ae1'))
  const view = viewOf(header)
  view.setUint16(24, 0x3e, true)
  view.setUint16(26, sectorBytes === 512 ? 3 : 4, true)
  view.setUint16(28, 0xfffe, true)
  view.setUint16(30, Math.log2(sectorBytes), true)
  view.setUint16(32, 6, true)
  if (sectorBytes === 4096) view.setUint32(40, Math.ceil(directory.length / sectorBytes), true)
  view.setUint32(44, fatSectors, true)
  view.setUint32(48, directoryStart, true)
  view.setUint32(56, miniCutoff, true)
  view.setUint32(60, miniFatStart, true)
  view.setUint32(64, Math.ceil(miniFat.length / (sectorBytes / 4)), true)
  view.setUint32(68, end, true)
  for (let index = 0; index < 109; index++)
    view.setUint32(76 + index * 4, index < fatSectors ? fatStart + index : none, true)
  return joinBytes([header, ...sectors, table])
}

function entryOf(entry: Entry, miniStreamBytes: number): Uint8Array {
  const bytes = new Uint8Array(128)
  const view = viewOf(bytes)
  ;[...entry.name].forEach((letter, index) => {
    view.setUint16(index * 2, letter.charCodeAt(0), true)
  })
  view.setUint16(64, entry.name.length * 2 + 2, true)
  bytes[66] = entry.type
  bytes[67] = 1
  view.setUint32(68, entry.left, true)
  view.setUint32(72, entry.right, true)
  view.setUint32(76, entry.child, true)
  bytes.set(fromHex(entry.classBytes), 80)
  view.setUint32(116, entry.start, true)
  view.setUint32(120, entry.type === 5 ? miniStreamBytes : (entry.content?.length ?? 0), true)
  return bytes
}

function words(values: readonly number[], multiple: number): Uint8Array {
  const count = Math.ceil(values.length / multiple) * multiple
  const bytes = new Uint8Array(count * 4)
  const view = viewOf(bytes)
  for (let index = 0; index < count; index++) view.setUint32(index * 4, values[index] ?? none, true)
  return bytes
}
