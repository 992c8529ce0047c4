import { describe, expect, test } from '@jest/globals'
import type { SoundFacts } from '../media/index.ts'
import { planTracks, type RecipeTracks, trackFilter, tracksAsSource, wholeStream } from './tracks.ts'

const stream = (channels: number): SoundFacts => ({
  ...{
    codec: 'pcm_s24le',
    channels,
    layout: channels === 6 ? '5.1' : null,
    sampleRate: 48_000,
    bitDepth: 24,
    samples: 96_000,
  },
})
const sound = [stream(1), stream(1), stream(2)]
const plan = (tracks: Partial<RecipeTracks>, of = sound) => planTracks({ sound: of }, { ...tracksAsSource, ...tracks })
const counts = (tracks: Partial<RecipeTracks>, of = sound) => plan(tracks, of).map((track) => track.channels)

describe('the plan of the tracks', () => {
  test('as the source, every stream goes over as it is', () => {
    expect(counts({})).toEqual([1, 1, 2])
    expect(plan({}).map((track) => wholeStream(track, sound))).toEqual([0, 1, 2])
  })

  test('no sound in means none out, whatever is asked', () => {
    expect(plan({ atLeast: 8, layout: 'stereo' }, [])).toEqual([])
  })

  test('chosen channels count over all streams', () => {
    expect(plan({ keep: [2, 4] }).map((track) => track.of)).toEqual([
      [{ stream: 1, channel: 0 }],
      [{ stream: 2, channel: 1 }],
    ])
    expect(counts({ keep: [1, 99] })).toEqual([1])
  })

  test('every channel alone, or two by two with silence beside an odd one', () => {
    expect(counts({ layout: 'mono' })).toEqual([1, 1, 1, 1])
    expect(counts({ layout: 'stereo' })).toEqual([2, 2])
    expect(plan({ layout: 'stereo', keep: [1, 2, 3] })[1]?.of).toEqual([{ stream: 2, channel: 0 }, 'silence'])
  })

  test('silence fills up to a number, and never takes away', () => {
    expect(counts({ atLeast: 6 })).toEqual([1, 1, 2, 1, 1])
    expect(counts({ atLeast: 3 })).toEqual([1, 1, 2])
    expect(counts({ layout: 'stereo', atLeast: 8 })).toEqual([2, 2, 2, 2])
  })

  test('a surround stream keeps its layout only when it is whole', () => {
    const [whole] = plan({}, [stream(6)])
    const [part] = plan({ keep: [1, 2, 3] }, [stream(6)])
    expect([whole?.layout, part?.layout]).toEqual(['5.1', null])
  })
})

describe('the filter that puts a track together', () => {
  test('of one stream', () =>
    expect(trackFilter([{ stream: 2, channel: 1 }], sound, 'a0')).toBe('[0:a:2]pan=mono|c0=c1[a0]'))

  test('of several streams, each channel at its place in the joined one', () => {
    const of = [
      { stream: 1, channel: 0 },
      { stream: 2, channel: 1 },
    ]
    expect(trackFilter(of, sound, 'a1')).toBe('[0:a:1][0:a:2]amerge=inputs=2,pan=stereo|c0=c0|c1=c2[a1]')
  })

  test('of silence, as long as the original', () => {
    expect(trackFilter(['silence'], sound, 'a2')).toBe('[0:a:0]pan=mono|c0=0*c0[a2]')
  })
})
