import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { conformCut } from '../handoff/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { clip as original } from '../testing/trouble.ts'
import { formatTimecode, rate } from '../time/index.ts'
import {
  type CutEvent,
  neededRanges,
  normalSpeed,
  type ResolvableClip,
  resolveEvents,
  type Transition,
} from './index.ts'

const event = (start: number, length: number, change: Partial<CutEvent> = {}): CutEvent => ({
  number: '001',
  track: 'V1',
  kind: 'picture',
  clipName: null,
  reel: null,
  path: null,
  source: { startFrame: start, endFrame: start + length },
  sourceRate: rate(25),
  mediumStartFrame: null,
  record: { startFrame: 0, endFrame: length },
  transition: null,
  speed: normalSpeed,
  notes: [],
  location: '',
  ...change,
})

const clip = (id: string, start: number, frames: number, change: Partial<ResolvableClip> = {}): ResolvableClip =>
  original({
    ...{ id, name: `${id}.mov`, originalPaths: [`/bay/${id}.mov`] },
    facts: pictureFacts({ start: formatTimecode(start, rate(25)), frames }),
    ...change,
  })

const resolve = (events: CutEvent[], clips: ResolvableClip[]) =>
  resolveEvents(events, {
    clips,
    mappings: [],
    suffixes: ['_proxy'],
    unreadable: [],
    chosen: new Map(),
    recordRate: rate(25),
  })

describe('what an event needs of its source', () => {
  const dissolve = (durationFrames: number): Transition => ({ kind: 'dissolve', wipeCode: null, durationFrames })

  test('what it shows', () => {
    expect(neededRanges([event(100, 50)], rate(25))).toEqual([{ startFrame: 100, endFrame: 150 }])
  })

  test('what it lends to the transition after it, on its own track alone', () => {
    const first = event(100, 50)
    const other = event(500, 50, { track: 'V2' })
    const second = event(300, 25, { record: { startFrame: 50, endFrame: 75 }, transition: dissolve(12) })
    expect(neededRanges([first, other, second], rate(25))).toEqual([
      { startFrame: 100, endFrame: 162 },
      { startFrame: 500, endFrame: 550 },
      { startFrame: 300, endFrame: 325 },
    ])
  })

  test('nothing more when a gap lies before the transition', () => {
    const second = event(300, 25, { record: { startFrame: 60, endFrame: 85 }, transition: dissolve(12) })
    expect(neededRanges([event(100, 50), second], rate(25))[0]).toEqual({ startFrame: 100, endFrame: 150 })
  })

  test.each([
    // 50 record frames at 25 are two seconds: at 200 % four seconds of the medium, 200 of its frames at 50.
    ['a medium of 50 frames a second at double speed', rate(50), { numerator: 2, denominator: 1 }, 200],
    ['a medium of 50 frames a second at half speed', rate(50), { numerator: 1, denominator: 2 }, 50],
    ['a medium of 24 frames a second at double speed', rate(24), { numerator: 2, denominator: 1 }, 96],
    ['a medium of 23.976 frames a second at half speed', rate(24000, 1001), { numerator: 1, denominator: 2 }, 24],
  ])('of %s', (_, sourceRate, speed, frames) => {
    expect(neededRanges([event(100, 50, { speed, sourceRate })], rate(25))).toEqual([
      { startFrame: 100, endFrame: 100 + frames },
    ])
  })

  test.each([
    ['double', { numerator: 2, denominator: 1 }, 100, 200],
    ['half', { numerator: 1, denominator: 2 }, 100, 125],
    ['held', { numerator: 0, denominator: 1 }, 100, 101],
    ['backwards', { numerator: -1, denominator: 1 }, 51, 101],
    ['a third, rounded up to whole frames', { numerator: 1, denominator: 3 }, 100, 117],
  ])('at %s speed', (_, speed, startFrame, endFrame) => {
    expect(neededRanges([event(100, 50, { speed })], rate(25))).toEqual([{ startFrame, endFrame }])
  })
})

