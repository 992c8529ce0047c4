import { describe, expect, test } from '@jest/globals'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { clip, event, frame, look, made } from '../testing/trouble.ts'
import { rate } from '../time/index.ts'
import type { FindingClip } from './index.ts'

describe('remarks on the cut as a whole', () => {
  const kinds = (findings: readonly { kind: string }[]): string[] => findings.map(({ kind }) => kind)
  const production = { rate: rate(25), width: 1920, height: 1080 }
  const pair = (id: string, version: number) => ({
    ...{ id, name: `${id}_proxy.mov`, ...made, recipe: { id: 'half', name: 'Half', version } },
    ...{
      verdict: 'proven' as const,
      comparison: null,
      originalChanged: false,
      soundChange: null,
      isCuredByCopy: false,
      nameToday: null,
    },
  })

  test('a picture that lands on sound blocks, and so does sound on a medium without any', () => {
    const sound = clip({ id: 'take', name: 'take.wav', facts: soundFacts(480_000, 0) })
    const mute = clip({ facts: pictureFacts({ channels: 0 }) })
    expect(look([event()], [sound], { chosen: [[0, 'take']] }).findings[0]).toMatchObject({
      kind: 'wrong kind',
      severity: 'blocks handoff',
      message: 'take.wav has sound alone, and event 001 asks for pictures.',
    })
    expect(kinds(look([event({ kind: 'sound', track: 'A1' })], [mute], { chosen: [[0, mute.id]] }).findings)).toContain(
      'wrong kind',
    )
    expect(kinds(look([event(), event({ kind: 'sound', track: 'A1' })], [clip()]).findings)).toEqual([])
  })

  test('names that several originals have are told apart by content, whatever their case and Unicode form', () => {
    const twin = (change: Partial<FindingClip>) =>
      clip({ name: 'a001c001.MOV', reel: 'B001', volumeLabel: 'B001', ...change })
    const other = look([event()], [clip(), twin({ id: 'b' })], { chosen: [[0, 'A001C001.mov']] }).findings
    expect(other).toMatchObject([{ kind: 'equal names', severity: 'note', events: [0] }])
    expect(other[0]?.evidence[0]).toMatchObject({
      found: expect.stringContaining('on “B001”'),
      difference: 'other content',
    })
    const same = clip({ fingerprint: 'ff' })
    expect(
      kinds(look([event()], [same, twin({ id: 'b', fingerprint: 'ff' })], { chosen: [[0, same.id]] }).findings),
    ).toEqual(['duplicate'])
    // A name of the production that the cut does not use is no matter of the cut.
    expect(
      kinds(look([event()], [clip(), twin({ id: 'b', name: 'B.mov' }), twin({ id: 'c', name: 'B.mov' })]).findings),
    ).toEqual([])
  })

  test('proxies of one recipe in two versions: the older ones can be made again', () => {
    const second = { clipName: 'A001C002.mov' }
    const clips = [clip({ pairs: [pair('p1', 2)] }), clip({ name: 'A001C002.mov', pairs: [pair('p2', 1)] })]
    expect(look([event(), event(second)], clips).findings).toMatchObject([
      { kind: 'mixed recipes', pairIds: ['p2'], mends: ['make again'], events: [1] },
    ])
    const alike = [clip({ pairs: [pair('p1', 2)] }), clip({ name: 'A001C002.mov', pairs: [pair('p2', 2)] })]
    expect(look([event(), event(second)], alike).findings).toEqual([])
  })

  test('a LUT that proxies show and originals do not', () => {
    const burnt = { ...pair('p', 1), viewingLut: 'Estuary' }
    expect(look([event()], [clip({ pairs: [burnt] })]).findings).toMatchObject([
      { kind: 'look differs', severity: 'note', message: expect.stringContaining('“Estuary”') },
    ])
  })

  test('originals whose pictures do not follow each other evenly', () => {
    const { picture, ...facts } = pictureFacts()
    const phone = clip({ facts: { ...facts, picture: picture && { ...picture, variableRate: true } } })
    expect(look([event()], [phone]).findings).toMatchObject([
      {
        kind: 'variable rate',
        severity: 'needs a look',
        message: expect.stringContaining('has a variable frame rate'),
      },
    ])
    expect(look([event()], [clip()]).findings).toEqual([])
  })

  test('originals at another rate than the production', () => {
    const fast = clip({ facts: pictureFacts({ rate: rate(50) }) })
    const { findings } = look([event({ sourceRate: rate(50) })], [fast], { production })
    expect(kinds(findings)).toContain('other rate')
    expect(kinds(look([event()], [clip()], { production }).findings)).toEqual([])
  })

  test('the part of a scale that a proxy’s size had added is told apart from the editor’s own', () => {
    const medium = { frames: { startFrame: frame('10:00:00:00'), endFrame: frame('10:00:04:00') }, soundChannels: 0 }
    const scaled = event({
      fit: { scalePercent: 440, offset: null },
      medium: { ...medium, width: 480, height: 270 },
    })
    const [found] = look([scaled], [clip()], { production }).findings
    expect(found).toMatchObject({ kind: 'proxy scale', severity: 'note' })
    expect(found?.evidence[0]).toMatchObject({ expected: '110 % by the editor', found: '440 % in the list' })
    const own = event({ fit: { scalePercent: 110, offset: null }, medium: { ...medium, width: 1920, height: 1080 } })
    expect(look([own], [clip()], { production }).findings).toEqual([])
  })
})
