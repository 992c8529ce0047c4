import { expect, test } from '@jest/globals'
import fc from 'fast-check'
import { anyCut, plainEvent } from '../testing/cuts.ts'
import { rate } from '../time/index.ts'
import { compareCuts } from './compare.ts'
import { flippedTracks } from './flip.ts'
import type { Cut, CutEvent } from './model.ts'
import { reversedTracks } from './reversed-tracks.ts'

const source = ({ clipName, reel }: CutEvent): string => clipName ?? reel ?? ''
const reversed = (before: Cut, after: Cut) =>
  reversedTracks(before, after, compareCuts(before, after, { before: source, after: source }).changes)

/** Uses of clips, each on the track that stands before it. */
function cutOf(uses: readonly string[], tracks: readonly string[]): Cut {
  const kindOf = (track: string) => (track.startsWith('V') ? ('picture' as const) : ('sound' as const))
  return {
    ...{ name: 'x', rate: rate(25), dropFrame: false, tracks: tracks.map((name) => ({ name, kind: kindOf(name) })) },
    events: uses.map((use, index) => {
      const [track = '', clipName = ''] = use.split(' ')
      const record = { startFrame: 10 * index, endFrame: 10 * index + 20 }
      return plainEvent({ track, kind: kindOf(track), clipName, source: record, record })
    }),
  }
}

test('layers that came over upside down are told, by all that is known again', () => {
  const tracks = ['V1', 'V2', 'V3', 'A1']
  const before = cutOf(['V1 a', 'V2 b', 'V3 c', 'A1 s'], tracks)
  expect(reversed(before, cutOf(['V3 a', 'V2 b', 'V1 c', 'A1 s'], tracks))).toEqual([{ from: 'V1', to: 'V3' }])
  expect(reversed(before, before)).toEqual([])
  // One that stays where it was speaks against it, and so does a track alone in the middle.
  expect(reversed(before, cutOf(['V3 a', 'V2 b', 'V3 c', 'A1 s'], tracks))).toEqual([])
  expect(reversed(cutOf(['V2 b'], tracks), cutOf(['V2 b'], tracks))).toEqual([])
  expect(reversed(before, cutOf(['V2 a', 'V1 b'], ['V1', 'V2']))).toEqual([])
})

test('sound is told by itself', () => {
  const tracks = ['V1', 'A1', 'A2']
  const [before, after] = [cutOf(['V1 a', 'A1 s', 'A2 t'], tracks), cutOf(['V1 a', 'A2 s', 'A1 t'], tracks)]
  expect(reversed(before, after)).toEqual([{ from: 'A1', to: 'A2' }])
})

test('of any cut, what is flipped is told, and flipping that again puts it back', () => {
  // Each event is known again by its place in the list.
  const byPosition = { before: (_: CutEvent, at: number) => `${at}`, after: (_: CutEvent, at: number) => `${at}` }
  fc.assert(
    fc.property(anyCut({ otherRates: true }), (cut) => {
      const pictures = cut.events.filter(({ kind }) => kind === 'picture').map(({ track }) => track)
      const numbers = cut.tracks.filter(({ kind }) => kind === 'picture').map(({ name }) => Number(name.slice(1)))
      const [from, to] = [`V${Math.min(...numbers)}`, `V${Math.max(...numbers)}`]
      const flip = (before: Cut): Cut => {
        const names = flippedTracks(cut.tracks, from, to)
        return {
          ...before,
          events: before.events.map((each) => ({ ...each, track: names?.get(each.track) ?? each.track })),
        }
      }
      const told = reversedTracks(cut, flip(cut), compareCuts(cut, flip(cut), byPosition).changes)
      expect(told).toEqual(new Set(pictures).size > 1 ? [{ from, to }] : [])
      expect(flip(flip(cut))).toEqual(cut)
    }),
    { numRuns: 100 },
  )
})
