import { describe, expect, test } from '@jest/globals'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { clip, event, look } from '../testing/trouble.ts'
import { rate } from '../time/index.ts'
import type { FindingClip } from './index.ts'

describe('a newer version of a shot', () => {
  const plate = (version: number, change: Partial<FindingClip> = {}): FindingClip =>
    clip({ name: `SH010_comp_v00${version}.mov`, reel: null, volumeLabel: 'PLATES', ...change })
  const use = event({ clipName: 'SH010_comp_v001.mov', reel: null })
  const found = (...others: FindingClip[]) =>
    look([use, event({ ...use, number: '004' })], [plate(1), ...others]).findings.filter(
      ({ kind }) => kind === 'newer version',
    )

  test('is told with the event that shows the one before, and the newest is the first choice', () => {
    const findings = found(plate(2), plate(3))
    expect(findings).toHaveLength(1)
    expect(findings[0]).toMatchObject({
      severity: 'needs a look',
      clipId: 'SH010_comp_v001.mov',
      events: [0, 1],
      choices: [
        { clipId: 'SH010_comp_v003.mov', against: null },
        { clipId: 'SH010_comp_v002.mov', against: null },
      ],
    })
    expect(findings[0]?.message).toBe(
      'SH010_comp_v001.mov carries events 001 and 004 as version 1, and version 3 is here: SH010_comp_v003.mov. ' +
        'Choose it if the cut is to show that.',
    )
  })

  test('the event still is on the original that its list names', () => {
    expect(look([use], [plate(1), plate(2)]).resolutions[0]).toMatchObject({
      state: 'on original',
      clipId: 'SH010_comp_v001.mov',
    })
  })

  test.each([
    [
      'too short at its head',
      { facts: pictureFacts({ start: '10:00:01:05' }) },
      /but it lacks 5 frames at the head of/,
    ],
    ['of another rate', { facts: pictureFacts({ rate: rate(24) }) }, /but its rate is 24, and event 001 counts 25/],
    ['damaged', { damage: 'cut off' }, /but it is damaged: cut off/],
    ['on a box that is out', { presence: 'away' as const }, /is on “PLATES”, which is away/],
  ])('one that is %s says so', (_, change, words) => {
    const [finding] = found(plate(2, change))
    expect(finding?.message).toMatch(words)
    expect(finding?.choices?.[0]?.against).toEqual(expect.any(String))
  })

  test.each([
    ['an older one', plate(0)],
    ['another shot', plate(2, { name: 'SH020_comp_v002.mov' })],
    ['what was lost', plate(2, { presence: 'gone' })],
    ['a proxy', plate(2, { role: 'proxy', roleReason: 'said so' })],
    ['sound', plate(2, { name: 'SH010_comp_v002.wav', facts: soundFacts(480_000, 0) })],
  ])('%s is none', (_, other) => expect(found(other)).toEqual([]))

  test('in another container, or as stills, it is one', () => {
    expect(found(plate(2, { name: 'sh010_COMP_v02.####.exr', originalPaths: ['/x'] }))).toHaveLength(1)
    expect(found(plate(2, { name: 'sh010_COMP_V02.mxf' }))).toHaveLength(1)
  })

  test('who lets it stand is told of the next', () => {
    expect(found(plate(2))[0]?.key).not.toBe(found(plate(2), plate(3))[0]?.key)
  })

  test('of sound that does not say how long it is nothing is promised', () => {
    const facts = soundFacts(480_000, 10 * 3600 * 48_000)
    const mix = (version: number, change: Partial<FindingClip> = {}) =>
      clip({ name: `mix v${version}.wav`, reel: null, facts, ...change })
    const asked = event({ clipName: 'mix v1.wav', kind: 'sound', track: 'A1', reel: null, start: '10:00:00:00' })
    const against = (change: Partial<FindingClip>) =>
      look([asked], [mix(1), mix(2, change)]).findings.flatMap(({ choices }) => choices ?? [])[0]?.against
    expect(against({})).toBeNull()
    const endless = { ...facts, sound: facts.sound.map((track) => ({ ...track, samples: null })) }
    expect(against({ facts: endless })).toBe('it does not say how long it is')
  })

  test('where the version that a list names is not known, the newest of its shot is named', () => {
    const [finding] = look([event({ clipName: 'SH010_comp_v004.mov', reel: null })], [plate(1), plate(2)]).findings
    expect(finding).toMatchObject({ kind: 'unresolved', choices: [] })
    expect(finding?.evidence[0]?.found).toBe(
      'no clip of this name; the newest of its shot that is known is version 2, SH010_comp_v002.mov',
    )
  })

  test('once it is chosen nothing is left to say', () => {
    const chosen: [number, string][] = [[0, 'SH010_comp_v002.mov']]
    const { findings, resolutions } = look([use], [plate(1), plate(2)], { chosen })
    expect(resolutions[0]).toMatchObject({ state: 'on original', clipId: 'SH010_comp_v002.mov', by: 'choice' })
    expect(findings).toEqual([])
  })
})
