import { describe, expect, test } from '@jest/globals'
import { music, noise, speech, withNoise } from '../testing/sounds.ts'
import { fitOffset, type Heard, matchWaveforms, stretchesToMeasure } from './by-waveform.ts'
import { EnvelopeMaker, envelopeRate, envelopeSourceRate } from './envelope.ts'

const rate = envelopeSourceRate
const heard = (id: string, samples: Float32Array | null, day: string | null = null): Heard => {
  const maker = new EnvelopeMaker()
  if (samples) maker.add(samples)
  return { id, envelope: samples && maker.finish(), day }
}
const always = (_picture: Heard, _recording: Heard): boolean => true
const [takeOne, takeTwo] = [speech(40, rate, 1), speech(40, rate, 2)]
const scratch = (take: Float32Array, from: number, seconds: number, seed: number) =>
  withNoise(take.slice(from * rate, (from + seconds) * rate), 10, seed)
const outcomes = (pictures: Heard[], recordings: Heard[], sameDay = always) => [
  ...matchWaveforms(pictures, recordings, sameDay),
]

describe('a day of pictures and recordings', () => {
  const recordings = [heard('T1', takeOne), heard('T2', takeTwo), heard('cue', music(30, rate, 3))]

  test('each picture finds its recording and its place, whatever the order', () => {
    const pictures = [heard('b', scratch(takeTwo, 20, 10, 5)), heard('a', scratch(takeOne, 4, 12, 6))]
    for (const shuffled of [recordings, [...recordings].reverse()])
      expect(outcomes(pictures, shuffled)).toMatchObject([
        { kind: 'found', pictureId: 'b', place: { soundId: 'T2', roughSeconds: 20 } },
        { kind: 'found', pictureId: 'a', place: { soundId: 'T1', roughSeconds: 4 } },
      ])
  })

  test('what has no scratch track, a silent one or a short one is said to, and so is what was recorded nowhere', () => {
    const pictures = [
      heard('mute', null),
      heard('silent', new Float32Array(10 * rate)),
      heard('hiss', noise(10, rate, 8)),
      heard('short', scratch(takeOne, 1, 1, 9)),
      heard('elsewhere', speech(12, rate, 44)),
    ]
    expect(outcomes(pictures, recordings).map(({ kind }) => kind)).toEqual([
      ...['no scratch', 'silent', 'silent', 'too short', 'nothing alike'],
    ])
  })

  test('two recordings of one moment are left to a person, and another day is not looked at', () => {
    const both = [heard('T1', takeOne), heard('safety', withNoise(takeOne, 20, 10))]
    const [outcome] = outcomes([heard('a', scratch(takeOne, 5, 10, 11))], both)
    expect(outcome).toMatchObject({ kind: 'several', places: [{ roughSeconds: 5 }, { roughSeconds: 5 }] })
    const [found] = outcomes([heard('a', scratch(takeOne, 5, 10, 11))], both, (_, { id }) => id === 'safety')
    expect(found).toMatchObject({ kind: 'found', place: { soundId: 'safety' } })
  })
})

describe('to the sample', () => {
  const at = (atSeconds: number, offsetSamples: number, sharpness = 0.5) => ({ atSeconds, offsetSamples, sharpness })

  test('what agrees is the offset; a recorder that is 10.4 millionths fast is told, and taken out of it', () => {
    expect(fitOffset([at(1, 960), at(5, 961), at(9, 960)], 48_000)).toEqual({
      ...{ offsetSamples: 960, driftPartsPerMillion: null, agreeing: 3 },
    })
    const drifting = fitOffset([at(60, 1030), at(1800, 1030 + 869), at(3540, 1030 + 1737)], 48_000)
    expect(drifting?.driftPartsPerMillion).toBeCloseTo(10.4, 1)
    expect(drifting?.offsetSamples).toBe(1000)
  })

  test('one that was taken in is left out; when they contradict each other nothing is said', () => {
    expect(fitOffset([at(1, 960), at(5, 961), at(9, 5000)], 48_000)).toMatchObject({ offsetSamples: 961, agreeing: 2 })
    expect(fitOffset([at(1, 960), at(9, 5000)], 48_000)).toBeNull()
    expect(fitOffset([at(1, 960, 0.05)], 48_000)).toBeNull()
    expect(fitOffset([], 48_000)).toBeNull()
  })

  test('stretches lie where something is heard, within what both have', () => {
    const envelope = new Float32Array(60 * envelopeRate)
    for (const second of [8, 31, 55]) envelope.fill(1, second * envelopeRate, (second + 1) * envelopeRate)
    const starts = stretchesToMeasure(envelope, { from: 0, to: 60 }, 1)
    expect(starts).toHaveLength(3)
    for (const [index, second] of [8, 31, 55].entries())
      expect(Math.abs((starts[index] as number) - second)).toBeLessThan(0.1)
    expect(stretchesToMeasure(envelope, { from: 10, to: 11.5 }, 1)).toHaveLength(1)
    expect(stretchesToMeasure(envelope, { from: 10, to: 10.5 }, 1)).toEqual([])
  })
})
