import { describe, expect, test } from '@jest/globals'
import { orderOfWork } from '../mend/index.ts'
import { type Aspect, compareTwin, type EvidenceRow } from '../pairing/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { clip, event, look, made } from '../testing/trouble.ts'
import { rate } from '../time/index.ts'
import type { Sighting } from './finding.ts'
import type { FindingClip } from './index.ts'

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
    // Where it lies is told by its volume, not by where that stood on this system.
    expect(findings[0]?.evidence.map(({ expected }) => expected)).toContain('A001C001.mov on “A001”')
  })

  test('a volume that is in and says nothing is not to be put in, but to be seen to', () => {
    const [finding] = look([event()], [clip({ presence: 'away', volumeHangs: true })]).findings
    expect(finding).toMatchObject({ kind: 'volume away', severity: 'blocks handoff', volumeHangs: true })
    expect(finding?.message).toContain('“A001”, which does not answer: its share or disk hangs. ')
    expect(finding?.message).toMatch(/ See to its cable, network or server; event 001 needs it\.$/)
    expect(orderOfWork(finding ? [finding] : [], new Set())).toMatchObject([{ kind: 'see to', volumeLabel: 'A001' }])
  })

  test('where a copy of what is away is here, that is told first', () => {
    const copyHere = { path: 'A001/A001C001.mov', volumeLabel: 'R-2' }
    const [finding] = look([event()], [clip({ presence: 'away', copyHere })]).findings
    expect(finding).toMatchObject({ kind: 'volume away', severity: 'blocks handoff', mends: ['repoint'] })
    expect(finding?.message).toMatch(/The same content is here, at A001\/A001C001.mov on “R-2”: repoint to that/)
    expect(finding?.evidence).toContainEqual(expect.objectContaining({ aspect: 'content', agrees: true }))
  })

  test.each([
    ['moved', [{ path: '/bay/x.mov', volumeLabel: 'TIDE-1', isRemovable: false, sameContent: true }]],
    ['name elsewhere', [{ path: '/bay/x.mov', volumeLabel: 'TIDE-1', isRemovable: false, sameContent: false }]],
    ['file gone', []],
  ] as const)('%s', (kind, sightings) => {
    const lost = clip({ presence: 'gone', lostFiles: [{ path: '/bay/A001/A001C001.mov', sightings: [...sightings] }] })
    expect(look([event()], [lost]).findings[0]).toMatchObject({ kind, severity: 'blocks handoff', mends: ['repoint'] })
  })

  test('a lost original whose content is on a card alone is offloaded from there', () => {
    const onCard = { path: '/cards/A001/x.mov', volumeLabel: 'A001', isRemovable: true, sameContent: true }
    const lost = (...sightings: Sighting[]) =>
      look([event()], [clip({ presence: 'gone', lostFiles: [{ path: '/bay/x.mov', sightings }] })]).findings[0]
    expect(lost(onCard)).toMatchObject({ kind: 'moved', volumeLabel: 'A001', mends: ['repoint', 'offload'] })
    expect(lost(onCard)?.message).toContain('on “A001”, from where it can be offloaded')
    expect(lost(onCard, { ...onCard, volumeLabel: 'TIDE-1', isRemovable: false })?.mends).toEqual(['repoint'])
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
              nameToday: null,
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
    expect(changed('ab')).toMatchObject({
      kind: 'original changed',
      severity: 'blocks handoff',
      mends: ['repoint', 'accept redelivery'],
    })
    expect(changed('ab')?.key).not.toBe(changed('cd')?.key)
    // What was cut off while it was delivered is not to be accepted for it.
    const cutOff = { damage: 'cut off', changedFiles: [{ path: '/bay/A001/A001C001.mov', fingerprint: 'ab' }] }
    expect(find(cutOff).map(({ kind, mends }) => [kind, mends])).toEqual([
      ['original damaged', ['repoint']],
      ['original changed', ['repoint']],
    ])
  })

  test('files that are no one clip any more block, and nothing is offered that would only hide it', () => {
    const notOneClip = 'A_002.mov begins at 10:00:00:00, where A_001.mov ends at 10:00:01:00'
    const [finding, ...further] = look([event()], [clip({ notOneClip })]).findings
    expect(finding).toMatchObject({ kind: 'parts mismatch', severity: 'blocks handoff', mends: [] })
    expect(finding?.message).toContain(notOneClip)
    expect(further).toEqual([])
  })

  test('a decision on a shortfall is one on that shortfall', () => {
    const key = (frames: number) => look([event({ start: '10:00:03:20', frames })], [clip()]).findings[0]?.key
    expect(key(6)).not.toBe(key(9))
  })

  test('a sync of something else blocks where it is heard; a decision is one on what is there now', () => {
    const find = (kind: 'sound' | 'picture', mark: string) =>
      look([event({ kind, track: 'A1' })], [clip({ syncChange: { why: 'Its recording is another.', mark } })]).findings
    const [heard] = find('sound', 'b')
    expect(heard).toMatchObject({ kind: 'stale sync', severity: 'blocks handoff' })
    expect(heard?.message).toBe('A001C001.mov carries event 001. Its recording is another.')
    expect(find('picture', 'b')[0]).toMatchObject({ kind: 'stale sync', severity: 'needs a look' })
    expect(find('sound', 'c')[0]?.key).not.toBe(heard?.key)
  })

  test('a decision on a mismatch is one on that mismatch, and the worst that differs is what it is about', () => {
    const row = (aspect: Aspect, found: string) => ({
      ...{ aspect, expected: '100 frames', found, agrees: false, difference: null },
    })
    const find = (...comparison: EvidenceRow[]) => {
      const item = {
        ...made,
        id: 'p',
        name: 'p.mov',
        verdict: 'mismatched' as const,
        comparison,
        originalChanged: false,
      }
      const rest = { soundChange: null, isCuredByCopy: false, nameToday: null }
      return look([event()], [clip({ pairs: [{ ...item, ...rest }] })]).findings
    }
    const short = find(row('length', '99 frames'))
    expect(short[0]?.key).not.toBe(find(row('length', '60 frames'))[0]?.key)
    expect(short[0]?.key).toBe(find(row('length', '99 frames'))[0]?.key)
    const both = find(row('sound length', '98 frames'), row('length', '99 frames'))
    expect(both).toMatchObject([{ kind: 'length mismatch', severity: 'blocks handoff' }])
    expect(both[0]?.message).toContain('differs from its original A001C001.mov in length: 99 frames')
    expect(both[0]?.key).not.toBe(short[0]?.key)
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
      nameToday: null,
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
