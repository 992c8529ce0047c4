import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { draw, encode, type Scene } from '../testing/film.ts'
import {
  alikeBelow,
  cellsInside,
  comparedFrames,
  comparePictureStretches,
  distanceOfSignatures,
  EveryFrame,
  type GreyPicture,
  lookHeight,
  lookWidth,
  mostShift,
  normalStretches,
  packSignature,
  pictureEvidence,
  ShapeIndex,
  type Stretch,
  shapesOf,
  signedFrames,
  signPictures,
  stretchStarts,
  unpackSignature,
  windowInside,
} from './index.ts'

const frames = 120
const film = (scene: Scene, length = frames) => Array.from({ length }, (_, frame) => draw(scene, frame))
const taken = (pictures: readonly GreyPicture[], starts: readonly number[], count: number): Stretch[] =>
  starts.map((start) => {
    const from = Math.max(0, start)
    return { from, pictures: pictures.slice(from, start + count) }
  })
const signed = (pictures: readonly GreyPicture[]) =>
  signPictures(taken(pictures, stretchStarts(pictures.length, signedFrames), signedFrames))

function compare(original: readonly GreyPicture[], made: readonly GreyPicture[]) {
  const starts = stretchStarts(made.length, comparedFrames)
  const wide = starts.map((start) => start - mostShift)
  return comparePictureStretches(
    normalStretches(taken(original, wide, comparedFrames + 2 * mostShift), 64, 36),
    normalStretches(taken(made, starts, comparedFrames), 64, 36),
  )
}

/** An item whose pictures come so many frames late; its first is shown until then. */
const late = (pictures: readonly GreyPicture[], by: number): GreyPicture[] =>
  pictures.map((_, frame) => pictures[Math.max(0, Math.min(pictures.length - 1, frame - by))] as GreyPicture)

const panning = film({ set: 5, pan: 0.4, grain: 1.5 })
const locked = film({ set: 6, pan: 0, grain: 4 })
const still = film({ set: 7, pan: 0, grain: 0 })

describe('an item beside its original', () => {
  test.each([
    ['a slow pan', panning],
    ['a locked camera with grain', locked],
  ])('%s: pictures at their frames, and such that run early or late, to the frame', (_, original) => {
    for (const by of [0, 1, 2, -1, 3]) {
      const compared = compare(
        original,
        late(original, by).map((picture) => encode(picture, false)),
      )
      expect(compared).toMatchObject({ kind: 'alike', shift: -by + 0 })
    }
  })

  test('where nothing moves and no grain is left, the frame is not known, and never guessed', () => {
    const compared = compare(
      still,
      late(still, 1).map((picture) => encode(picture)),
    )
    expect(compared).toMatchObject({ kind: 'alike', shift: null })
    expect(pictureEvidence(compared, null)).toMatchObject({ agrees: true, found: expect.stringMatching(/too little/) })
    // Of the faintest grain something may be left: then the frame is the right one.
    for (const set of [9, 10, 12]) {
      const faint = film({ set, pan: 0, grain: 0.3 })
      const seen = compare(
        faint,
        late(faint, 1).map((picture) => encode(picture)),
      )
      expect(seen.kind === 'alike' && [null, -1].includes(seen.shift)).toBe(true)
    }
  })

  test('another clip is told, and what is black or of one colour says nothing', () => {
    const other = compare(panning, film({ set: 11, pan: 0.4, grain: 1.5 }))
    expect(other.kind).toBe('other')
    expect(pictureEvidence(other, 'A001C007.mov')).toMatchObject({
      agrees: false,
      difference: 'it shows the pictures of A001C007.mov',
    })
    const black = panning.map(() => new Uint8Array(lookWidth * lookHeight))
    expect(compare(panning, black)).toEqual({ kind: 'not known' })
    expect(pictureEvidence({ kind: 'not known' }, null)).toBeNull()
  })

  test('the sentence of a shift says which way', () => {
    expect(pictureEvidence({ kind: 'alike', pictures: 80, shift: -1, distance: 0 }, null)?.difference).toBe(
      'its pictures run 1 frame late',
    )
    expect(pictureEvidence({ kind: 'alike', pictures: 80, shift: 2, distance: 0 }, null)?.difference).toBe(
      'its pictures run 2 frames early',
    )
  })

  test('burnt-in words at the edges and bars are no other picture', () => {
    const written = panning.map((picture) =>
      picture.map((level, index) => (index < 6 * lookWidth && index % lookWidth < 90 ? 235 : level)),
    )
    expect(compare(panning, written)).toMatchObject({ kind: 'alike', shift: 0 })
    const barred = panning.map((picture) => squeeze(picture, 9))
    expect(windowInside([{ from: 0, pictures: barred }])).toEqual({ left: 0, right: 128, top: 9, bottom: 63 })
    expect(compare(panning, barred)).toMatchObject({ kind: 'alike', shift: 0 })
  })
})

