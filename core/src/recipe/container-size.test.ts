import { expect, test } from '@jest/globals'
import { containerBytes } from './container-size.ts'

// Whole files that the encoder here wrote, with a reel, a timecode, a name, three comments and the tracks of all.
test.each([
  ['640 × 360, two sounds of 24 bit', { frames: 40, picture: 20_480, sounds: [5760, 5760] }, 829_497 + 2 * 240_697],
  [
    '480 × 270 at 29.97, four sounds',
    { frames: 61, picture: 12_288, sounds: Array(4).fill(293_094 / 61) },
    761_401 + 4 * 304_697,
  ],
  ['a sound and a picture', { frames: 40, picture: 20_480, sounds: [5760] }, 828_985 + 239_673],
  ['eight sounds', { frames: 40, picture: 20_480, sounds: Array(8).fill(5760) }, 833_593 + 8 * 244_793],
  ['silent', { frames: 30, picture: 20_480, sounds: [] }, 623_161],
])('a set of files of one essence is as long as it was measured to be: %s', (_, item, measured) => {
  const essence =
    item.frames * item.picture + item.sounds.reduce((sum: number, bytes: number) => sum + bytes, 0) * item.frames
  expect(Math.round(essence) + containerBytes('mxf-op-atom', item)).toBe(measured)
})

test('in one file for all, picture and sound stand on a grid, and each picture has its system item', () => {
  const item = { frames: 40, picture: 20_480, sounds: [5760, 5760] }
  const essence = 40 * (20_480 + 2 * 5760)
  expect(Math.abs(essence + containerBytes('mxf-op1a', item) - 1_361_453)).toBeLessThan(512)
})
