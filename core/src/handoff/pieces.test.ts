import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { canBeCutOut, pieceName, piecesOf } from './index.ts'

const facts = pictureFacts({ frames: 1000, codec: 'prores', container: 'mov' })
const use = (startFrame: number, endFrame: number) => ({ range: { startFrame, endFrame }, rate: rate(25) })

describe('stretches of a file', () => {
  test('have handles, end with the file, and are one where they touch', () => {
    expect(piecesOf(facts, [use(900_100, 900_150)], 25)).toEqual([{ startFrame: 75, endFrame: 175 }])
    expect(piecesOf(facts, [use(900_010, 900_050), use(900_900, 900_990)], 25)).toEqual([
      { startFrame: 0, endFrame: 75 },
      { startFrame: 875, endFrame: 1000 },
    ])
    expect(piecesOf(facts, [use(900_100, 900_150), use(900_200, 900_250)], 25)).toEqual([
      { startFrame: 75, endFrame: 275 },
    ])
    expect(piecesOf(facts, [use(900_100, 900_150), use(900_201, 900_250)], 25)).toHaveLength(2)
  })

  test('are not taken where nearly all is used, or where uses count otherwise or lie elsewhere', () => {
    expect(piecesOf(facts, [use(900_000, 900_880)], 25)).toBeNull()
    expect(piecesOf(facts, [{ ...use(900_100, 900_150), rate: rate(24) }], 0)).toBeNull()
    expect(piecesOf(facts, [use(910_000, 910_050)], 25)).toBeNull()
  })

  test('can be copied where frames stand alone and sound is not compressed', () => {
    expect(canBeCutOut(facts)).toBe(true)
    expect(canBeCutOut({ ...facts, container: 'mxf' })).toBe(false)
    expect(canBeCutOut(pictureFacts({ codec: 'h264', container: 'mov' }))).toBe(false)
    expect(canBeCutOut({ ...facts, sound: facts.sound.map((each) => ({ ...each, codec: 'aac' })) })).toBe(false)
    expect(canBeCutOut({ ...facts, furtherPictures: 1 })).toBe(false)
    const picture = facts.picture as NonNullable<typeof facts.picture>
    expect(canBeCutOut({ ...facts, picture: { ...picture, heldFrames: 1200 } })).toBe(false)
    expect(canBeCutOut({ ...facts, picture: { ...picture, beginsMicroseconds: 40_000 } })).toBe(false)
  })

  test('are called by the label at which they begin', () => {
    expect(pieceName('A001C001', facts, { startFrame: 75, endFrame: 175 })).toBe('A001C001_10000300.mov')
  })
})
