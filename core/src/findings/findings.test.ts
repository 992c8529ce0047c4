import { describe, expect, test } from '@jest/globals'
import { type CutEvent, normalSpeed, resolveEvents } from '../cut/index.ts'
import { compareTwin } from '../pairing/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { parseTimecode, rate } from '../time/index.ts'
import { type FindingClip, type FindingContext, findTrouble } from './index.ts'

const frame = (label: string): number => parseTimecode(label, rate(25))

function event(change: Partial<CutEvent> & { start?: string; frames?: number } = {}): CutEvent {
  const { start = '10:00:01:00', frames = 25, ...rest } = change
  return {
    number: '001',
    track: 'V1',
    kind: 'picture',
    clipName: 'A001C001.mov',
    reel: 'A001',
    path: null,
    source: { startFrame: frame(start), endFrame: frame(start) + frames },
    sourceRate: rate(25),
    mediumStartFrame: null,
    record: { startFrame: 0, endFrame: frames },
    transition: null,
    speed: normalSpeed,
    notes: [],
    location: 'line 1',
    ...rest,
  }
}

function clip(change: Partial<FindingClip> = {}): FindingClip {
  const name = change.name ?? 'A001C001.mov'
  return {
    id: name,
    name,
    formerNames: [],
    reel: 'A001',
    facts: pictureFacts(),
    presence: 'here',
    originalPaths: [`/bay/A001/${name}`],
    madePaths: [],
    parts: [],
    proxyPlays: false,
    role: 'original',
    roleReason: null,
    damage: null,
    volumeLabel: 'A001',
    fingerprint: change.id ?? name,
    volumeIsHere: true,
    soundLink: null,
    changedFiles: [],
    notices: [],
    lostFiles: [],
    pairs: [],
    ...change,
  }
}

/** What a proxy was made with, where that does not matter. */
const made = { kind: 'proxy' as const, recipe: null, viewingLut: null }

function look(
  events: CutEvent[],
  clips: FindingClip[],
  change: {
    chosen?: [number, string][]
    mappings?: { from: string; to: string }[]
    production?: FindingContext['production']
  } = {},
) {
  const resolutions = resolveEvents(events, {
    clips,
    mappings: change.mappings ?? [],
    suffixes: ['_proxy'],
    unreadable: [],
    chosen: new Map(change.chosen),
    recordRate: rate(25),
  })
  const context: FindingContext = {
    rate: rate(25),
    dropFrame: false,
    events,
    resolutions,
    clips: new Map(clips.map((item) => [item.id, item])),
    ...(change.production && { production: change.production }),
  }
  return { resolutions, findings: findTrouble(context) }
}

describe('resolving', () => {
  test('by name, with a declared suffix taken off', () => {
    const { resolutions, findings } = look([event({ clipName: 'A001C001_proxy.mov' })], [clip()])
    expect(resolutions[0]).toMatchObject({ state: 'on original', by: 'name', clipId: 'A001C001.mov' })
    expect(findings).toEqual([])
  })

  test('by the path of another system, and by the path of its proxy: always to the original', () => {
    const mappings = [{ from: 'P:/LW', to: '/bay' }]
    const known = clip({ id: 'x', madePaths: ['/bay/proxies/y.mov'] })
    expect(
      look([event({ clipName: null, path: 'file:///P:/LW/A001/A001C001.mov' })], [known], { mappings }).resolutions[0],
    ).toMatchObject({
      by: 'path',
      clipId: 'x',
    })
    expect(
      look([event({ clipName: null, path: 'file:///P:/LW/proxies/y.mov' })], [known], { mappings }).resolutions[0],
    ).toMatchObject({
      by: 'path of its proxy',
      state: 'on original',
    })
  })

  test('a renamed original answers to its former name', () => {
    const renamed = clip({ name: 'wheel close.mov', formerNames: ['A001C001'] })
    expect(look([event()], [renamed]).resolutions[0]).toMatchObject({
      by: 'name',
      state: 'on original',
      evidence: [expect.objectContaining({ agrees: true }), expect.anything(), expect.anything()],
    })
  })

  test('by reel and timecode when the name is not known', () => {
    expect(look([event({ clipName: null })], [clip()]).resolutions[0]).toMatchObject({
      by: 'reel and timecode',
      state: 'on original',
    })
    const { findings } = look([event({ clipName: 'renamed in the cut' })], [clip()])
    expect(findings[0]).toMatchObject({
      kind: 'another name',
      severity: 'blocks handoff',
      message:
        'renamed in the cut: A001C001.mov fits event 001 by reel and timecode, and is called otherwise. Choose it if it is the same shot.',
    })
  })

  test('a clip of the same name on another reel, or elsewhere in time, is another twin', () => {
    const wrongReel = look([event({ reel: 'A002' })], [clip()])
    expect(wrongReel.resolutions[0]?.state).toBe('unresolved')
    expect(wrongReel.findings[0]?.evidence.some((row) => row.difference === 'another reel')).toBe(true)
    const elsewhere = look([event({ start: '12:00:00:00', reel: null })], [clip()])
    expect(elsewhere.resolutions[0]?.state).toBe('short')
    expect(elsewhere.findings[0]?.message).toBe(
      'A001C001.mov does not hold what event 001 on V1 needs: source 12:00:00:00 to 12:00:01:00, and it runs from 10:00:00:00 to 10:00:04:00.',
    )
  })

  test('a use after midnight belongs to the clip that runs across it', () => {
    const across = clip({ facts: pictureFacts({ start: '23:59:58:00' }) })
    expect(look([event({ start: '00:00:00:10' })], [across]).resolutions[0]?.state).toBe('on original')
  })

  test('a list that counts the source from zero is shifted to its start', () => {
    const { resolutions } = look(
      [event({ start: '00:00:01:00', mediumStartFrame: 0, reel: null, path: '/bay/A001/A001C001.mov' })],
      [clip()],
    )
    expect(resolutions[0]).toMatchObject({
      state: 'on original',
      needed: { startFrame: frame('10:00:01:00'), endFrame: frame('10:00:02:00') },
    })
  })

  test('a choice by a person comes before everything', () => {
    expect(
      look([event()], [clip(), clip({ name: 'B.mov', facts: pictureFacts({ reel: 'B' }) })], { chosen: [[0, 'B.mov']] })
        .resolutions[0],
    ).toMatchObject({ by: 'choice', clipId: 'B.mov' })
  })
})

