import { expect, test } from '@jest/globals'
import { fraction } from '../time/index.ts'
import type { SoundLink } from './sound-link.ts'
import { syncedSince } from './synced-since.ts'

const link: SoundLink = {
  ...{ soundIds: ['boom', 'lav'], offsetSamples: fraction(0), sampleRate: 48_000, method: 'waveform' },
  ...{ tracks: null, cameraSound: 'muted', contents: { picture: 'p', recordings: ['b', 'l'] } },
}

test('a sync holds for the content that was synced', () => {
  expect(syncedSince(link, 'p', ['b', 'l'])).toBeNull()
  expect(syncedSince(link, 'p', ['b', 'other'])?.why).toMatch(/^Its recording holds something else/)
  expect(syncedSince(link, 'other', ['b', 'l'])?.why).toMatch(/^The picture holds something else/)
  const marks = ['other', 'another'].map((content) => syncedSince(link, 'p', ['b', content])?.mark)
  expect(new Set(marks).size).toBe(2)
})

test('of what is not known any more, and of what an earlier version synced, nothing is said', () => {
  expect(syncedSince(link, 'p', ['b', null])).toBeNull()
  const { contents: _, ...before } = link
  expect(syncedSince(before, 'other', ['other'])).toBeNull()
})
