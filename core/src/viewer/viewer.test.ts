import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { alignFrames, frameBeside, sharedFrames } from './alignment.ts'
import { playsInBrowser, screenRaster } from './plays.ts'
import { chooseShown, type ShownCandidate } from './shown.ts'

describe('what a choice shows', () => {
  const original: ShownCandidate = { kind: 'original', presence: 'here' }
  const proxy: ShownCandidate = { kind: 'proxy', presence: 'here' }
  const away = (candidate: ShownCandidate): ShownCandidate => ({ ...candidate, presence: 'away' })
  const review: ShownCandidate = { kind: 'review', presence: 'here' }

  test('proxies first: the proxy where there is one, else the original, and it says why', () => {
    expect(chooseShown('proxies first', [original, proxy])).toEqual({ shown: proxy, reason: 'it has a proxy' })
    expect(chooseShown('proxies first', [original])).toEqual({
      shown: original,
      reason: 'it has no proxy, so its original is shown',
    })
    expect(chooseShown('proxies first', [original, away(proxy)])).toEqual({
      shown: original,
      reason: 'its proxy is not here, so its original is shown',
    })
    expect(chooseShown('proxies first', [away(original), away(proxy)])).toEqual({
      shown: null,
      reason: 'its proxy is not here, and its original is away',
    })
  })

  test('alone means alone: an absent one is never replaced by the other', () => {
    expect(chooseShown('proxies alone', [original])).toEqual({ shown: null, reason: 'it has no proxy' })
    expect(chooseShown('proxies alone', [original, away(proxy)])).toEqual({
      shown: null,
      reason: 'its proxy is on a volume that is away',
    })
    expect(chooseShown('originals', [{ ...original, presence: 'gone' }, proxy])).toEqual({
      shown: null,
      reason: 'the file of its original is gone',
    })
  })

  test('the preferred of several proxies is shown, and a copy for review is no proxy', () => {
    const second = { ...proxy, name: 'second' }
    expect(chooseShown('proxies alone', [original, second, proxy]).shown).toBe(second)
    expect(chooseShown('proxies first', [original, review]).shown).toBe(original)
  })
})

describe('frames beside each other', () => {
  test('by timecode where both have one: an item that begins ten frames late has its first beside the eleventh', () => {
    const alignment = alignFrames(pictureFacts(), pictureFacts({ start: '10:00:00:10', frames: 90 }))
    expect(alignment).toMatchObject({ basis: 'timecode', shiftFrames: -10 })
    expect(alignment && frameBeside(alignment, 10)).toBe(0)
    expect(alignment && sharedFrames(alignment, 100, 90)).toEqual({ startFrame: 10, endFrame: 100 })
  })

  test('by their first frames where they share no timecode, or one has none', () => {
    for (const start of ['12:00:00:00', null])
      expect(alignFrames(pictureFacts(), pictureFacts({ start }))).toMatchObject({
        basis: 'first frame',
        shiftFrames: 0,
      })
  })

  test('by time at another rate: one second on is frame 25 here and frame 50 there', () => {
    const alignment = alignFrames(pictureFacts(), pictureFacts({ rate: rate(50), frames: 200 }))
    expect(alignment?.basis).toBe('time')
    expect(alignment && frameBeside(alignment, 25)).toBe(50)
    // 23.976: after 1001 frames at 24 exactly 1000 have passed.
    const slow = alignFrames(pictureFacts({ rate: rate(24) }), pictureFacts({ rate: rate(24000, 1001) }))
    expect(slow && [frameBeside(slow, 1000), frameBeside(slow, 1001)]).toEqual([999, 1000])
  })

  test('sound stands beside no picture', () => {
    expect(alignFrames(pictureFacts(), soundFacts(48_000, 0))).toBeNull()
  })

  test('what is shared is just where the item has frames, at any rates', () => {
    const rates = [rate(24000, 1001), rate(24), rate(25), rate(30000, 1001), rate(50)]
    fc.assert(
      fc.property(
        fc.constantFrom(...rates),
        fc.constantFrom(...rates),
        fc.integer({ min: 1, max: 300 }),
        fc.integer({ min: 1, max: 300 }),
        fc.integer({ min: -400, max: 400 }),
        (original, item, originalFrames, itemFrames, shift) => {
          const shiftFrames = original === item ? shift : 0
          const alignment = { basis: 'timecode' as const, shiftFrames, original, item }
          const { startFrame, endFrame } = sharedFrames(alignment, originalFrames, itemFrames)
          for (let frame = 0; frame < originalFrames; frame++) {
            const beside = frameBeside(alignment, frame)
            expect(beside >= 0 && beside < itemFrames).toBe(frame >= startFrame && frame < endFrame)
          }
        },
      ),
    )
  })
})

describe('what a browser plays as it is', () => {
  test('H.264 of 8 bits with at most one stereo stream', () => {
    expect(playsInBrowser(pictureFacts({ channels: 1 }))).toBe(true)
    expect(playsInBrowser(pictureFacts({ channels: 0 }))).toBe(true)
    // A browser plays the first stream alone, and says nothing of the others.
    expect(playsInBrowser(pictureFacts({ channels: 2 }))).toBe(false)
  })

  test.each([
    { codec: 'prores' },
    { pixelFormat: 'yuv422p10le' },
    { container: 'mxf' },
    { rotation: 90 },
    { pixelAspect: { numerator: 2, denominator: 1 } },
    { variableRate: true },
  ])('everything else is rendered: %j', (change) => {
    expect(playsInBrowser(pictureFacts({ channels: 1, ...change }))).toBe(false)
  })

  test('what is rendered is even, of the same shape, and no larger than the picture', () => {
    expect(screenRaster({ width: 3840, height: 2160 })).toEqual({ width: 960, height: 540 })
    expect(screenRaster({ width: 853, height: 481 })).toEqual({ width: 852, height: 480 })
    expect(screenRaster({ width: 320, height: 180 })).toEqual({ width: 320, height: 180 })
  })
})