describe('findings', () => {
  test('two originals of one name and reel that both cover: ambiguous, neither chosen', () => {
    const twin = clip({
      id: 'second',
      originalPaths: ['/bay/other/A001C001.mov'],
      facts: pictureFacts({ start: '09:59:59:00' }),
    })
    const { findings } = look([event(), event({ number: '002' })], [clip(), twin])
    expect(findings.map((finding) => finding.kind)).toEqual(['ambiguous'])
    expect(findings[0]).toMatchObject({ severity: 'blocks handoff', events: [0, 1] })
  })

  test('a volume that is away is no loss: the box is asked for by its label', () => {
    const { findings, resolutions } = look([event()], [clip({ presence: 'away' })])
    expect(resolutions[0]?.state).toBe('original away')
    expect(findings.map((finding) => finding.kind)).toEqual(['volume away'])
    expect(findings[0]?.message).toContain('“A001”')
  })

  test.each([
    ['moved', [{ path: '/bay/x.mov', volumeLabel: 'TIDE-1', sameContent: true }]],
    ['name elsewhere', [{ path: '/bay/x.mov', volumeLabel: 'TIDE-1', sameContent: false }]],
    ['file gone', []],
  ] as const)('%s', (kind, sightings) => {
    const lost = clip({ presence: 'gone', lostFiles: [{ path: '/bay/A001/A001C001.mov', sightings: [...sightings] }] })
    expect(look([event()], [lost]).findings[0]).toMatchObject({ kind, severity: 'blocks handoff', mends: ['repoint'] })
  })

  test('the false calm: the proxy plays and the original is gone', () => {
    const calm = clip({ presence: 'gone', proxyPlays: true, lostFiles: [{ path: 'x', sightings: [] }] })
    const { findings, resolutions } = look([event()], [calm])
    expect(resolutions[0]?.state).toBe('on proxy')
    expect(findings.map((finding) => finding.kind)).toEqual(['file gone', 'proxy plays, original lost'])
  })

  test.each([
    [{ start: '09:59:59:20', frames: 30 }, '5 frames at the head'],
    [{ start: '10:00:03:10', frames: 20 }, '5 frames at the tail'],
  ])('too short, by exact frames: %p', (change, words) => {
    const { findings } = look([event(change)], [clip()])
    expect(findings[0]).toMatchObject({ kind: 'too short', severity: 'blocks handoff' })
    expect(findings[0]?.message).toContain(words)
  })

  test('too short by a fraction of a frame', () => {
    const sound = clip({ name: 'T2.wav', reel: null, facts: soundFacts(8 * 48_000 - 768, 10 * 3600 * 48_000) })
    const { findings } = look(
      [event({ clipName: 'T2.wav', kind: 'sound', track: 'A1', reel: null, start: '10:00:00:00', frames: 200 })],
      [sound],
    )
    expect(findings[0]?.message).toContain('0.4 frame at the tail')
  })

  test('a dissolve out of a clip needs its frames too', () => {
    const first = event({ start: '10:00:03:00', frames: 20 })
    const second = event({
      number: '002',
      start: '10:00:00:00',
      record: { startFrame: 20, endFrame: 45 },
      transition: { kind: 'dissolve', wipeCode: null, durationFrames: 8 },
    })
    expect(look([first, second], [clip()]).findings[0]?.message).toContain('event 001 on V1: 3 frames at the tail')
  })

  test('double speed needs double the frames; backwards needs those before', () => {
    expect(
      look([event({ start: '10:00:02:00', frames: 30, speed: { numerator: 2, denominator: 1 } })], [clip()]).findings[0]
        ?.message,
    ).toContain('10 frames at the tail')
    expect(
      look([event({ start: '10:00:00:10', frames: 15, speed: { numerator: -1, denominator: 1 } })], [clip()])
        .findings[0]?.message,
    ).toContain('4 frames at the head')
  })

  test.each([
    ['rate mismatch', pictureFacts({ rate: rate(24) }), 'blocks handoff'],
    ['timecode mismatch', pictureFacts({ start: '10:00:00:01' }), 'blocks handoff'],
    ['length mismatch', pictureFacts({ frames: 99 }), 'blocks handoff'],
    ['reel mismatch', pictureFacts({ reel: 'X' }), 'needs a look'],
    ['channels mismatch', pictureFacts({ channels: 1 }), 'needs a look'],
    ['shape mismatch', pictureFacts({ width: 720, height: 576 }), 'needs a look'],
  ])('%s of a proxy', (kind, facts, severity) => {
    const comparison = compareTwin(
      { name: 'A001C001.mov', facts: pictureFacts(), reel: 'A001' },
      [{ part: 'whole', name: 'A001C001_proxy.mov', facts }],
      ['_proxy'],
      null,
    )
    const { findings } = look(
      [event()],
      [
        clip({
          pairs: [
            {
              id: 'p',
              name: 'A001C001_proxy.mov',
              ...made,
              verdict: 'mismatched',
              comparison,
              originalChanged: false,
              soundChange: null,
              isCuredByCopy: false,
            },
          ],
        }),
      ],
    )
    expect(findings.find((finding) => finding.kind === kind)).toMatchObject({
      severity,
      pairIds: ['p'],
      mends: ['make again'],
    })
  })

  test('a list that counts a source at another rate than it has', () => {
    const drone = clip({ facts: pictureFacts({ rate: rate(30000, 1001), drop: true, start: '10:00:00;00' }) })
    const { findings } = look([event({ path: '/bay/A001/A001C001.mov' })], [drone])
    expect(
      findings.some((finding) => finding.kind === 'rate mismatch' && finding.message.includes('recorded at 29.97')),
    ).toBe(true)
  })

  test('an original that is a proxy, damaged, or other content than it was blocks, by what exactly it is', () => {
    const find = (change: Partial<FindingClip>) =>
      look([event()], [clip(change)], { chosen: [[0, 'A001C001.mov']] }).findings
    expect(find({ role: 'proxy', roleReason: 'it lies where proxies come in' })[0]).toMatchObject({
      kind: 'original is a proxy',
      severity: 'blocks handoff',
    })
    expect(find({ damage: 'damaged from frame 312' })[0]).toMatchObject({ kind: 'original damaged' })
    const changed = (fingerprint: string) =>
      find({ changedFiles: [{ path: '/bay/A001/A001C001.mov', fingerprint }] })[0]
    expect(changed('ab')).toMatchObject({ kind: 'original changed', severity: 'blocks handoff', mends: ['repoint'] })
    expect(changed('ab')?.key).not.toBe(changed('cd')?.key)
  })

  test('a decision on a shortfall is one on that shortfall', () => {
    const key = (frames: number) => look([event({ start: '10:00:03:20', frames })], [clip()]).findings[0]?.key
    expect(key(6)).not.toBe(key(9))
  })

  test('pictures that differ from the original’s block; what was made of other content is stale', () => {
    const row = {
      aspect: 'pictures' as const,
      expected: 'the same',
      found: 'frame 12 differs',
      agrees: false,
      difference: '1 of 9',
    }
    const pair = {
      id: 'p',
      name: 'A_proxy.mov',
      ...made,
      verdict: 'mismatched' as const,
      comparison: [row],
      originalChanged: true,
      soundChange: null,
      isCuredByCopy: false,
    }
    expect(look([event()], [clip({ pairs: [pair] })]).findings.map(({ kind, severity }) => [kind, severity])).toEqual([
      ['picture mismatch', 'blocks handoff'],
      ['stale proxy', 'needs a look'],
    ])
  })

  test('what was gone from a volume before it left is gone, and not away', () => {
    const { findings } = look([event()], [clip({ presence: 'gone', volumeIsHere: false })])
    expect(findings[0]).toMatchObject({
      kind: 'file gone',
      message: expect.stringContaining('was not on volume “A001” any more when that was last here'),
    })
  })

  test('nothing wrong finds nothing', () => {
    expect(look([event()], [clip()]).findings).toEqual([])
  })
})

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
