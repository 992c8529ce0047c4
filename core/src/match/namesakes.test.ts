import { expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { exactRange, rate } from '../time/index.ts'
import type { Candidate, Wanted } from './identity.ts'
import { Namesakes } from './namesakes.ts'

const file = (number: number, change: Partial<Candidate> = {}): Candidate => ({
  id: `${number}`,
  path: `/x/${number}/C0001.mov`,
  facts: { ...pictureFacts({ frames: 100 + number, start: null }), startFrame: 1000 * number },
  reel: `A${number}`,
  fingerprint: null,
  role: 'original',
  roleReason: null,
  ...change,
})
const wanted = (change: Partial<Wanted>): Wanted => ({
  ...{ id: 'w', names: [], path: null, kind: null, reel: null, rate: rate(25), startFrame: null, dropFrame: false },
  ...{ frames: null, channels: null, fingerprint: null, pictures: null, picture: null, uses: [] },
  ...change,
})
const use = (startFrame: number, endFrame: number): Pick<Wanted, 'uses'> => ({
  uses: [{ label: 'event 1', rate: rate(25), range: exactRange({ startFrame, endFrame }) }],
})
function namesakes(count: number, change: Partial<Candidate> = {}): Namesakes<Candidate> {
  const all = new Namesakes<Candidate>()
  for (let number = 0; number < count; number++) all.add(file(number, change))
  return all
}
const found = (all: Namesakes<Candidate>, item: Wanted, isWeak = false): string[] =>
  all.of(item, isWeak).map(({ id }) => id)

test('of a few files of one name all are looked at', () => {
  expect(found(namesakes(24), wanted({ startFrame: 7 }))).toHaveLength(24)
})

test('of many those that start alike, are as long, or cover what is used', () => {
  const all = namesakes(60)
  expect(found(all, wanted({ startFrame: 5000 }))).toEqual(['5'])
  expect(found(all, wanted({ frames: 140 }))).toEqual(['40'])
  expect(found(all, wanted({ startFrame: 5000, frames: 140 }))).toEqual(['5', '40'])
  expect(found(all, wanted(use(9000, 9109)))).toEqual(['9'])
  expect(found(all, wanted(use(9000, 9110)))).toEqual([])
  expect(found(all, wanted(use(8999, 9050)))).toEqual([])
})

test('one that is much longer than the others is found by what it covers', () => {
  const all = namesakes(60)
  all.add(file(0, { id: 'long', facts: { ...pictureFacts({ frames: 90_000, start: null }), startFrame: 10 } }))
  expect(found(all, wanted(use(50_500, 50_600)))).toEqual(['long'])
})

test('where start, length and use are unknown the reel tells, and of very many nothing does', () => {
  expect(found(namesakes(60), wanted({ reel: 'a12' }))).toEqual(['12'])
  expect(found(namesakes(60), wanted({}))).toHaveLength(60)
  expect(found(namesakes(60), wanted({}), true)).toEqual([])
  expect(found(namesakes(401), wanted({}))).toEqual([])
})
