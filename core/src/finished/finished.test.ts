import { describe, expect, test } from '@jest/globals'
import { type Cut, type CutEvent, edl, normalSpeed } from '../cut/index.ts'
import type { GreyPicture, Stretch } from '../signature/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { draw, encode, type Scene } from '../testing/film.ts'
import { rate } from '../time/index.ts'
import { clipFrameAt, judgeUse, placesIn, SpanPictures, shownSpans, showsEachFrame, whoseDetail } from './index.ts'

const event = (track: string, from: number, to: number, change: Partial<CutEvent> = {}): CutEvent => ({
  ...{ number: '001', track, kind: 'picture', clipName: null, reel: null, path: null, mediumStartFrame: null },
  ...{ source: { startFrame: 900_000, endFrame: 900_000 + to - from }, sourceRate: rate(25), notes: [], location: '' },
  ...{ record: { startFrame: from, endFrame: to }, transition: null, speed: normalSpeed },
  ...change,
})
const cut = (events: CutEvent[], change: Partial<Cut> = {}): Cut => ({
  ...{ name: 'x', rate: rate(25), dropFrame: false, events },
  tracks: ['V1', 'V2', 'A1'].map((name) => ({ name, kind: name.startsWith('V') ? 'picture' : 'sound' })),
  ...change,
})
const spans = (of: Cut) =>
  shownSpans(of).spans.map(({ position, record }) => [position, record.startFrame, record.endFrame])

describe('what is seen of a cut, and of which event', () => {
  test('one after another, without the frames that show two', () => {
    const dissolve = { kind: 'dissolve' as const, wipeCode: null, durationFrames: 10 }
    expect(spans(cut([event('V1', 0, 50), event('V1', 50, 100, { transition: dissolve, fadeOut: dissolve })]))).toEqual(
      [
        [0, 0, 50],
        [1, 60, 100],
      ],
    )
  })

  test('what lies on a higher track hides what is below, and what is switched off hides nothing', () => {
    const low = event('V1', 0, 100)
    expect(spans(cut([low, event('V2', 30, 60)]))).toEqual([
      [0, 0, 30],
      [1, 30, 60],
      [0, 60, 100],
    ])
    expect(spans(cut([low, event('V2', 30, 60, { isDisabled: true })]))).toEqual([[0, 0, 100]])
  })

  test('of two on one track, of a key, and of what the list makes of itself nobody says what is seen', () => {
    expect(spans(cut([event('V1', 0, 60), event('V1', 50, 100)]))).toEqual([
      [0, 0, 50],
      [1, 60, 100],
    ])
    const title = { track: 'V2', name: 'Title', record: { startFrame: 20, endFrame: 40 } }
    expect(spans(cut([event('V1', 0, 60)], { generators: [title] }))).toEqual([
      [0, 0, 20],
      [0, 40, 60],
    ])
    const key = event('V2', 0, 60, { key: { part: 'foreground', durationFrames: 0 } })
    const covered = shownSpans(cut([event('V1', 0, 60), key]))
    expect([covered.spans, [...covered.hidden.keys()]]).toEqual([[], [0, 1]])
  })

  test('sound is nobody’s picture', () => {
    expect(spans(cut([event('A1', 0, 50, { kind: 'sound' })]))).toEqual([])
  })
})

