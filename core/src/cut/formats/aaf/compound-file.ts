import { joinBytes, toHex, viewOf } from '../../../bytes/index.ts'
import { CutFormatError } from '../../model.ts'

/** A storage or a stream of a compound file. */
export interface CompoundEntry {
  readonly name: string
  readonly isStream: boolean
  /** The 16 bytes of its class, in hexadecimal as they stand. */
  readonly classBytes: string
  /** What lies in a storage, by name. */
  readonly children: ReadonlyMap<string, CompoundEntry>
  /** What a stream holds. @throws CutFormatError where the file ends within it, or runs in a circle */
  bytes(): Uint8Array
}

const signature = 'd0cf11e0a1b11ae1'
const endOfChain = 0xffff_fffe
const noEntry = 0xffff_ffff
const headerBytes = 512
const entryBytes = 128
const difatInHeader = 109

/** Whether bytes begin as a compound file does. */
export const isCompoundFile = (bytes: Uint8Array): boolean => toHex(bytes.subarray(0, 8)) === signature

/**
 * Reads the folders of a compound file; what its streams hold is read when it is asked for ([MS-CFB], sections 2.1 to
 * 2.6, versions 3 and 4).
 * @throws CutFormatError for what is no compound file, or one that was cut off
 */
export function readCompoundFile(bytes: Uint8Array): CompoundEntry {
  return new CompoundReader(bytes).root()
}

const fault = (reason: string): CutFormatError => new CutFormatError('the file', reason)

class CompoundReader {
  readonly #bytes: Uint8Array
  readonly #view: DataView
  readonly #sectorBytes: number
  readonly #miniBytes: number
  readonly #miniCutoff: number
  readonly #fatSectors: readonly number[]
  readonly #miniFat: DataView
  readonly #directory: DataView
  readonly #isLong: boolean
  #miniStream: Uint8Array | null = null

  constructor(bytes: Uint8Array) {
    if (!isCompoundFile(bytes) || bytes.length < headerBytes) throw fault('it is no compound file, as an AAF is.')
    this.#bytes = bytes
    this.#view = viewOf(bytes)
    const shift = this.#view.getUint16(30, true)
    const miniShift = this.#view.getUint16(32, true)
    if (shift < 7 || shift > 16 || miniShift < 3 || miniShift >= shift) throw fault('the size of its sectors is none.')
    this.#isLong = this.#view.getUint16(26, true) >= 4
    this.#sectorBytes = 2 ** shift
    this.#miniBytes = 2 ** miniShift
    this.#miniCutoff = this.#view.getUint32(56, true)
    this.#fatSectors = this.#readFatSectors()
    this.#directory = viewOf(this.#chain(this.#view.getUint32(48, true)))
    this.#miniFat = viewOf(this.#chain(this.#view.getUint32(60, true)))
  }

