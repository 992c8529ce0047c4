import { expect, test } from '@jest/globals'
import { rate } from '../time/index.ts'
import { type AlikeClips, productionFit } from './production-fit.ts'

const finish = { rate: rate(25), width: 1920, height: 1080 }
const came = (change: Partial<AlikeClips>): AlikeClips => ({
  ...{ kind: 'picture', rate: rate(25), width: 1920, height: 1080, pixelAspect: 'square', scan: 'progressive' },
  ...{ colour: 'display', sampleRate: 48_000, clips: 1 },
  ...change,
})
const troublesOf = (property: string, ...groups: AlikeClips[]) =>
  productionFit(finish, groups)
    .find((row) => row.property === property)
    ?.values.map(({ value, clips, trouble }) => [value, clips, trouble])

test('what is as the production is fits in everything', () => {
  const table = productionFit(finish, [came({ clips: 12 })])
  expect(table.map(({ property, wanted }) => [property, wanted])).toEqual([
    ['Rate', '25'],
    ['Raster', '1920×1080'],
    ['Pixel aspect', 'square'],
    ['Scan', null],
    ['Colour', null],
    ['Sample rate', '48 kHz'],
  ])
  expect(table.flatMap(({ values }) => values.map(({ trouble }) => trouble))).toEqual([
    null,
    null,
    null,
    null,
    null,
    null,
  ])
})

test('other rates are told with how many there are, the most frequent first', () => {
  expect(troublesOf('Rate', came({ clips: 2 }), came({ rate: rate(30_000, 1001), clips: 5 }))).toEqual([
    ['29.97', 5, expect.stringMatching(/every use is converted/)],
    ['25', 2, null],
  ])
})

test.each([
  ['larger, of one shape', { width: 3840, height: 2160 }, null],
  ['smaller', { width: 1280, height: 720 }, 'smaller: it is enlarged'],
  ['wider', { width: 2048, height: 858 }, 'another shape: letterbox, or cut off'],
  ['narrower', { width: 1440, height: 1080 }, 'another shape: pillarbox, or cut off'],
  ['anamorphic and so of one shape', { width: 1440, height: 1080, pixelAspect: '4:3' }, null],
  ['almost of one shape', { width: 1998, height: 1120 }, null],
])('a raster that is %s', (_, change, trouble) => {
  expect(troublesOf('Raster', came(change))?.[0]?.[2]).toBe(trouble)
})

test('what says nothing is not counted as anything, and sound has no raster', () => {
  const sound = came({ kind: 'sound', rate: null, width: null, height: null, sampleRate: 44_100 })
  expect(productionFit(finish, [sound]).map(({ property }) => property)).toEqual(['Sample rate'])
  expect(troublesOf('Sample rate', sound)).toEqual([['44.1 kHz', 1, expect.stringContaining('48 kHz')]])
  expect(troublesOf('Scan', came({ scan: '' }))).toEqual([['not said', 1, null]])
  expect(productionFit(finish, [])).toEqual([])
})

test('each value has the search that finds its clips', () => {
  const [row] = productionFit(finish, [came({ scan: '' })]).filter(({ property }) => property === 'Scan')
  expect(row?.values[0]?.condition).toEqual({
    all: [
      { field: 'kind', operator: 'is', value: 'picture' },
      { field: 'scan', operator: 'empty' },
    ],
  })
})
