import { expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { Cut, CutEvent } from '../cut/index.ts'
import { anyCut, plainEvent } from '../testing/cuts.ts'
import { rate } from '../time/index.ts'
import { changesSince, type HandedCut, handedCut } from './since-handoff.ts'

type Use = { readonly content: string | null } & Partial<CutEvent>

/** Uses of two seconds one behind the other on V1. */
function handed(...uses: readonly Use[]): HandedCut {
  const events = uses.map(({ content: _, ...change }, index) =>
    plainEvent({
      number: String(index + 1).padStart(3, '0'),
      ...{
        path: `/TIDE-1/${change.clipName ?? 'A001C001.mov'}`,
        record: { startFrame: index * 50, endFrame: index * 50 + 50 },
      },
      ...change,
    }),
  )
  const cut: Cut = {
    ...{ name: 'Reel 1', rate: rate(25), dropFrame: false, tracks: [{ name: 'V1', kind: 'picture' as const }], events },
  }
  return handedCut(
    cut,
    uses.map(({ content }) => content),
  )
}
const words = (was: HandedCut, is: HandedCut) =>
  changesSince(was, is, { withPlaces: true }).map(({ number, track, words: said }) => `${number} ${track} ${said}`)
const mill: Use = { content: 'mill', clipName: 'A001C001.mov' }
const oven: Use = { content: 'oven', clipName: 'B002C001.mov', source: { startFrame: 2000, endFrame: 2050 } }

test('a cut that says what it said has not changed, whatever is in it and however it was kept', () => {
  expect(words(handed(mill, oven), handed(mill, oven))).toEqual([])
  fc.assert(
    fc.property(anyCut({ otherRates: true }), (cut) => {
      const is = handedCut(
        cut,
        cut.events.map((_, position) => (position % 3 === 0 ? null : `content ${position % 5}`)),
      )
      expect(changesSince(JSON.parse(JSON.stringify(is)), is, { withPlaces: true })).toEqual([])
    }),
    { numRuns: 50 },
  )
})

test('another original is told by both names; one of the same name as another content', () => {
  const later: Use = { ...mill, content: 'mill, version 3', clipName: 'A001C001_v003.mov' }
  expect(words(handed(mill, oven), handed(later, oven))).toEqual([
    '001 V1 is on A001C001_v003.mov now instead of A001C001.mov',
  ])
  expect(words(handed(mill, oven), handed({ ...mill, content: 'regraded' }, oven))).toEqual([
    '001 V1 shows another content by the name of A001C001.mov',
  ])
})

test('what was open and is not, and the reverse', () => {
  const open: Use = { ...mill, content: null, path: null }
  expect(words(handed(open, oven), handed(mill, oven))).toEqual(['001 V1 is on A001C001.mov now, and had no original'])
  expect(words(handed(mill, oven), handed(open, oven))).toEqual(['001 V1 has no original now, and was on A001C001.mov'])
})

test('an original that lies elsewhere is the same, and its path in the list is another', () => {
  expect(words(handed(mill, oven), handed({ ...mill, path: '/TIDE-2/A001C001.mov' }, oven))).toEqual([
    '001 V1 lies at /TIDE-2/A001C001.mov now',
  ])
  expect(words(handed(mill, oven), handed({ ...mill, path: '/TIDE-1/Mill.mov', clipName: 'Mill.mov' }, oven))).toEqual([
    '001 V1 lies at /TIDE-1/Mill.mov now, is called Mill.mov now',
  ])
})

test('where copies went along, their originals may lie anywhere and be called anything', () => {
  const elsewhere: Use = { ...mill, path: '/TIDE-2/Mill.mov', clipName: 'Mill.mov', reel: 'TIDE-2' }
  const pulled = (is: HandedCut) => changesSince(handed(mill, oven), is, { withPlaces: false })
  expect(pulled(handed(elsewhere, oven))).toEqual([])
  expect(pulled(handed({ ...elsewhere, content: 'regraded' }, oven))).toHaveLength(1)
})

test('a use that was trimmed, retimed, scaled or given another reel', () => {
  const shorter: Use = {
    ...oven,
    ...{ source: { startFrame: 2000, endFrame: 2049 }, record: { startFrame: 50, endFrame: 99 } },
  }
  expect(words(handed(mill, oven), handed(mill, shorter))).toEqual(['002 V1 trimmed: 1 frame less at the tail'])
  const fit = { scalePercent: 50, offset: null }
  expect(words(handed(mill, oven), handed(mill, { ...oven, fit }))).toEqual(['002 V1 stands at another scale or place'])
  expect(words(handed(mill, oven), handed(mill, { ...oven, reel: 'B009' }))).toEqual(['002 V1 has the reel B009 now'])
})

test('what was flipped to another track, added or taken out', () => {
  expect(words(handed(mill, oven), handed(mill))).toEqual(['002 V1 gone'])
  expect(words(handed(mill), handed(mill, oven))).toEqual(['002 V1 added'])
  expect(words(handed(mill), handed({ ...mill, track: 'V2' }))).toEqual(['001 V2 on another track'])
})
