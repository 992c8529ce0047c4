import { fromHex, joinBytes, toHex, viewOf } from '../bytes/index.ts'
import { type Klv, MxfError, readKlv, writeKlv } from './klv.ts'

/** A set of the header metadata: items by their local tag (SMPTE ST 377-1, section 9.3). */
export interface MetadataSet {
  /** The key's 16 bytes in hexadecimal. */
  readonly key: string
  readonly items: Map<number, Uint8Array>
}

/** The header metadata of a file, and the bytes that it takes, from the primer to the last filler after it. */
export interface HeaderMetadata {
  readonly start: number
  readonly end: number
  /** What each local tag stands for: labels of 16 bytes in hexadecimal. */
  readonly primer: Map<number, string>
  readonly sets: readonly MetadataSet[]
}

const headerPartition = /^060e2b34020501..0d0102010102..00$/
export const primerPack = '060e2b34020501010d01020101050100'
const fillItem = '060e2b34010101020301021001000000'
const isFill = (key: string): boolean => /^060e2b34010101..0301021001000000$/.test(key)
/** Whether a key is that of a set of the standard; makers have some of their own. */
export const isSet = ({ key }: Pick<Klv, 'key'>): boolean => /^060e2b34025301..0d010101/.test(key)

/** So many bytes from the start of a file always hold its partition pack and what is between it and the primer. */
export const bytesToPrimer = 4096

/**
 * Where the header metadata of a file ends, which has to be read up to there.
 * @param bytes the first of the file, as many as `bytesToPrimer` or all
 * @throws MxfError when it is no MXF file whose header is written to its end
 */
export function headerEnd(bytes: Uint8Array): number {
  const { start, byteCount } = placeOf(bytes)
  return start + byteCount
}

/** Section 7 of ST 377-1: the pack of the first partition, after it at most a filler, then the primer. */
export function placeOf(bytes: Uint8Array): { start: number; byteCount: number } {
  const pack = readKlv(bytes, 0)
  if (!headerPartition.test(pack.key) || pack.value.length < 88) throw new MxfError('it does not begin as MXF')
  const byteCount = Number(viewOf(pack.value).getBigUint64(32))
  let at = pack.end
  for (let next = readKlv(bytes, at); isFill(next.key); next = readKlv(bytes, at)) at = next.end
  if (byteCount === 0 || byteCount > 16_000_000) throw new MxfError('its header says nothing, or too much')
  return { start: at, byteCount }
}

/**
 * All that stands in the header metadata, one after the other: the primer, sets, filler, and what makers keep there.
 * @param bytes the first of the file, up to the end of its header
 * @throws MxfError when it is no MXF file, or ends within its header
 */
export function headerItems(bytes: Uint8Array): Klv[] {
  const { start, byteCount } = placeOf(bytes)
  const end = start + byteCount
  if (end > bytes.length) throw new MxfError('it ends within its header')
  const within = bytes.subarray(0, end)
  const found: Klv[] = []
  for (let at = start; at < end; ) {
    const klv = readKlv(within, at)
    found.push(klv)
    at = klv.end
  }
  return found
}

/** @throws MxfError when the header metadata cannot be read */
export function readHeader(bytes: Uint8Array): HeaderMetadata {
  const [first, ...others] = headerItems(bytes)
  if (first?.key !== primerPack) throw new MxfError('it has no primer where one belongs')
  const unknown = others.find((klv) => !isSet(klv) && !isFill(klv.key))
  if (unknown) throw new MxfError(`there is something unknown in its header, ${unknown.key}`)
  const sets = others.filter(isSet).map((klv) => ({ key: klv.key, items: readItems(klv) }))
  return { start: first.offset, end: others.at(-1)?.end ?? first.end, primer: readPrimer(first.value), sets }
}

/** @throws MxfError when it has not as many rows as it counts */
export function readPrimer(value: Uint8Array): Map<number, string> {
  const view = viewOf(value)
  const [count, size] = value.length < 8 ? [0, 0] : [view.getUint32(0), view.getUint32(4)]
  if (size !== 18 || value.length < 8 + count * size) throw new MxfError('its primer cannot be read')
  return new Map(
    Array.from({ length: count }, (_, index) => {
      const at = 8 + index * size
      return [view.getUint16(at), toHex(value.subarray(at + 2, at + size))]
    }),
  )
}

export function readItems({ value }: Klv): Map<number, Uint8Array> {
  const view = viewOf(value)
  const items = new Map<number, Uint8Array>()
  for (let at = 0; at < value.length; ) {
    if (at + 4 > value.length) throw new MxfError('it ends within an item of its header')
    const end = at + 4 + view.getUint16(at + 2)
    if (end > value.length) throw new MxfError('it ends within an item of its header')
    items.set(view.getUint16(at), value.subarray(at + 4, end))
    at = end
  }
  return items
}

/**
 * Header metadata as bytes, just as many as it took: no offset of the file moves. What is left is filler.
 * @throws MxfError when there is no room for it
 */
export function writeHeader({ start, end, primer, sets }: HeaderMetadata): Uint8Array {
  const parts = [
    writeKlv(primerPack, primerBytes(primer)),
    ...sets.map(({ key, items }) => writeKlv(key, itemBytes(items))),
  ]
  const left = end - start - parts.reduce((sum, { length }) => sum + length, 0)
  const shortestFill = 20
  if (left !== 0 && left < shortestFill) throw new MxfError(`its header has no room: ${shortestFill - left} bytes more`)
  return joinBytes(left === 0 ? parts : [...parts, writeKlv(fillItem, new Uint8Array(left - shortestFill))])
}

function primerBytes(primer: ReadonlyMap<number, string>): Uint8Array {
  const bytes = new Uint8Array(8 + primer.size * 18)
  const view = viewOf(bytes)
  view.setUint32(0, primer.size)
  view.setUint32(4, 18)
  let at = 8
  for (const [tag, label] of primer) {
    view.setUint16(at, tag)
    bytes.set(fromHex(label), at + 2)
    at += 18
  }
  return bytes
}

function itemBytes(items: ReadonlyMap<number, Uint8Array>): Uint8Array {
  const parts: Uint8Array[] = []
  for (const [tag, value] of items) {
    const head = new Uint8Array(4)
    viewOf(head).setUint16(0, tag)
    viewOf(head).setUint16(2, value.length)
    parts.push(head, value)
  }
  return joinBytes(parts)
}