describe('which frame of its clip an event shows', () => {
  const facts = pictureFacts({ start: '10:00:00:00' })
  const at = (change: Partial<CutEvent>, recordFrame: number, of = facts) =>
    clipFrameAt({ event: event('V1', 1000, 1050, change), recordRate: rate(25), shift: 0, facts: of }, recordFrame)

  test.each([
    ['as it was shot', {}, [0, 1, 49]],
    ['from later on', { source: { startFrame: 900_020, endFrame: 900_070 } }, [20, 21, 69]],
    ['at double speed', { speed: { numerator: 2, denominator: 1 } }, [0, 2, 98]],
    ['at half speed', { speed: { numerator: 1, denominator: 2 } }, [0, 0, 24]],
    [
      'backwards',
      { source: { startFrame: 900_060, endFrame: 900_110 }, speed: { numerator: -1, denominator: 1 } },
      [60, 59, 11],
    ],
    ['held', { speed: { numerator: 0, denominator: 1 } }, [0, 0, 0]],
  ])('%s', (_, change, frames) => {
    expect([1000, 1001, 1049].map((recordFrame) => at(change, recordFrame))).toEqual(frames)
  })

  test('of a clip of another rate: by its label, and by real time from there', () => {
    const fast = pictureFacts({ rate: rate(50), start: '10:00:00:00' })
    expect([1000, 1010].map((frame) => at({}, frame, fast))).toEqual([0, 20])
    const own = { event: event('V1', 0, 50), recordRate: rate(25), shift: 0, facts: fast }
    expect([showsEachFrame(own), showsEachFrame({ ...own, facts })]).toEqual([false, true])
  })
})

const film = (scene: Scene, length = 120) => Array.from({ length }, (_, frame) => draw(scene, frame))
const original = film({ set: 5, pan: 0.4, grain: 1.5 })
const other = film({ set: 9, pan: 0.2, grain: 1.5 })
const graded = (pictures: readonly GreyPicture[]) => pictures.map((picture) => encode(picture, false))
const whole: Stretch[] = [{ from: 0, pictures: original }]
/** Frames 20 to 100 of the clip, at record frame 1000. */
const span = { startFrame: 1000, endFrame: 1080 }

function judge(finished: readonly GreyPicture[], source: readonly Stretch[] = whole) {
  const pictures = new SpanPictures(span)
  for (const [index, picture] of finished.entries()) pictures.add(span.startFrame + index, picture)
  return judgeUse(pictures.stretches(), source, (frame) => frame - 1000 + 20, true)
}

describe('what a finished picture shows beside its original', () => {
  const used = graded(original.slice(20, 100))

  test('the frames that the cut says, graded, and such that run early or late', () => {
    expect(judge(used)).toEqual({ kind: 'as cut', isToTheFrame: true })
    for (const by of [1, -2, 3])
      expect(judge(graded(original.slice(20 + by, 100 + by)))).toEqual({ kind: 'shifted', frames: by })
  })

  test('another picture, wherever in it: throughout, or in a few frames between the places that are looked at', () => {
    expect(judge(graded(other.slice(20, 100)))).toEqual({ kind: 'another picture', recordFrame: 1000 })
    const slate = used.map((picture, index) => (index >= 17 && index < 19 ? (other[50] as GreyPicture) : picture))
    expect(judge(slate)).toEqual({ kind: 'another picture', recordFrame: 1017 })
  })

  test('what is somewhere in it only somewhat like its picture is not said to be that', () => {
    const likeness = (share: number) =>
      used.map((picture, index) =>
        index >= 16 ? picture : picture.map((level, at) => level * (1 - share) + share * (other[50]?.[at] as number)),
      )
    const verdicts = [0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1].map((share) => judge(likeness(share)).kind)
    // From its own picture to another one: never from “as cut” to “another picture” in one step.
    expect([verdicts[0], verdicts.at(-1)]).toEqual(['as cut', 'another picture'])
    expect([...new Set(verdicts)]).toEqual(['as cut', 'cannot tell', 'another picture'])
  })

  test('black or one colour, also in a single frame', () => {
    const black = new Uint8Array(original[0]?.length ?? 0).fill(16)
    expect(judge(used.map(() => black))).toEqual({ kind: 'empty', recordFrame: 1000 })
    expect(judge(used.map((picture, index) => (index === 33 ? black : picture)))).toEqual({
      ...{ kind: 'empty', recordFrame: 1033 },
    })
  })

  test('bars that are laid over a picture do not make it another one', () => {
    const barred = used.map((picture) => picture.map((level, at) => (at < 128 * 9 || at >= 128 * 63 ? 16 : level)))
    expect(judge(barred)).toEqual({ kind: 'as cut', isToTheFrame: true })
  })

  test('of a dark original, or of one that is not there, nothing is said', () => {
    const dark = original.map((picture) => picture.map((level) => 16 + level / 100))
    expect(judge(used, [{ from: 0, pictures: dark }])).toEqual({ kind: 'cannot tell' })
    expect(judge(used, [])).toEqual({ kind: 'cannot tell' })
  })
})

