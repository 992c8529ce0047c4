import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { fromHex, joinBytes, viewOf } from '../bytes/index.ts'
import { umid } from '../testing/mxf.ts'
import { writeKlv } from './klv.ts'
import { readMxfHeader } from './mxf-header.ts'
import { referenceArray, utf16 } from './package.ts'
import { readPartition } from './partition.ts'

/** What a made-up file has: pictures of 25 a second, sound of 48,000 samples, timecode. */
interface TestMxf {
  readonly file?: number
  readonly frames?: number
  readonly start?: number
  readonly name?: string
  readonly fileName?: string
  readonly reel?: string
  readonly raster?: number
  readonly base?: number
  readonly otherStart?: number
  readonly editRate?: readonly [number, number]
  readonly sampleRates?: readonly number[]
  readonly materials?: number
  readonly maker?: string
  readonly status?: string
  readonly more?: Uint8Array
  /** Of its source package, in frames. */
  readonly otherFrames?: number
}

const u32 = (...values: number[]): Uint8Array => {
  const bytes = new Uint8Array(4 * values.length)
  for (const [index, value] of values.entries()) viewOf(bytes).setUint32(4 * index, value)
  return bytes
}
const u64 = (value: number): Uint8Array => u32(Math.floor(value / 2 ** 32), value % 2 ** 32)
const idOf = (file: number, number: number): string =>
  `${file.toString(16).padStart(8, '0')}${'b'.repeat(16)}${number.toString(16).padStart(8, '0')}`
const definition = (kind: 'picture' | 'sound'): Uint8Array =>
  fromHex(`060e2b34040101010103020${kind === 'picture' ? '201' : '202'}000000`)

/** The first bytes of it: a partition pack and header metadata, up to the end of that. */
function mxf(change: TestMxf = {}): Uint8Array {
  const {
    file = 7,
    frames = 100,
    start = 900_000,
    name = 'A001C001',
    fileName = 'A001C001_file',
    reel = 'A001',
  } = change
  const {
    raster = 1920,
    base = 25,
    editRate = [25, 1],
    sampleRates = [48_000],
    materials = 1,
    maker = 'Harbour',
  } = change
  const sets: Uint8Array[] = []
  const add = (kind: string, items: readonly (readonly [number, Uint8Array])[]): string => {
    const id = idOf(file, sets.length + 1)
    const all = [[0x3c0a, fromHex(id)] as const, ...items].map(([tag, value]) => {
      const head = new Uint8Array(4)
      viewOf(head).setUint16(0, tag)
      viewOf(head).setUint16(2, value.length)
      return joinBytes([head, value])
    })
    sets.push(writeKlv(`060e2b34025301010d0101010101${kind}00`, joinBytes(all)))
    return id
  }
  const track = (kind: 'picture' | 'sound', from: string, frames: number): string => {
    const clip = add('11', [
      [0x0202, u64(frames)],
      [0x1101, fromHex(from)],
    ])
    const sequence = add('0f', [
      [0x0201, definition(kind)],
      [0x0202, u64(frames)],
      [0x1001, referenceArray([clip])],
    ])
    return add('3b', [
      [0x4b01, u32(...editRate)],
      [0x4803, fromHex(sequence)],
    ])
  }
  const timecode = (from: number): string => {
    const component = add('14', [
      [0x0202, u64(frames)],
      [0x1501, u64(from)],
      [0x1502, Uint8Array.of(0, base)],
      [0x1503, Uint8Array.of(0)],
    ])
    return add('3b', [[0x4803, fromHex(component)]])
  }
  const [ofMaterial, ofFile, ofReel] = [umid(file, 1), umid(file, 2), umid(file, 3)]
  add('30', [[0x3c01, utf16(maker)]])
  for (let count = 0; count < materials; count++)
    add('36', [
      [0x4401, fromHex(ofMaterial)],
      [0x4402, utf16(name)],
      [0x4405, u64(20_261_104 + file)],
      [0x4403, referenceArray([timecode(start), track('picture', ofFile, frames), track('sound', ofFile, frames)])],
    ])
  add('37', [
    [0x4401, fromHex(ofFile)],
    [0x4402, utf16(fileName)],
    [
      0x4403,
      referenceArray([timecode(change.otherStart ?? start), track('picture', ofReel, change.otherFrames ?? frames)]),
    ],
  ])
  add('37', [
    [0x4401, fromHex(ofReel)],
    [0x4402, utf16(reel)],
  ])
  add('23', [[0x2701, fromHex(ofFile)]])
  add('28', [
    [0x3002, u64(frames)],
    [0x3203, u32(raster)],
  ])
  for (const rate of sampleRates) add('48', [[0x3d03, u32(rate, 1)]])
  const primer = writeKlv(
    '060e2b34020501010d01020101050100',
    joinBytes([u32(1, 18), fromHex('3c0a'), new Uint8Array(16)]),
  )
  const header = joinBytes([primer, ...sets, change.more ?? new Uint8Array()])
  const pack = new Uint8Array(104)
  viewOf(pack).setBigUint64(8, BigInt(file))
  viewOf(pack).setBigUint64(32, BigInt(header.length))
  return joinBytes([writeKlv(`060e2b34020501010d010201010204${change.status ?? '00'}`, pack), header])
}

