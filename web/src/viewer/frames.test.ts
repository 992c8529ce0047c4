import type { ClipView, ViewSide } from '@ennick/contract'
import { expect, test } from '@jest/globals'
import { whyNoPicture } from './frames.ts'

const rate = { numerator: 25, denominator: 1 }
const view = { rate, startFrame: 90_000, dropFrame: false } as ClipView
const proxy = {
  ...{ kind: 'proxy', volumeLabel: 'Made by Ennick', presence: 'here', frames: 100, rate },
  ...{ basis: 'timecode', shiftFrames: 0 },
} as ViewSide

test('a frame that is not there is told by how far it lies beyond the file', () => {
  expect(whyNoPicture(view, proxy, 104)).toBe(
    'The proxy has no frame at 01:00:04:04: 100 frames long, this would be 5 frames past its last.',
  )
  expect(whyNoPicture(view, { ...proxy, shiftFrames: -1 }, 0)).toBe(
    'The proxy has no frame at 01:00:00:00: 100 frames long, this would be 1 frame before its first.',
  )
})

test('a frame that the file has, and that cannot be read, is not said to lie beyond it', () => {
  const sentence = whyNoPicture(view, proxy, 10)
  expect(sentence).toMatch(/^The frame of the proxy at 01:00:00:10 cannot be read/)
  expect(sentence).not.toMatch(/before its first|past its last/)
})

test('a file that is not here is told with its volume', () => {
  expect(whyNoPicture(view, { ...proxy, presence: 'away' }, 10)).toMatch(/“Made by Ennick” is away\.$/)
  expect(whyNoPicture(view, { ...proxy, presence: 'gone' }, 10)).toMatch(/is here, and its file is gone\.$/)
})
