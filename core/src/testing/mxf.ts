import { fromHex, joinBytes, viewOf } from '../bytes/index.ts'
import { type MetadataSet, writeHeader } from '../mxf/header-metadata.ts'
import { writeKlv } from '../mxf/klv.ts'
import { referenceArray, tags, unsigned, utf16 } from '../mxf/package.ts'

const setKey = (kind: string): string => `060e2b34025301010d0101010101${kind}00`
const idOf = (number: number): string => `aa${number.toString(16).padStart(30, '0')}`

/** A UMID of a made-up file (SMPTE ST 330): its mark, and which of its packages. */
export const umid = (file: number, which: number): string =>
  `060a2b340101010501010d0013${file.toString(16).padStart(36, '0')}${which.toString(16).padStart(2, '0')}`

/** What a file of one essence begins with, as an encoder writes it: a partition pack and the header metadata. */
export function atomStart({
  file,
  name = 'A001C001',
  reel = 'A001',
  room = 4000,
}: {
  readonly file: number
  readonly name?: string
  readonly reel?: string | null
  readonly room?: number
}): Uint8Array {
  let next = 1
  const sets: MetadataSet[] = []
  const add = (kind: string, items: readonly (readonly [number, Uint8Array])[]): string => {
    const id = idOf(next++)
    sets.push({ key: setKey(kind), items: new Map([[tags.instance, fromHex(id)], ...items]) })
    return id
  }
  const track = (number: number, of: string | null): string => {
    const leaf =
      of === null
        ? add('14', [])
        : add('11', [
            [tags.sourcePackage, fromHex(of)],
            [tags.sourceTrack, unsigned(2)],
          ])
    const sequence = add('0f', [[tags.components, referenceArray([leaf])]])
    return add('3b', [
      [tags.trackId, unsigned(number)],
      [tags.segment, fromHex(sequence)],
    ])
  }
  const hold = (kind: string, which: number, from: string, title: string | null, more = {}): void => {
    const tracks = [track(1, null), track(2, from)]
    add(kind, [
      [tags.packageId, fromHex(umid(file, which))],
      ...(title === null ? [] : [[tags.packageName, utf16(title)] as const]),
      [tags.tracks, referenceArray(tracks)],
      ...Object.entries(more).map(([tag, value]) => [Number(tag), value as Uint8Array] as const),
    ])
  }
  const reserve = add('3f', [[tags.commentName, utf16('reserve')]])
  const scene = add('3f', [[tags.commentName, utf16('scene')]])
  hold('36', 0, umid(file, 1), name, { [tags.comments]: referenceArray([reserve, scene]) })
  hold('37', 1, reel === null ? '0'.repeat(64) : umid(file, 2), null)
  if (reel !== null) hold('37', 2, '0'.repeat(64), reel)
  const pack = new Uint8Array(104)
  const start = 20 + pack.length
  const size = 3000 + room
  viewOf(pack).setBigUint64(32, BigInt(size))
  const header = writeHeader({ start, end: start + size, primer: new Map([[tags.instance, 'ab'.repeat(16)]]), sets })
  return joinBytes([writeKlv('060e2b34020501010d01020101020400', pack), header])
}
