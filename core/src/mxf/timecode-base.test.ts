import { expect, test } from '@jest/globals'
import { joinBytes, viewOf } from '../bytes/index.ts'
import { MxfError, writeKlv } from './klv.ts'
import { timecodeBase } from './timecode-base.ts'

const component = '060e2b34025301010d01010101011400'
/** A set of a Timecode Component with its base, and its start before it. */
function timecode(base: number): Uint8Array {
  const items = new Uint8Array(18)
  viewOf(items).setUint16(0, 0x1501)
  viewOf(items).setUint16(2, 8)
  viewOf(items).setUint16(12, 0x1502)
  viewOf(items).setUint16(14, 2)
  viewOf(items).setUint16(16, base)
  return writeKlv(component, items)
}
/** A partition pack, and header metadata of some sets. */
function file(...sets: Uint8Array[]): Uint8Array {
  const header = joinBytes(sets)
  const pack = new Uint8Array(104)
  viewOf(pack).setBigUint64(32, BigInt(header.length))
  return joinBytes([writeKlv('060e2b34020501010d01020101020400', pack), header])
}

test('is what all timecode of a file counts; sets of a maker’s own are passed over', () => {
  const own = writeKlv('060e2b34025301010e06010101010000', new Uint8Array(7))
  expect(timecodeBase(file(own, timecode(25), timecode(25)))).toBe(25)
  expect(timecodeBase(file(timecode(50)))).toBe(50)
})

test('is not known where nothing says it, or one says another than the next', () => {
  expect(timecodeBase(file(writeKlv(component, new Uint8Array(0))))).toBeNull()
  expect(timecodeBase(file(timecode(0)))).toBeNull()
  expect(timecodeBase(file(timecode(25), timecode(50)))).toBeNull()
})

test('of no MXF file, or of a part of its header, is refused', () => {
  expect(() => timecodeBase(new Uint8Array(200))).toThrow(MxfError)
  expect(() => timecodeBase(file(timecode(25)).subarray(0, -1))).toThrow(MxfError)
})