describe('landing', () => {
  const clips = fc.uniqueArray(
    fc.record({
      id: fc.stringMatching(/^[A-C][0-9]$/),
      start: fc.nat(1000),
      frames: fc.integer({ min: 1, max: 300 }),
      reel: fc.constantFrom('R1', 'R2', null),
    }),
    { selector: (item) => item.id, maxLength: 8 },
  )
  const events = fc.array(
    fc.record({
      name: fc.option(fc.stringMatching(/^[A-C][0-9]$/), { nil: null }),
      reel: fc.constantFrom('R1', 'R2', null),
      start: fc.nat(1200),
      length: fc.integer({ min: 1, max: 200 }),
    }),
    { maxLength: 8 },
  )

  test('whatever the material: a state for every event, an original exactly when it is not unresolved, and never one of another reel', () => {
    fc.assert(
      fc.property(clips, events, (known, wanted) => {
        const list = known.map((item) => clip(item.id, item.start, item.frames, { reel: item.reel }))
        const resolutions = resolve(
          wanted.map((item) => event(item.start, item.length, { clipName: item.name, reel: item.reel })),
          list,
        )
        expect(resolutions).toHaveLength(wanted.length)
        resolutions.forEach((resolution, position) => {
          expect(resolution.clipId === null).toBe(resolution.state === 'unresolved')
          const found = list.find((item) => item.id === resolution.clipId)
          const asked = wanted[position]?.reel
          if (found?.reel && asked) expect(found.reel).toBe(asked)
          expect(resolution.state === 'short').toBe(resolution.shortfall !== null)
        })
      }),
    )
  })

  test('the order of the clips does not matter', () => {
    fc.assert(
      fc.property(clips, events, (known, wanted) => {
        const list = known.map((item) => clip(item.id, item.start, item.frames, { reel: item.reel }))
        const asked = wanted.map((item) => event(item.start, item.length, { clipName: item.name, reel: item.reel }))
        const ids = (clipsInOrder: ResolvableClip[]) =>
          resolve(asked, clipsInOrder).map((resolution) => resolution.clipId)
        expect(ids([...list].reverse())).toEqual(ids(list))
      }),
    )
  })

  test('a known path wins over a name that says otherwise', () => {
    const [resolution] = resolve(
      [event(10, 20, { clipName: 'B.mov', path: '/BAY/A.MOV' })],
      [clip('A', 0, 100), clip('B', 0, 100)],
    )
    expect(resolution).toMatchObject({ by: 'path', clipId: 'A' })
    expect(resolution?.evidence.find((row) => row.aspect === 'name')).toMatchObject({
      agrees: false,
      difference: 'another name',
    })
  })

  test('two on one reel that both cover the use choose neither, and are named', () => {
    const [resolution] = resolve([event(10, 20, { reel: 'A001' })], [clip('A', 0, 100), clip('B', 5, 100)])
    expect(resolution).toMatchObject({ state: 'unresolved', rivals: ['A', 'B'] })
  })

  test('sound is not taken for a picture, by name, reel or path; a picture with sound is heard', () => {
    const sound = clip('A', 0, 100, { facts: { ...pictureFacts(), kind: 'sound', picture: null } })
    for (const asked of [{ clipName: 'A.mov' }, { reel: 'A001' }, { path: '/bay/A.mov' }]) {
      expect(resolve([event(10, 20, asked)], [sound])[0]?.clipId).toBeNull()
      const picture = clip('B', 0, 100, { name: 'A.mp4', originalPaths: ['/bay/A.mp4'] })
      expect(resolve([event(10, 20, asked)], [sound, picture])[0]?.clipId).toBe('B')
    }
    const heard = { kind: 'sound' as const, clipName: 'A.mov' }
    expect(resolve([event(10, 20, heard)], [clip('A', 0, 100)])[0]?.clipId).toBe('A')
    const mute = clip('A', 0, 100, { facts: pictureFacts({ channels: 0, start: '00:00:00:00' }) })
    expect(resolve([event(10, 20, heard)], [mute])[0]?.clipId).toBeNull()
  })

  test('what is no original is never landed on by itself; a person may choose it, and it stays a proxy', () => {
    const proxy = clip('A', 0, 100, { role: 'proxy', roleReason: 'it is a smaller twin of A.mxf' })
    for (const asked of [{ clipName: 'A.mov' }, { reel: 'A001' }, { path: '/bay/A.mov' }])
      expect(resolve([event(10, 20, asked)], [proxy])[0]).toMatchObject({ state: 'unresolved', rivals: [] })
    expect(resolve([event(10, 20, { clipName: 'A.mov' })], [proxy])[0]?.evidence[0]).toMatchObject({
      aspect: 'role',
      found: 'A.mov is no original: it is a smaller twin of A.mxf',
    })
    const [chosen] = resolveEvents([event(10, 20, { clipName: 'A.mov' })], {
      ...{ clips: [proxy], mappings: [], suffixes: [], unreadable: [] },
      chosen: new Map([[0, 'A']]),
      recordRate: rate(25),
    })
    expect(chosen).toMatchObject({ state: 'on proxy', clipId: 'A', by: 'choice' })
  })

  test('a name of nobody whose reel and timecode fit is a rival, and no landing; without a name it lands', () => {
    expect(resolve([event(10, 20, { clipName: 'INT MILL', reel: 'A001' })], [clip('A', 0, 100)])[0]).toMatchObject({
      state: 'unresolved',
      rivals: ['A'],
    })
    expect(resolve([event(10, 20, { reel: 'A001' })], [clip('A', 0, 100)])[0]).toMatchObject({
      state: 'on original',
      by: 'reel and timecode',
    })
  })

  test('a path that reel or timecode contradict gives way to a clip that agrees in name and reel', () => {
    const old = clip('A', 5000, 100, { reel: 'B009' })
    const agreeing = clip('B', 0, 100, { name: 'A.mov' })
    const asked = event(10, 20, { path: '/bay/A.mov', clipName: 'A.mov', reel: 'A001' })
    expect(resolve([asked], [old, agreeing])[0]).toMatchObject({ clipId: 'B', by: 'name' })
    expect(resolve([asked], [old])[0]).toMatchObject({ clipId: 'A', by: 'path' })
    // One that agrees in less is a rival only.
    const bare = clip('B', 0, 100, { name: 'A.mov', reel: null })
    expect(resolve([asked], [old, bare])[0]).toMatchObject({ state: 'unresolved', rivals: ['A', 'B'] })
  })

  test('a reel that is missing on one side makes no tie with one that agrees', () => {
    const bare = clip('B', 0, 100, { name: 'A.mov', reel: null })
    const away = clip('A', 0, 100, { presence: 'away' })
    expect(resolve([event(10, 20, { clipName: 'A.mov', reel: 'A001' })], [bare, away])[0]).toMatchObject({
      state: 'original away',
      clipId: 'A',
    })
  })

  test('a use wholly past the end, and one that begins on the last frame when only the reel is known, is short', () => {
    expect(resolve([event(300, 20, { clipName: 'A.mov' })], [clip('A', 0, 100)])[0]).toMatchObject({
      state: 'short',
      clipId: 'A',
    })
    expect(resolve([event(80, 21, { reel: 'A001' })], [clip('A', 0, 100)])[0]).toMatchObject({ state: 'short' })
  })

  test('a damaged original keeps its place, and a file that could never be read is told of', () => {
    const damaged = clip('A', 0, 100, { damage: 'damaged from frame 31' })
    expect(resolve([event(10, 20, { clipName: 'A.mov' })], [damaged])[0]?.state).toBe('original damaged')
    const [missed] = resolveEvents([event(10, 20, { clipName: 'A.mov' })], {
      ...{ clips: [], mappings: [], suffixes: [], chosen: new Map(), recordRate: rate(25) },
      unreadable: [{ path: '/bay/A.mov', problem: 'It is cut off.' }],
    })
    expect(missed?.evidence[0]?.found).toBe('/bay/A.mov is damaged: It is cut off.')
  })

  test('names and reels are the same in either Unicode form and any case', () => {
    const nfd = clip('É', 0, 100, { name: 'ÉTANG.mov'.normalize('NFD'), reel: 'CAFÉ'.normalize('NFD') })
    expect(resolve([event(10, 20, { clipName: 'étang.mov', reel: 'café' })], [nfd])[0]).toMatchObject({ by: 'name' })
    expect(resolve([event(10, 20, { reel: 'café' })], [nfd])[0]).toMatchObject({ by: 'reel and timecode' })
  })
})

