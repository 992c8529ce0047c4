import { describe, expect, test } from '@jest/globals'
import { readStillTime } from './still-header.ts'

/** A DPX header with a film and a television rate and a timecode as they stand in the file. */
function dpx(
  fields: { film?: number; television?: number; timecode?: number },
  isLittle = false,
  picturesAt = 2048,
): Uint8Array {
  const view = new DataView(new ArrayBuffer(4096))
  view.setUint32(0, 0x53445058, isLittle)
  view.setUint32(4, picturesAt, isLittle)
  for (const at of [1724, 1920, 1940]) view.setUint32(at, 0xffffffff)
  if (fields.film !== undefined) view.setFloat32(1724, fields.film, isLittle)
  if (fields.television !== undefined) view.setFloat32(1940, fields.television, isLittle)
  if (fields.timecode !== undefined) view.setUint32(1920, fields.timecode, isLittle)
  return new Uint8Array(view.buffer)
}

/** An OpenEXR header of attributes. */
function exr(...attributes: [name: string, type: string, words: number[]][]): Uint8Array {
  const bytes = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0]
  const word = (value: number): number[] => [0, 8, 16, 24].map((bits) => (value >>> bits) & 0xff)
  for (const [name, type, words] of attributes)
    bytes.push(...Buffer.from(`${name}\0${type}\0`), ...word(words.length * 4), ...words.flatMap(word))
  return Uint8Array.from([...bytes, 0])
}

describe('DPX', () => {
  test.each([
    [{ film: 24 }, { numerator: 24, denominator: 1 }],
    [{ television: 23.976 }, { numerator: 24_000, denominator: 1001 }],
    [{ television: 29.97 }, { numerator: 30_000, denominator: 1001 }],
    [
      { film: 24, television: 25 },
      { numerator: 25, denominator: 1 },
    ],
    [{ film: 18 }, { numerator: 18, denominator: 1 }],
    [{ film: 0 }, null],
    [{ film: Number.POSITIVE_INFINITY }, null],
    [{ film: 1e9 }, null],
    [{}, null],
  ])('of %j the rate is %j, in either order of bytes', (fields, rate) => {
    expect(readStillTime(dpx(fields)).rate).toEqual(rate)
    expect(readStillTime(dpx(fields, true)).rate).toEqual(rate)
  })

  test.each([
    [0x10000000, '10:00:00:00'],
    [0x23595924, '23:59:59:24'],
    [0x01000042, '01:00:00;02'],
    [0x24000000, null],
    [0x0a000000, null],
    [0xffffffff, null],
  ])('the timecode %s is %s', (timecode, label) => {
    expect(readStillTime(dpx({ timecode })).timecode).toBe(label)
  })
})

test('where the pictures of a DPX begin at once, none of them is read as a rate or a timecode', () => {
  const pictures = dpx({ film: 24, television: 25, timecode: 0x10000000 }, false, 1664)
  expect(readStillTime(pictures)).toEqual({ rate: null, timecode: null })
})

describe('OpenEXR', () => {
  test('says rate and timecode among other attributes', () => {
    const head = exr(
      ['compression', 'box2i', [0, 0, 9, 9]],
      ['framesPerSecond', 'rational', [24_000, 1001]],
      ['timeCode', 'timecode', [0x10203004, 0]],
    )
    expect(readStillTime(head)).toEqual({
      rate: { numerator: 24_000, denominator: 1001 },
      timecode: '10:20:30:04',
    })
  })

  test('a size beyond the head, or none at all, says nothing', () => {
    const head = exr(['framesPerSecond', 'rational', [25, 1]])
    for (let length = 0; length < head.length - 1; length++)
      expect(readStillTime(head.subarray(0, length))).toEqual({ rate: null, timecode: null })
  })
})

test('what is neither says nothing', () => {
  expect(readStillTime(new Uint8Array(4096))).toEqual({ rate: null, timecode: null })
  expect(readStillTime(Buffer.from('not a still'))).toEqual({ rate: null, timecode: null })
})
