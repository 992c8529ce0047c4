import { expect, test } from '@jest/globals'
import type { SoundNotes } from '../notes/index.ts'
import { pictureFacts, soundFacts, soundNotes } from '../testing/facts.ts'
import { clipFacts, findTrackSets, isTrackSet, nameOfSet } from './index.ts'

const of = (id: string, name: string | null = null) => ({ container: 'mxf', materialPackage: { id, name } })
const video = (path: string, id: string) => ({ path, facts: { ...pictureFacts({ channels: 0 }), ...of(id) } })
const audio = (path: string, id: string) => ({ path, facts: { ...soundFacts(96_000, 0), ...of(id) } })
const names = (sets: readonly (readonly { path: string }[])[]) => sets.map((set) => set.map(({ path }) => path))

test('files that name one package are one clip, the picture first, the sound as people count', () => {
  const files = ['A10', 'A2', 'A1'].map((track) => audio(`a/C1_${track}.mxf`, 'one'))
  expect(names(findTrackSets([...files, video('a/C1_V1.mxf', 'one'), video('a/C2_V1.mxf', 'two')]))).toEqual([
    ['a/C1_V1.mxf', 'a/C1_A1.mxf', 'a/C1_A2.mxf', 'a/C1_A10.mxf'],
  ])
})

test('a set in two folders is two, and folders of their own for picture and sound make none', () => {
  const twice = ['day 1', 'copy'].flatMap((folder) => [video(`${folder}/V.mxf`, 'x'), audio(`${folder}/A.mxf`, 'x')])
  expect(names(findTrackSets(twice))).toEqual([
    ['day 1/V.mxf', 'day 1/A.mxf'],
    ['copy/V.mxf', 'copy/A.mxf'],
  ])
  const half = [video('day 1/V.mxf', 'x'), audio('day 1/A.mxf', 'x'), audio('copy/A.mxf', 'x')]
  expect(names(findTrackSets(half))).toEqual([['day 1/V.mxf', 'day 1/A.mxf']])
  expect(names(findTrackSets([video('VIDEO/C.mxf', 'x'), audio('AUDIO/C00.mxf', 'x')]))).toEqual([
    ['VIDEO/C.mxf', 'AUDIO/C00.mxf'],
  ])
})

test('what says nothing, or more than tracks, is no set', () => {
  const strange = { path: 'a/D.mxf', facts: { ...pictureFacts({ channels: 2 }), ...of('one') } }
  expect(findTrackSets([strange, audio('a/A.mxf', 'one')])).toEqual([])
  const silent = { path: 'a/V.mxf', facts: { ...pictureFacts({ channels: 0 }), container: 'mxf' } }
  expect(findTrackSets([silent, { path: 'a/A.mxf', facts: { ...soundFacts(96_000, 0), container: 'mxf' } }])).toEqual(
    [],
  )
  expect(findTrackSets([audio('a/A1.mxf', 'one'), audio('a/A2.mxf', 'one')])).toEqual([])
})

test('its facts are the picture’s with all of its sound, beside each other', () => {
  const set = [video('V.mxf', 'x'), audio('A1.mxf', 'x'), audio('A2.mxf', 'x')]
  expect([isTrackSet(set), isTrackSet(set.slice(0, 1)), isTrackSet([set[0] as never, set[0] as never])]).toEqual([
    ...[true, false, false],
  ])
  const facts = clipFacts(set.map((file) => file.facts))
  expect([facts.picture?.frames, facts.sound.length, facts.sound[1]?.samples]).toEqual([100, 2, 96_000])
  const parts = [pictureFacts(), pictureFacts()]
  expect(clipFacts(parts).picture?.frames).toBe(200)
  expect([
    nameOfSet('A001C001_V1', facts),
    nameOfSet('x', { ...facts, materialPackage: { id: 'x', name: 'Mill' } }),
  ]).toEqual(['A001C001', 'Mill'])
})

/** One file of a recorder that writes each of its tracks into a file of its own. */
const track = (path: string, change: { samples?: number; at?: number; notes?: Partial<SoundNotes> } = {}) => {
  const notes = { ...soundNotes({ timeReferenceSamples: change.at ?? 480_000 }), ...change.notes }
  const facts = soundFacts(change.samples ?? 96_000, notes.timeReferenceSamples ?? 0)
  const sound = facts.sound.map((stream) => ({ ...stream, channels: 1, layout: 'mono' }))
  return { path, facts: { ...facts, sound, soundNotes: notes } }
}

test('files of one take are one recording when their notes say so, in the order of their tracks', () => {
  const take = ['T7_10.wav', 'T7_2.wav', 'T7_1.wav'].map((name) => track(`d/${name}`))
  expect(names(findTrackSets([...take, track('d/T8_1.wav')]))).toEqual([['d/T7_1.wav', 'd/T7_2.wav', 'd/T7_10.wav']])
  const facts = clipFacts(take.map((file) => file.facts))
  expect([isTrackSet(take), nameOfSet('T7_1', facts), facts.sound.length, facts.picture]).toEqual([
    ...[true, 'T7', 3, null],
  ])
})

test('left and right are tracks as well', () => {
  const pair = [track('d/T9_R.wav'), track('d/T9_L.wav')]
  expect(names(findTrackSets([...pair, track('d/T9_M.wav')]))).toEqual([['d/T9_L.wav', 'd/T9_R.wav']])
  expect(nameOfSet('T9_L', clipFacts(pair.map(({ facts }) => facts)))).toBe('T9')
})

test('each of its tracks keeps its name, and one without a name its place', () => {
  const take = [{ trackNames: ['Boom'] }, {}, { trackNames: ['Rafa'] }].map((notes) => track('T.wav', { notes }))
  expect(clipFacts(take.map(({ facts }) => facts)).soundNotes?.trackNames).toEqual(['Boom', '', 'Rafa'])
})

test.each([
  ['another start', track('d/T7_2.wav', { at: 480_001 })],
  ['another length', track('d/T7_2.wav', { samples: 96_001 })],
  ['another take', track('d/T7_2.wav', { notes: { take: '3' } })],
  ['another day', track('d/T7_2.wav', { notes: { originationDate: '2026-03-04' } })],
  ['no start', track('d/T7_2.wav', { notes: { timeReferenceSamples: null } })],
  ['another folder', track('e/T7_2.wav')],
  ['another name', track('d/T8_2.wav')],
  ['no number of a track', track('d/T7.wav')],
  ['a picture', { path: 'd/T7_2.wav', facts: { ...track('d/T7_2.wav').facts, ...pictureFacts() } }],
])('%s is no track of a recording', (_, other) => {
  expect(findTrackSets([track('d/T7_1.wav'), other])).toEqual([])
})