test('two files whose paths differ in case alone are two: the exact path tells which, and another tells nothing', () => {
  const [upper, lower] = [
    clip('one', 0, 100, { originalPaths: ['/bay/A001.MOV'], name: 'one.mov' }),
    clip('two', 0, 100, { originalPaths: ['/bay/a001.mov'], name: 'two.mov' }),
  ]
  const landing = (path: string) => resolve([event(0, 10, { path })], [upper, lower])[0]
  expect([landing('/bay/A001.MOV')?.clipId, landing('/bay/a001.mov')?.clipId]).toEqual(['one', 'two'])
  expect(landing('/bay/A001.mov')?.by).not.toBe('path')
  expect(resolve([event(0, 10, { path: '/BAY/A001.mov' })], [upper])[0]).toMatchObject({ clipId: 'one', by: 'path' })
})

test('sound between frames is not short by what it does not use', () => {
  const half = { numerator: 1, denominator: 2 }
  const sound = event(0, 11, {
    kind: 'sound',
    track: 'A1',
    clipName: 's.wav',
    soundTimes: {
      sourceStart: half,
      sourceEnd: { numerator: 21, denominator: 2 },
      recordStart: half,
      recordEnd: { numerator: 21, denominator: 2 },
    },
  })
  // 10.6 frames of 25 a second at 48 kHz.
  const recording = (samples: number) =>
    clip('s', 0, 1, { name: 's.wav', reel: null, facts: soundFacts(samples, 0), originalPaths: ['/bay/s.wav'] })
  expect(resolve([sound], [recording(20_352)])[0]).toMatchObject({ state: 'on original', shortfall: null })
  expect(resolve([sound], [recording(19_968)])[0]).toMatchObject({
    state: 'short',
    shortfall: { tailFrames: { numerator: 1n, denominator: 10n } },
  })
})