const shapeOf = (change: TestMxf): string | undefined => readMxfHeader(mxf(change))?.shape

test('a header has its numbers', () => {
  const bytes = mxf()
  expect(readMxfHeader(bytes)).toMatchObject({
    numbers: {
      ...{ frames: 100, samples: [192_000], timecode: { frame: 900_000, labelsPerSecond: 25 } },
      materialPackage: { id: `0x${umid(7, 1).toUpperCase()}`, name: 'A001C001' },
    },
    end: bytes.length,
  })
})

test('samples of a track that counts frames of 29.97 a second are told to half a sample', () => {
  // 100 frames of 1,001 thirty-thousandths of a second: 160,160 samples; 57 of them 91,291.2, and 74 118,518.4.
  const samplesOf = (frames: number) => readMxfHeader(mxf({ frames, editRate: [30_000, 1001] }))?.numbers.samples
  expect([100, 57, 74].map(samplesOf)).toEqual([[160_160], [91_291], [118_518]])
})

describe('of another file', () => {
  test.each<[string, TestMxf]>([
    ['length', { frames: 99 }],
    ['timecode', { start: 5 }],
    ['name', { name: 'A001C002', fileName: 'A001C002_file' }],
    ['ids and times', { file: 8 }],
    ['maker’s version', { maker: 'Harbour 2' }],
  ])('another %s is the same shape', (_, change) => expect(shapeOf(change)).toBe(shapeOf({})))

  test.each<[string, TestMxf]>([
    ['reel', { reel: 'A002' }],
    ['raster', { raster: 1280 }],
    ['base of timecode', { base: 50 }],
    ['edit rate', { editRate: [50, 1] }],
    ['sample rate', { sampleRates: [96_000] }],
    ['kind of set', { more: writeKlv('060e2b34025301010e06010101010000', new Uint8Array(7)) }],
  ])('another %s is another shape', (_, change) => {
    expect(shapeOf(change)).toBeDefined()
    expect(shapeOf(change)).not.toBe(shapeOf({}))
  })

  test('what stands in sets of a maker’s own says nothing', () => {
    const own = (byte: number) => writeKlv('060e2b34025301010e06010101010000', new Uint8Array(7).fill(byte))
    expect(shapeOf({ more: own(1) })).toBe(shapeOf({ more: own(2) }))
  })
})

describe('left to the probe is one', () => {
  test.each<[string, TestMxf]>([
    ['whose timecode begins at two labels', { otherStart: 5 }],
    ['of two material packages', { materials: 2 }],
    ['of two sample rates', { sampleRates: [48_000, 96_000] }],
    ['of no edit rate', { editRate: [0, 1] }],
    ['of no pictures', { frames: 0 }],
    ['of two lengths', { otherFrames: 99 }],
    ['whose timecode begins before midnight', { start: -1 }],
    ['with a name in other letters', { name: 'Wächter' }],
  ])('%s', (_, change) => expect(readMxfHeader(mxf(change))).toBeNull())

  test('whose local tags are not as many as it counts', () => {
    const bytes = mxf()
    const at = Buffer.from(bytes).indexOf(Buffer.from('060e2b34020501010d01020101050100', 'hex')) + 20
    expect([...bytes.subarray(at, at + 4)]).toEqual([0, 0, 0, 1])
    bytes[at + 3] = 2
    expect(readMxfHeader(bytes)).toBeNull()
  })

  test('that is still open, cut off, or no MXF', () => {
    const open = mxf()
    open[14] = 1
    expect(readMxfHeader(open)).toBeNull()
    expect(readMxfHeader(mxf().subarray(0, -1))).toBeNull()
    expect(readMxfHeader(new Uint8Array(200))).toBeNull()
  })
})

test('harmed anywhere, it is read or left alone, and nothing is thrown', () => {
  const whole = mxf()
  const harm = fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 4 })
  fc.assert(
    fc.property(harm, fc.nat(whole.length), (changes, cut) => {
      const bytes = Uint8Array.from(whole)
      for (const [at, value] of changes) bytes[at] = value
      for (const given of [bytes, bytes.subarray(0, cut)]) expect(() => readMxfHeader(given)).not.toThrow()
    }),
    { numRuns: 1000, seed: 36 },
  )
})

test('a partition says where it and others lie', () => {
  const pack = new Uint8Array(104)
  for (const [index, value] of [4096, 0, 9000, 2048, 512].entries())
    viewOf(pack).setBigUint64(8 + 8 * index, BigInt(value))
  const bytes = writeKlv('060e2b34020501010d01020101030400', pack)
  expect(readPartition(bytes)).toEqual({ at: 4096, before: 0, footer: 9000, headerBytes: 2048, indexBytes: 512 })
  expect(readPartition(bytes.subarray(0, 60))).toBeNull()
  expect(readPartition(writeKlv('060e2b34020501010d01020101050100', pack))).toBeNull()
})
