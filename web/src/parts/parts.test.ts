import type { Span, SpanStrip } from '@ennick/contract'
import { rate } from '@ennick/core'
import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { addressOf } from '../data/api.ts'
import { matches } from './matches.ts'
import { axisOf, drawnApart, misfits } from './strip-geometry.ts'
import { bytes, count, frameLabel, timeLeft, when } from './words.ts'

const span = (start: number, end: number, change: Partial<Span> = {}): Span => ({
  label: 'x',
  start,
  end,
  note: null,
  isWhollyOff: false,
  ...change,
})
const strip = (original: Span, made: Span[] = [], uses: Span[] = []): SpanStrip => ({
  rate: rate(25),
  dropFrame: false,
  original,
  made,
  uses,
})

describe('the span strip', () => {
  test('the original and what overhangs it share one axis', () => {
    const x = axisOf(strip(span(100, 200), [], [span(150, 220)]), 500)
    expect(x(100)).toBeGreaterThan(0)
    expect(x(220)).toBeLessThan(500)
    expect(x(200)).toBeLessThan(x(220))
  })

  test('a span that lies far off does not press the original to nothing', () => {
    const x = axisOf(strip(span(100, 200), [span(90_000, 90_100)]), 500)
    expect(x(200) - x(100)).toBeGreaterThan(400)
    expect(x(90_000)).toBe(500)
  })

  test('the axis keeps order and stays on the strip', () => {
    fc.assert(
      fc.property(
        fc.nat(1e6),
        fc.integer({ min: 1, max: 1e5 }),
        fc.array(fc.tuple(fc.nat(1e6), fc.integer({ min: 1, max: 1e5 }))),
        (start, length, others) => {
          const x = axisOf(
            strip(
              span(start, start + length),
              others.map(([at, long]) => span(at, at + long)),
            ),
            300,
          )
          const places = [start, start + length, ...others.map(([at]) => at)].sort((a, b) => a - b).map(x)
          for (const [index, place] of places.entries()) {
            expect(place).toBeGreaterThanOrEqual(0)
            expect(place).toBeLessThanOrEqual(300)
            if (index) expect(place).toBeGreaterThanOrEqual(places[index - 1] as number)
          }
        },
      ),
    )
  })

  test.each([
    ['a twin', span(100, 200), 'made', []],
    ['one frame short', span(100, 199), 'made', [[199, 200]]],
    ['starting late', span(102, 200), 'made', [[100, 102]]],
    [
      'overhanging',
      span(98, 203),
      'made',
      [
        [98, 100],
        [200, 203],
      ],
    ],
    ['a use inside', span(120, 150), 'use', []],
    ['a use past the end by a fraction', span(120, 200.4), 'use', [[200, 200.4]]],
    ['a use before the start', span(90, 150), 'use', [[90, 100]]],
    ['another rate', span(100, 200, { isWhollyOff: true }), 'made', [[100, 200]]],
  ] as const)('%s: what does not line up', (_, part, kind, expected) => {
    expect(misfits(part, span(100, 200), kind).map(({ start, end }) => [start, end])).toEqual(expected)
  })
})

describe('words', () => {
  test.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.00 kB'],
    [1_240_000_000, '1.24 GB'],
    [99_900_000, '99.9 MB'],
    [123_000_000_000_000, '123 TB'],
  ])('%i bytes are %s', (value, text) => {
    expect(bytes(value)).toBe(text)
  })

  test.each([
    [null, 'measuring'],
    [2, 'a few seconds left'],
    [42, '45 s left'],
    [600, '10 min left'],
    [9000, '2.5 h left'],
  ])('%p seconds are %s', (seconds, text) => {
    expect(timeLeft(seconds)).toBe(text)
  })

  test('one and many', () => {
    expect([count(1, 'clip'), count(2, 'clip'), count(3, 'proxy', 'proxies'), count(50_000, 'clip')]).toEqual([
      '1 clip',
      '2 clips',
      '3 proxies',
      '50,000 clips',
    ])
  })

  test('dates are ISO to the minute', () => {
    const told = when('2026-11-25T10:20:30.000Z')
    expect(told).toMatch(/^2026-11-2[456] \d{2}:\d{2}$/)
    // Wherever this runs it is that very minute.
    expect(new Date(told.replace(' ', 'T')).toISOString()).toBe('2026-11-25T10:20:00.000Z')
    expect(when(null)).toBe('never')
  })

  test('a place between frames is labelled by the nearest', () => {
    expect(frameLabel(900_000.4, rate(25), false)).toBe('10:00:00:00')
  })
})

describe('filters', () => {
  test.each([
    ['', true],
    ['b001 tide', true],
    ['TIDE B001', true],
    ['b001 a001', false],
    ['mu\u0308hle', true],
  ])('%j', (filter, fits) => {
    expect(matches(filter, 'B001C001.mov', null, 'TIDE-1', 'Mühle')).toBe(fits)
  })
})

describe('addresses', () => {
  test('parameters are escaped, empty queries left out', () => {
    expect(addressOf('handoffFile', { handoffId: 'h', fileName: 'a b/c?.edl' })).toBe(
      '/api/handoffs/h/files/a%20b%2Fc%3F.edl',
    )
    expect(addressOf('browseFolder', {}, { path: undefined })).toBe('/api/folders')
    expect(addressOf('browseFolder', {}, { path: '/a b' })).toBe('/api/folders?path=%2Fa+b')
  })
})

test('of very many uses as many are drawn as can be told apart, and all that something is to be said of', () => {
  const use = (start: number, note: string | null = null) => ({ ...span(start, start + 10), note })
  const uses = [
    ...Array.from({ length: 5000 }, (_, index) => use(index % 100)),
    use(5, '2 frames past the end'),
    use(5, 'one'),
  ]
  const drawn = drawnApart(uses, (frame) => frame / 10)
  expect(drawn.length).toBeLessThan(30)
  expect(drawn.filter(({ note }) => note !== null)).toHaveLength(2)
})