  root(): CompoundEntry {
    const entries = Math.floor(this.#directory.byteLength / entryBytes)
    if (entries === 0) throw fault('it has no directory.')
    const seen = new Uint8Array(entries)
    seen[0] = 1
    const root = this.#entry(0)
    // Not by calls within calls: a harmed file may nest as deep as it has entries.
    const waiting: { at: number; into: Map<string, CompoundEntry> }[] = [{ at: this.#link(0, 76), into: root.children }]
    for (let next = waiting.pop(); next; next = waiting.pop()) {
      const { at, into } = next
      if (at === noEntry) continue
      if (at >= entries || seen[at]) throw fault('its directory names an entry twice, or one that it does not have.')
      seen[at] = 1
      const entry = this.#entry(at)
      into.set(entry.name, entry)
      waiting.push({ at: this.#link(at, 68), into }, { at: this.#link(at, 72), into })
      if (!entry.isStream) waiting.push({ at: this.#link(at, 76), into: entry.children })
    }
    return root
  }

  #link = (entry: number, offset: number): number => this.#directory.getUint32(entry * entryBytes + offset, true)

  #entry(index: number): CompoundEntry & { readonly children: Map<string, CompoundEntry> } {
    const at = index * entryBytes
    const directory = this.#directory
    const nameBytes = Math.min(64, Math.max(0, directory.getUint16(at + 64, true) - 2))
    const isStream = directory.getUint8(at + 66) === 2
    const start = directory.getUint32(at + 116, true)
    // Version 3 leaves the upper half of a size to chance ([MS-CFB], 2.6.4).
    const size =
      directory.getUint32(at + 120, true) + (this.#isLong ? directory.getUint32(at + 124, true) * 2 ** 32 : 0)
    return {
      name: utf16(new Uint8Array(directory.buffer, directory.byteOffset + at, nameBytes)),
      isStream,
      classBytes: toHex(new Uint8Array(directory.buffer, directory.byteOffset + at + 80, 16)),
      children: new Map(),
      bytes: () => this.#stream(start, size),
    }
  }

  #stream(start: number, size: number): Uint8Array {
    if (size > this.#bytes.length) throw fault('it ends before what it says to hold.')
    if (size === 0) return new Uint8Array(0)
    const bytes = size < this.#miniCutoff ? this.#miniChain(start, size) : this.#chain(start, size)
    if (bytes.length < size) throw fault('a stream in it ends before it is over.')
    return bytes.subarray(0, size)
  }

  /** The sectors that hold the allocation table: the first 109 stand in the header, the others in a chain. */
  #readFatSectors(): number[] {
    const sectors: number[] = []
    const take = (sector: number): void => {
      if (sector < 0xffff_fffa) sectors.push(sector)
    }
    for (let index = 0; index < difatInHeader; index++) take(this.#view.getUint32(76 + index * 4, true))
    const perSector = this.#sectorBytes / 4 - 1
    let next = this.#view.getUint32(68, true)
    for (let left = this.#mostSectors(); next < 0xffff_fffa; left--) {
      if (left <= 0) throw fault('its allocation table runs in a circle.')
      const sector = viewOf(this.#sector(next))
      for (let index = 0; index < perSector; index++) take(sector.getUint32(index * 4, true))
      next = sector.getUint32(perSector * 4, true)
    }
    return sectors
  }

  #mostSectors = (): number => Math.ceil(this.#bytes.length / this.#sectorBytes)

  #sector(index: number): Uint8Array {
    const from = (index + 1) * this.#sectorBytes
    if (from >= this.#bytes.length) throw fault('it was cut off: a sector of it lies behind its end.')
    const sector = this.#bytes.subarray(from, from + this.#sectorBytes)
    if (sector.length === this.#sectorBytes) return sector
    // Some writers leave the last one short.
    const padded = new Uint8Array(this.#sectorBytes)
    padded.set(sector)
    return padded
  }

  #after(sector: number): number {
    const perSector = this.#sectorBytes / 4
    const table = this.#fatSectors[Math.floor(sector / perSector)]
    if (table === undefined) throw fault('its allocation table does not know one of its sectors.')
    return viewOf(this.#sector(table)).getUint32((sector % perSector) * 4, true)
  }

  #chain(start: number, size = Number.POSITIVE_INFINITY): Uint8Array {
    const parts: Uint8Array[] = []
    let bytes = 0
    for (let sector = start; sector < 0xffff_fffa && bytes < size; sector = this.#after(sector)) {
      if (parts.length > this.#mostSectors()) throw fault('a chain of its sectors runs in a circle.')
      parts.push(this.#sector(sector))
      bytes += this.#sectorBytes
    }
    return joinBytes(parts)
  }

  #miniChain(start: number, size: number): Uint8Array {
    this.#miniStream ??= this.#chain(this.#link(0, 116))
    const parts: Uint8Array[] = []
    let bytes = 0
    for (let sector = start; sector !== endOfChain && bytes < size; ) {
      const from = sector * this.#miniBytes
      if (from >= this.#miniStream.length || sector * 4 + 4 > this.#miniFat.byteLength)
        throw fault('a small stream in it lies where there is nothing.')
      parts.push(this.#miniStream.subarray(from, from + this.#miniBytes))
      bytes += this.#miniBytes
      sector = this.#miniFat.getUint32(sector * 4, true)
    }
    return joinBytes(parts)
  }
}

/** Text in UTF-16, little-endian, up to its zero. */
export function utf16(bytes: Uint8Array): string {
  const view = viewOf(bytes)
  let text = ''
  for (let at = 0; at + 1 < bytes.length; at += 2) {
    const unit = view.getUint16(at, true)
    if (unit === 0) break
    text += String.fromCharCode(unit)
  }
  return text
}
