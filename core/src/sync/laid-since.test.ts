import { expect, test } from '@jest/globals'
import { fraction } from '../time/index.ts'
import { type LaidSound, soundChangedSince } from './laid-since.ts'
import { type SoundLink, writeSoundLink } from './sound-link.ts'

const link: SoundLink = {
  ...{ soundIds: ['boom', 'lav'], offsetSamples: fraction(96_000), sampleRate: 48_000 },
  ...{ method: 'waveform', tracks: null, cameraSound: 'kept' },
}
const laid: LaidSound = { soundIds: ['boom', 'lav'], sound: [], link: writeSoundLink(link), fingerprints: ['a', 'b'] }
const changed = (now: SoundLink | null, marks: (string | null)[] = ['a', 'b'], of: LaidSound | null = laid) =>
  soundChangedSince(of, now, marks, true)

test('nothing has changed while link and recordings are the same, however the link was found', () => {
  expect(changed(link)).toBeNull()
  expect(changed({ ...link, method: 'points', offsetSamples: fraction(192_000, 2) })).toBeNull()
})

test.each<[string, Partial<SoundLink>, RegExp]>([
  [
    'another place, by a part of a sample',
    { offsetSamples: fraction(192_001, 2) },
    /96000 samples.*96000 1\/2 samples/,
  ],
  ['another recording', { soundIds: ['boom'] }, /another recording/],
  ['other tracks', { tracks: [1] }, /Other tracks/],
  ['the camera’s sound muted', { cameraSound: 'muted' }, /was kept .* is muted now/],
])('%s is told', (_, change, sentence) => expect(changed({ ...link, ...change })).toMatch(sentence))

test('a link taken back, and one that came after, are told', () => {
  expect(changed(null)).toMatch(/not synced with any more/)
  expect(changed(link, [], null)).toMatch(/was synced with a recording since/)
  expect(soundChangedSince(null, link, [], false)).toBeNull()
  expect(changed(null, [], null)).toBeNull()
})

test('a recording that is another file now is told; one that is not known any more tells nothing', () => {
  expect(changed(link, ['a', 'c'])).toMatch(/Its recording has changed/)
  expect(changed(link, ['a', null])).toBeNull()
})

test('where it was not kept how a recording lay, nothing is claimed', () => {
  expect(changed(link, [], { soundIds: ['boom', 'lav'], sound: [] })).toMatch(/was not kept/)
})