describe('every frame', () => {
  const whole = { left: 0, top: 0, right: lookWidth, bottom: lookHeight }
  const judge = (original: readonly GreyPicture[], made: readonly GreyPicture[]) => {
    const every = new EveryFrame()
    made.forEach((picture, frame) => {
      every.addMade(frame, cellsInside(picture, whole, 32, 18))
      every.addOriginal(frame, cellsInside(original[frame] as GreyPicture, whole, 32, 18))
    })
    return every.end()
  }
  const moving = film({ set: 21, pan: 0.6, grain: 1 }, 100)
  const encoded = moving.map((picture) => encode(picture, false))

  test('what is whole agrees, through a curve, and where it fades away', () => {
    expect(judge(moving, encoded)).toMatchObject({ agrees: true, found: 'all 100 pictures alike' })
    const fading = moving.map((picture, frame) => picture.map((level) => 16 + ((level - 16) * (99 - frame)) / 99))
    const noisy = fading.map((picture) => picture.map((level, at) => level + (at % 3) - 1))
    expect(judge(fading, noisy).agrees).toBe(true)
    expect(judge(still.slice(0, 60), late(still.slice(0, 60), 1)).agrees).toBe(true)
  })

  test('a frame that is black, one of another clip, and one that was dropped are found where they are', () => {
    const black = encoded.map((picture, frame) => (frame === 40 ? new Uint8Array(picture.length) : picture))
    expect(judge(moving, black).difference).toBe('frame 40 is black')
    const foreign = film({ set: 22, pan: 0.6, grain: 1 }, 100)
    const mixed = encoded.map((picture, frame) =>
      frame >= 50 && frame < 53 ? (foreign[frame] as GreyPicture) : picture,
    )
    expect(judge(moving, mixed).difference).toBe('3 frames from 50 show another picture')
    const dropped = [...encoded.slice(0, 30), ...encoded.slice(31), encoded.at(-1) as GreyPicture]
    expect(judge(moving, dropped)).toMatchObject({
      agrees: false,
      difference: expect.stringMatching(/^\d\d frames from 30 run 1 frame early/),
    })
  })
})

/** A picture between bars of some rows, each of its rows the mean of those that fall on it. */
function squeeze(picture: GreyPicture, bars: number): GreyPicture {
  const inside = lookHeight - 2 * bars
  return Uint8Array.from({ length: picture.length }, (_, index) => {
    const [row, column] = [Math.floor(index / lookWidth), index % lookWidth]
    if (row < bars || row >= lookHeight - bars) return 16
    const at = ((row - bars + 0.5) * lookHeight) / inside - 0.5
    const [above, share] = [Math.max(0, Math.floor(at)), at - Math.floor(at)]
    const below = Math.min(lookHeight - 1, above + 1)
    const level = (line: number): number => picture[line * lookWidth + column] as number
    return Math.round(level(above) * (1 - share) + level(below) * share)
  })
}

describe('signatures', () => {
  const catalogue = Array.from({ length: 24 }, (_, set) => film({ set: 100 + set, pan: 0.3, grain: 1 }, 60))
  const signatures = catalogue.map(signed)
  const index = new ShapeIndex(signatures.map((signature, at) => ({ id: String(at), shapes: shapesOf(signature) })))

  test('the clip that a re-encoded, late or shorter item shows is found among others', () => {
    for (const at of [0, 7, 23]) {
      const original = catalogue[at] as GreyPicture[]
      const items = [original.map((picture) => encode(picture)), late(original, 2), original.slice(0, -1)]
      for (const item of items) {
        const signature = signed(item)
        const [nearest] = index.nearest(shapesOf(signature), 3)
        expect(nearest).toBe(String(at))
        expect(distanceOfSignatures(signatures[at] as (typeof signatures)[number], signature)).toBeLessThan(0.06)
      }
    }
  })

  test('no two others are alike', () => {
    signatures.forEach((a, at) => {
      for (const b of signatures.slice(at + 1)) expect(distanceOfSignatures(a, b) ?? 1).toBeGreaterThan(alikeBelow)
    })
  })

  test('packed and unpacked it says the same; of clips with no frame in common nothing is said', () => {
    for (const signature of signatures.slice(0, 5)) {
      const again = unpackSignature(packSignature(signature))
      expect(again.stretches.map(({ from, pictures }) => [from, pictures.length])).toEqual(
        signature.stretches.map(({ from, pictures }) => [from, pictures.length]),
      )
      expect(distanceOfSignatures(signature, again)).toBeLessThan(0.001)
    }
    const black = signPictures([{ from: 0, pictures: [new Uint8Array(lookWidth * lookHeight)] }])
    expect(unpackSignature(packSignature(black)).stretches[0]?.pictures).toEqual([null])
    expect(distanceOfSignatures(black, signatures[0] as (typeof signatures)[number])).toBeNull()
    const [first] = signatures as [(typeof signatures)[number]]
    const elsewhere = { stretches: first.stretches.map((stretch) => ({ ...stretch, from: stretch.from + 5000 })) }
    expect(distanceOfSignatures(first, elsewhere)).toBeNull()
  })
})

test('places lie inside, in order, each once, head and tail among them', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 500_000 }), fc.integer({ min: 1, max: 32 }), (length, count) => {
      const starts = stretchStarts(length, count)
      expect(starts[0]).toBe(0)
      expect(starts.at(-1)).toBe(Math.max(0, length - count))
      expect([...new Set(starts)].sort((a, b) => a - b)).toEqual(starts)
    }),
  )
})
