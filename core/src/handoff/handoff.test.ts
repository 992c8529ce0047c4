import { describe, expect, test } from '@jest/globals'
import { type Cut, edl, otio, type ResolvableClip, resolveEvents } from '../cut/index.ts'
import type { Finding } from '../findings/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { conformCut, handoffReport, preflight } from './index.ts'

const clip: ResolvableClip = {
  id: 'clip',
  name: 'A001C001.mov',
  formerNames: [],
  reel: 'A001',
  facts: pictureFacts(),
  presence: 'here',
  originalPaths: ['/bay/A001/A001C001.mov'],
  madePaths: ['/made/A001C001_proxy.mov'],
  parts: [],
  proxyPlays: true,
  role: 'original',
  roleReason: null,
  damage: null,
}
const list = `TITLE: <Reel> & "one"
001  AX V C 10:00:01:00 10:00:02:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001_proxy.mov
* SOURCE FILE: /made/A001C001_proxy.mov
002  X9 V C 05:00:01:00 05:00:02:00 01:00:01:00 01:00:02:00
* SOURCE FILE: /made/unknown_proxy.mov
`
const cut: Cut = edl.read(list, { rate: rate(25), fileName: 'x.edl' })
const resolutions = resolveEvents(cut.events, {
  clips: [clip],
  mappings: [],
  suffixes: ['_proxy'],
  unreadable: [],
  chosen: new Map(),
  recordRate: rate(25),
})
const conformed = conformCut(cut, resolutions, new Map([[clip.id, clip]]), cut.name)

describe('the cut on its originals', () => {
  test('names, reels and paths are the originals’', () => {
    expect(conformed.events[0]).toMatchObject({
      clipName: 'A001C001.mov',
      reel: 'A001',
      path: '/bay/A001/A001C001.mov',
      source: cut.events[0]?.source,
      record: cut.events[0]?.record,
    })
  })

  test('nothing that leaves ever points at a proxy, in any format', () => {
    for (const text of [edl.write(conformed), otio.write(conformed)]) expect(text).not.toContain('proxy')
  })

  test('a non-drop original leaves a drop-frame list under its own labels', () => {
    const ntsc = rate(30000, 1001)
    const original = { ...clip, facts: pictureFacts({ rate: ntsc, frames: 300 }) }
    const asked = edl.read(
      'FCM: DROP FRAME\n001  A001 V C 10:00:01:00 10:00:02:00 01:00:00;00 01:00:01;00\n* FROM CLIP NAME: A001C001.mov',
      { rate: ntsc, fileName: 'x.edl' },
    )
    const context = {
      clips: [original],
      mappings: [],
      suffixes: [],
      unreadable: [],
      chosen: new Map(),
      recordRate: rate(25),
    }
    const landed = resolveEvents(asked.events, context)
    expect(landed[0]?.state).toBe('on original')
    const leaving = edl.write(conformCut(asked, landed, new Map([[original.id, original]]), 'x'))
    expect(leaving).toContain('10:00:01:00 10:00:02:00 01:00:00;00 01:00:01;00')
  })

  test('an event without an original goes out without a path, and says so', () => {
    expect(conformed.events[1]).toMatchObject({ path: null, reel: 'X9', notes: ['* OPEN: NO ORIGINAL'] })
  })
})

const finding = (key: string, kind: Finding['kind'], severity: Finding['severity']): Finding => ({
  key,
  kind,
  severity,
  message: `<b>${key}</b>`,
  clipId: null,
  pairId: null,
  events: [0],
  evidence: [],
  mends: [],
})

describe('preflight', () => {
  const blocking = finding('a', 'volume away', 'blocks handoff')
  const looking = finding('b', 'reel mismatch', 'needs a look')

  test('is ready when nothing blocks, and says what to look at', () => {
    expect(preflight([looking], [])).toMatchObject({ ready: true })
    expect(preflight([looking], []).checks.find((check) => check.id === 'twins')?.result).toBe('needs a look')
  })

  test('a blocking finding needs a decision, and only its own', () => {
    expect(preflight([blocking], []).ready).toBe(false)
    expect(preflight([blocking], [{ findingKey: 'other', reason: 'x', decidedAt: '' }]).ready).toBe(false)
    const decided = preflight([blocking, looking], [{ findingKey: 'a', reason: 'x', decidedAt: '' }])
    expect(decided.ready).toBe(true)
    expect(decided.checks.find((check) => check.id === 'here')?.result).toBe('decided')
  })
})

test('the report names every event, its original, what is open and why, and escapes what it was given', () => {
  const open = finding('a', 'unresolved', 'blocks handoff')
  const decisions = [{ findingKey: 'a', reason: 'Pickup comes on Friday', decidedAt: '2026-11-25' }]
  const html = handoffReport({
    production: 'Low Water',
    cut,
    resolutions,
    clips: new Map([[clip.id, { ...clip, volumeLabel: 'A001' }]]),
    findings: [open],
    decisions,
    preflight: preflight([open], decisions),
    mends: [{ at: '2026-11-25', title: 'Repoint 1 original', undone: false }],
    files: [{ name: 'x.edl', bytes: 10, xxh64: 'ab' }],
    leftOut: [{ name: 'EDL', reason: 'two rates' }],
    handedOffAt: '2026-11-25',
  })
  for (const text of [
    '/bay/A001/A001C001.mov',
    '10:00:01:00',
    'Pickup comes on Friday',
    'Repoint 1 original',
    'two rates',
    'none (/made/unknown_proxy.mov)',
  ])
    expect(html).toContain(text)
  expect(html).not.toContain('<b>a</b>')
  expect(html).not.toContain('<Reel>')
})

test('of a take over several files a use is handed off with the one that holds it, and says where it goes on', () => {
  const parts = [
    { path: '/bay/A001/LONG_001.mov', range: { startFrame: 900_000, endFrame: 900_030 } },
    { path: '/bay/A001/LONG_002.mov', range: { startFrame: 900_030, endFrame: 900_100 } },
  ]
  const take = { ...clip, name: 'LONG_001.mov', parts, originalPaths: parts.map(({ path }) => path) }
  const asked: Cut = edl.read(
    `TITLE: Long take
001  A001 V C 10:00:00:05 10:00:00:10 01:00:00:00 01:00:00:05
* FROM CLIP NAME: LONG_001.mov
002  A001 V C 10:00:02:00 10:00:02:05 01:00:00:05 01:00:00:10
* FROM CLIP NAME: LONG_001.mov
003  A001 V C 10:00:01:03 10:00:01:08 01:00:00:10 01:00:00:15
* FROM CLIP NAME: LONG_001.mov
`,
    { rate: rate(25), fileName: 'x.edl' },
  )
  const context = { clips: [take], mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: rate(25) }
  const { events } = conformCut(asked, resolveEvents(asked.events, context), new Map([[take.id, take]]), 'x')
  expect(events.map(({ path, clipName }) => [path, clipName])).toEqual([
    ['/bay/A001/LONG_001.mov', 'LONG_001.mov'],
    ['/bay/A001/LONG_002.mov', 'LONG_002.mov'],
    ['/bay/A001/LONG_001.mov', 'LONG_001.mov'],
  ])
  expect(events.map(({ notes }) => notes.filter((note) => note.startsWith('* GOES ON')))).toEqual([
    [],
    [],
    ['* GOES ON IN: LONG_002.mov'],
  ])
})