test('a reversed use that its list counts from zero is put on the original’s timecode, where it is looked for', () => {
  const start = 900_000
  const reversed = event(40, 20, {
    clipName: 'r.mov',
    mediumStartFrame: 0,
    speed: { numerator: -1, denominator: 1 },
  })
  const [landing] = resolve([reversed], [clip('r', start, 100)])
  expect(landing).toMatchObject({ state: 'on original', needed: { startFrame: start + 21, endFrame: start + 41 } })
  const original = clip('r', start, 100)
  const cut = { name: 'x', rate: rate(25), dropFrame: false, tracks: [], events: [reversed] }
  const conformed = conformCut(cut, landing ? [landing] : [], new Map([['r', original]]), {
    name: 'x',
    production: { width: 1920, height: 1080 },
  })
  expect(conformed.events[0]?.source.startFrame).toBe(start + 40)
})

describe('a take over several files', () => {
  const at = (path: string, startFrame: number, frames: number) => ({
    ...{ path, range: { startFrame, endFrame: startFrame + frames } },
  })
  const take = (start: number): ResolvableClip => {
    const parts = [at('/bay/T_1.mov', start, 100), at('/bay/T_2.mov', start + 100, 100)]
    const named = { name: 'T_1.mov', formerNames: ['T_2.mov'], originalPaths: parts.map(({ path }) => path) }
    return clip('T', start, 200, { ...named, parts })
  }
  const needed = (start: number, change: Partial<CutEvent>, source = 10) =>
    resolve([event(source, 20, { mediumStartFrame: 0, ...change })], [take(start)])[0]?.needed.startFrame

  test('is counted from the first frame of the file that the list names, by path, name or proxy', () => {
    expect(needed(90_000, { path: '/bay/T_1.mov' })).toBe(90_010)
    for (const change of [{ path: '/bay/T_2.mov' }, { clipName: 'T_2' }, { clipName: 'T_2_proxy.mov' }])
      expect(needed(90_000, change)).toBe(90_110)
  })

  test('whose second file begins at midnight has its labels there, and no zero of its own', () => {
    const day = 2_160_000
    expect(needed(day - 100, { path: '/bay/T_2.mov' })).toBe(day + 10)
    expect(needed(day - 100, { path: '/bay/T_1.mov' })).toBe(day - 90)
  })
})

test('a list that counts from zero at another rate means the label at which the clip begins', () => {
  // 10:00:00:00 at 50, in a list that counts at 25.
  const fast = clip('F', 0, 0, { facts: pictureFacts({ rate: rate(50), start: '10:00:00:00', frames: 400 }) })
  const at = (change: Partial<CutEvent>, on = fast) =>
    resolve([event(10, 20, { clipName: 'F.mov', mediumStartFrame: 0, ...change })], [on])[0]
  expect(at({})).toMatchObject({ state: 'on original', needed: { startFrame: 900_010, endFrame: 900_030 } })
  const parts = ['/bay/F.mov', '/bay/F_2.mov'].map((path, index) => ({
    ...{ path, range: { startFrame: 1_800_000 + 200 * index, endFrame: 1_800_200 + 200 * index } },
  }))
  const take = { ...fast, formerNames: ['F_2.mov'], originalPaths: parts.map(({ path }) => path), parts }
  expect(at({ clipName: 'F_2.mov' }, take)?.needed).toEqual({ startFrame: 900_110, endFrame: 900_130 })
})

