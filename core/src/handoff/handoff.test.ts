import { describe, expect, test } from '@jest/globals'
import { type Cut, edl, otio, type ResolvableClip, resolveEvents, writeProven, xmeml } from '../cut/index.ts'
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
const production = { width: 1920, height: 1080 }
const conformed = conformCut(cut, resolutions, new Map([[clip.id, clip]]), { name: cut.name, production })

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

  test('a use after midnight of a clip that runs across it leaves under the label that it has, in every format', () => {
    const night = { ...clip, facts: pictureFacts({ start: '23:59:50:00', frames: 500 }) }
    const asked = edl.read(
      `TITLE: Night
001  A001 V C 00:00:02:00 00:00:03:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
`,
      { rate: rate(25), fileName: 'night.edl' },
    )
    const landed = resolveEvents(asked.events, {
      ...{ clips: [night], mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: rate(25) },
    })
    expect(landed[0]?.state).toBe('on original')
    const out = conformCut(asked, landed, new Map([[night.id, night]]), { name: asked.name, production })
    expect(writeProven(out, edl)).toContain('00:00:02:00 00:00:03:00 01:00:00:00 01:00:01:00')
    // What counts from the start of the medium says the twelfth second of it.
    for (const format of [otio, xmeml]) {
      const [event] = format.read(writeProven(out, format), { rate: rate(25), fileName: 'night' }).events
      const from = (event?.source.startFrame ?? 0) - (event?.mediumStartFrame ?? 0)
      expect([format.name, from]).toEqual([format.name, 300])
    }
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
    const leaving = edl.write(conformCut(asked, landed, new Map([[original.id, original]]), { name: 'x', production }))
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
  pairIds: [],
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
    // What nobody has decided upon is not hidden behind what somebody has.
    const other = finding('b', 'only on a card', 'needs a look')
    const both = preflight([blocking, other], [{ findingKey: 'a', reason: 'x', decidedAt: '' }])
    expect(both.checks.find((check) => check.id === 'here')).toMatchObject({
      result: 'needs a look',
      answer: '1 finding to look at, 1 finding left open by decision; the handoff may go on.',
      kinds: [blocking.kind, 'only on a card'],
    })
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
    losses: [],
    replaced: [],
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
  const { events } = conformCut(asked, resolveEvents(asked.events, context), new Map([[take.id, take]]), {
    name: 'x',
    production,
  })
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

test('a take over several files at another rate than its list leaves with the file that holds the use', () => {
  const parts = [
    { path: '/bay/A001/LONG_001.mov', range: { startFrame: 1_800_000, endFrame: 1_800_060 } },
    { path: '/bay/A001/LONG_002.mov', range: { startFrame: 1_800_060, endFrame: 1_800_200 } },
  ]
  const facts = pictureFacts({ rate: rate(50), start: '10:00:00:00', frames: 200 })
  const take = { ...clip, name: 'LONG_001.mov', facts, parts, originalPaths: parts.map(({ path }) => path) }
  const asked: Cut = edl.read(
    `TITLE: Fast take
001  A001 V C 10:00:01:05 10:00:01:10 01:00:00:00 01:00:00:05
* FROM CLIP NAME: LONG_001.mov
002  A001 V C 10:00:01:03 10:00:01:08 01:00:00:05 01:00:00:10
* FROM CLIP NAME: LONG_001.mov
`,
    { rate: rate(25), fileName: 'x.edl' },
  )
  const context = { clips: [take], mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: rate(25) }
  const { events } = conformCut(asked, resolveEvents(asked.events, context), new Map([[take.id, take]]), {
    name: 'x',
    production,
  })
  const [second, over] = events
  expect(second).toMatchObject({ path: '/bay/A001/LONG_002.mov', clipName: 'LONG_002.mov' })
  // At 25 it lies from frame 30 to frame 100 behind the label at which the take begins.
  expect(second?.medium?.frames).toEqual({ startFrame: 900_030, endFrame: 900_100 })
  expect([over?.clipName, over?.notes.filter((note) => note.startsWith('* GOES ON'))]).toEqual([
    'LONG_001.mov',
    ['* GOES ON IN: LONG_002.mov'],
  ])
})

test('a use that runs backwards is held by what it shows, not by what would lie behind its first picture', () => {
  const parts = [
    { path: '/bay/A001/LONG_001.mov', range: { startFrame: 900_000, endFrame: 900_030 } },
    { path: '/bay/A001/LONG_002.mov', range: { startFrame: 900_030, endFrame: 900_100 } },
  ]
  const take = { ...clip, name: 'LONG_001.mov', parts, originalPaths: parts.map(({ path }) => path) }
  const asked: Cut = edl.read(
    `TITLE: Backwards
001  A001 V C 10:00:01:02 10:00:01:12 01:00:00:00 01:00:00:10
M2   A001 -025.0 10:00:01:02
* FROM CLIP NAME: LONG_001.mov
002  A001 V C 10:00:01:09 10:00:01:19 01:00:00:10 01:00:00:20
M2   A001 -025.0 10:00:01:09
* FROM CLIP NAME: LONG_001.mov
`,
    { rate: rate(25), fileName: 'x.edl' },
  )
  const context = { clips: [take], mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: rate(25) }
  const resolved = resolveEvents(asked.events, context)
  expect(resolved.map(({ needed }) => needed)).toEqual([
    { startFrame: 900_018, endFrame: 900_028 },
    { startFrame: 900_025, endFrame: 900_035 },
  ])
  const { events } = conformCut(asked, resolved, new Map([[take.id, take]]), { name: 'x', production })
  expect(
    events.map(({ clipName, notes }) => [clipName, ...notes.filter((note) => note.startsWith('* GOES ON'))]),
  ).toEqual([['LONG_001.mov'], ['LONG_002.mov', '* GOES ON IN: LONG_001.mov']])
})

test('what a list carries of its own stays, unless it speaks of the proxy by name or place', () => {
  const carrying = (parts: Record<string, unknown>, change: object) => ({
    ...cut,
    events: cut.events.map((event) => ({ ...event, ...change, carried: { format: 'otio' as const, parts } })),
  })
  const parts = {
    metadata: { desk: { node: 7 } },
    effects: [{ from: 'file:///made/A001C001_proxy.mov' }],
    markers: [{ note: 'see /proxies/A001C001.mov' }],
    ofMedia: { codec: 'h264' },
  }
  const kept = (change: object) =>
    Object.keys(
      conformCut(carrying(parts, change), resolutions, new Map([[clip.id, clip]]), { name: 'x', production }).events[0]
        ?.carried?.parts ?? {},
    )
  expect(kept({})).toEqual(['metadata', 'markers'])
  expect(kept({ path: '/proxies/A001C001.mov', clipName: 'A001C001.mov' })).toEqual(['metadata', 'effects'])
})

describe('raster and scale', () => {
  const proxied = (change: object) => ({
    ...cut,
    raster: { width: 960, height: 540 },
    events: cut.events.map((event) => ({ ...event, ...change })),
  })
  const medium = { frames: { startFrame: 0, endFrame: 1 }, width: 480, height: 270, soundChannels: 0 }
  const conform = (change: object) =>
    conformCut(proxied(change), resolutions, new Map([[clip.id, clip]]), { name: 'x', production })

  test('what the size of the proxy had added goes, the editor’s own part stays', () => {
    // 480 × 270 needs 200 % to fill 960 × 540: of 220 % the editor did 110. The original fills the production as it is.
    const conformed = conform({ medium, fit: { scalePercent: 220, offset: { horizontal: 0.1, vertical: 0 } } })
    expect(conformed.raster).toEqual(production)
    expect(conformed.events[0]?.fit).toEqual({ scalePercent: 110, offset: { horizontal: 0.1, vertical: 0 } })
    expect(conform({ medium, fit: { scalePercent: 200, offset: null } }).events[0]?.fit).toBeUndefined()
  })

  test('a scale of which nobody knows what it is a scale of is left, and the raster with it', () => {
    const conformed = conform({ fit: { scalePercent: 220, offset: null } })
    expect([conformed.raster, conformed.events[0]?.fit?.scalePercent]).toEqual([{ width: 960, height: 540 }, 220])
  })

  test('of a take over several files each lies where its own part does', () => {
    const parts = [
      { path: '/bay/1.mov', range: { startFrame: 900_000, endFrame: 900_030 } },
      { path: '/bay/2.mov', range: { startFrame: 900_030, endFrame: 900_100 } },
    ]
    const spanned = { ...clip, parts }
    const inSecond = cut.events.map((event) => ({ ...event, source: { startFrame: 900_040, endFrame: 900_065 } }))
    const landed = resolveEvents(inSecond, {
      ...{
        clips: [spanned],
        mappings: [],
        suffixes: ['_proxy'],
        unreadable: [],
        chosen: new Map(),
        recordRate: rate(25),
      },
    })
    const conformed = conformCut({ ...cut, events: inSecond }, landed, new Map([[clip.id, spanned]]), {
      name: 'x',
      production,
    })
    expect(conformed.events[0]).toMatchObject({ path: '/bay/2.mov', medium: { frames: parts[1]?.range } })
  })
})