describe('where a stretch is looked at', () => {
  test('from its first frame to its last; a short one whole', () => {
    expect(placesIn({ startFrame: 100, endFrame: 103 })).toEqual([{ startFrame: 100, endFrame: 103 }])
    expect(placesIn({ startFrame: 0, endFrame: 20 }).map(({ startFrame, endFrame }) => [startFrame, endFrame])).toEqual(
      [
        ...[
          [0, 4],
          [4, 8],
          [8, 12],
          [12, 16],
          [16, 20],
        ],
      ],
    )
    const long = placesIn({ startFrame: 0, endFrame: 1000 })
    expect([long.length, long[0]?.startFrame, long.at(-1)?.endFrame]).toEqual([5, 0, 1000])
  })

  test('what jumps all the time is not looked at throughout, and says so', () => {
    const pictures = new SpanPictures({ startFrame: 0, endFrame: 60 })
    for (let frame = 0; frame < 60; frame++) pictures.add(frame, (frame % 2 ? original : other)[0] as GreyPicture)
    expect(pictures.jumpsTooOften).toBe(true)
  })
})

test('an EDL that comes out of black is seen from behind its fade', () => {
  const read = edl.read(
    'TITLE: x\n001  BL V C 00:00:00:00 00:00:00:00 01:00:00:00 01:00:00:00\n' +
      '001  A001 V D 012 10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00\n',
    { rate: rate(25), fileName: 'x.edl' },
  )
  expect(spans(read)).toEqual([[0, 90_012, 90_050]])
})

describe('whose fine detail a finished picture holds', () => {
  const [width, height] = [128, 72]
  const raster = (levels: Uint8Array) => ({ width, height, levels })
  /** Halved by the mean of four, and doubled again between them. */
  function halved(levels: Uint8Array): Uint8Array {
    const half = (x: number, y: number): number => {
      const [left, top] = [Math.min(width - 2, Math.max(0, 2 * x)), Math.min(height - 2, Math.max(0, 2 * y))]
      const at = top * width + left
      return [0, 1, width, width + 1].reduce((sum, step) => sum + (levels[at + step] as number), 0) / 4
    }
    return levels.map((_, index) => {
      const [x, y] = [((index % width) - 0.5) / 2, (Math.floor(index / width) - 0.5) / 2]
      const [left, top] = [Math.floor(x), Math.floor(y)]
      const [across, down] = [x - left, y - top]
      const above = half(left, top) * (1 - across) + half(left + 1, top) * across
      const below = half(left, top + 1) * (1 - across) + half(left + 1, top + 1) * across
      return above * (1 - down) + below * down
    })
  }
  const grainy = draw({ set: 5, pan: 0.4, grain: 6 }, 10)
  const proxy = halved(grainy)
  const tell = (finished: Uint8Array, of = grainy) => whoseDetail(raster(finished), raster(of), raster(halved(of)))

  test('graded, that of the original, or no more than its proxy has', () => {
    expect([tell(encode(grainy, false)), tell(encode(proxy, false))]).toEqual(['the original', 'the proxy'])
    // A codec takes some of the finest away, and adds steps of its own.
    expect(tell(grainy.map((level) => Math.round(level / 3) * 3))).toBe('the original')
    expect(tell(proxy.map((level) => Math.round(level / 3) * 3))).toBe('the proxy')
  })

  test('where the original has no more of it than its proxy, or nothing is to be seen, it is not told', () => {
    const soft = draw({ set: 5, pan: 0, grain: 0 }, 0)
    expect(tell(soft, soft)).toBeNull()
    expect(tell(new Uint8Array(width * height).fill(90))).toBeNull()
  })
})