test('a use after midnight lends to its dissolve what lies behind the end: it is short by that, and by no day', () => {
  const next = event(2_159_950, 20, {
    ...{ number: '002', clipName: 'N.mov', record: { startFrame: 20, endFrame: 40 } },
    transition: { kind: 'dissolve', wipeCode: null, durationFrames: 10 },
  })
  const [landed] = resolve([event(35, 20, { clipName: 'N.mov' }), next], [clip('N', 2_159_940, 120)])
  expect([landed?.state, landed?.needed.startFrame]).toEqual(['short', 2_160_035])
  expect(landed?.shortfall).toMatchObject({ tailFrames: { numerator: 5n } })
})

test('numbered stills are known by whatever a list writes for their number, and no other clip is', () => {
  const stills = clip('mist_####', 0, 100, {
    ...{ name: 'mist_####.dpx', formerNames: ['mist'], originalPaths: ['/bay/mist_####.dpx'], firstStill: 41 },
  })
  const all = [stills, clip('mist_0099', 0, 100)]
  const landed = (change: Partial<CutEvent>) => resolve([event(10, 20, change)], all)[0]?.clipId
  for (const number of ['0041', '[0041-0140]', '%04d', '####'])
    for (const change of [
      { clipName: `mist_${number}.dpx` },
      { path: `file:///bay/mist_${encodeURIComponent(number)}.dpx` },
    ])
      expect(landed(change)).toBe('mist_####')
  expect([landed({ clipName: 'mist_0099' }), landed({ clipName: 'fog_0041.dpx' })]).toEqual(['mist_0099', null])
})

test('a list that counts from zero is believed, also of a clip that begins soon after', () => {
  const early = clip('E', 250, 1000)
  const at = (source: number) => {
    const counted = event(source, 20, { clipName: 'E.mov', mediumStartFrame: 0 })
    return resolve([counted], [early])[0]?.needed.startFrame
  }
  expect([at(100), at(300), at(999), at(1100)]).toEqual([350, 550, 1249, 1100])
})

describe('clips of the very same content', () => {
  const twin = (id: string, change: Partial<ResolvableClip> = {}) =>
    clip(id, 0, 250, { name: 'A001C001.mov', reel: 'A001', fingerprint: 'ff', ...change })
  const land = (clips: ResolvableClip[], change: Partial<CutEvent>) => resolve([event(100, 50, change)], clips)[0]

  test.each([{ clipName: 'A001C001.mov' }, { clipName: null, reel: 'A001' }])(
    'are no rivals: the one that is there is it, and then the one with a proxy, in any order: %o',
    (asked) => {
      const [away, bare, with_] = [twin('a', { presence: 'away' }), twin('b'), twin('c', { proxyPlays: true })] as const
      for (const clips of [
        [away, bare],
        [bare, away],
      ])
        expect(land(clips, asked)).toMatchObject({ clipId: 'b', state: 'on original' })
      for (const clips of [
        [away, bare, with_],
        [with_, bare, away],
      ])
        expect(land(clips, asked)).toMatchObject({ clipId: 'c', state: 'on original' })
    },
  )
  test('and one of other content is', () => {
    const other = twin('d', { fingerprint: 'gg' })
    expect(land([twin('a'), twin('b'), other], { clipName: 'A001C001.mov' })?.rivals).toEqual(['a', 'd'])
    const unknown = [twin('a', { fingerprint: null }), twin('b', { fingerprint: null })]
    expect(land(unknown, { clipName: 'A001C001.mov' })?.rivals).toEqual(['a', 'b'])
  })
  test('what lies at a place comes before what lay there once', () => {
    const path = '/bay/A001/A001C001.mov'
    const [gone, here] = [
      twin('a', { presence: 'gone', originalPaths: [path] }),
      twin('b', { fingerprint: 'gg', originalPaths: [path] }),
    ]
    for (const clips of [
      [gone, here],
      [here, gone],
    ])
      expect(land(clips, { path })).toMatchObject({ clipId: 'b', by: 'path' })
  })
})
