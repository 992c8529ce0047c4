import { describe, expect, test } from '@jest/globals'
import { type CutEvent, normalSpeed, resolveEvents } from '../cut/index.ts'
import type { GuidelessTrack } from '../sync/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { parseTimecode, rate } from '../time/index.ts'
import { type FindingClip, type FindingKind, findTrouble } from './index.ts'

// A cut of twelve healthy uses of six clips, in which every fault is planted: alone, and with every other.

const start = parseTimecode('10:00:00:00', rate(25))
const production = { rate: rate(25), width: 1920, height: 1080 }

type Pair = FindingClip['pairs'][number]
const healthyPair = (id: string): Pair => ({
  ...{ id: `p ${id}`, name: `${id}_proxy.mov`, kind: 'proxy', recipe: { id: 'half', name: 'Half', version: 3 } },
  ...{
    viewingLut: null,
    verdict: 'proven',
    comparison: null,
    originalChanged: false,
    soundChange: null,
    isCuredByCopy: false,
    nameToday: null,
  },
})

function healthyClip(index: number): FindingClip {
  const name = `A00${index}C001.mov`
  return {
    ...{ id: name, name, formerNames: [name], reel: `A00${index}`, facts: pictureFacts({ reel: `A00${index}` }) },
    ...{ presence: 'here', originalPaths: [`/bay/A00${index}/${name}`], madePaths: [], parts: [], proxyPlays: true },
    ...{ role: 'original', roleReason: null, damage: null, volumeLabel: `A00${index}`, fingerprint: `f${index}` },
    volumeRoot: '/bay',
    volumeHangs: false,
    ...{
      soundLink: null,
      syncChange: null,
      soundUse: null,
      guidelessTracks: [],
      volumeIsHere: true,
      changedFiles: [],
      notOneClip: null,
      notices: [],
      lostFiles: [],
      pairs: [healthyPair(name)],
    },
  }
}

function healthyEvent(index: number): CutEvent {
  const clip = (index % 6) + 1
  const from = start + 20 + index
  return {
    ...{ number: String(index + 1).padStart(3, '0'), track: 'V1', kind: 'picture', path: null, location: '' },
    ...{ clipName: `A00${clip}C001.mov`, reel: `A00${clip}`, mediumStartFrame: null, transition: null, notes: [] },
    ...{ source: { startFrame: from, endFrame: from + 25 }, sourceRate: rate(25), speed: normalSpeed },
    record: { startFrame: index * 25, endFrame: index * 25 + 25 },
  }
}

const tracksThatHold = (...holds: GuidelessTrack['holds'][]): GuidelessTrack[] =>
  holds.map((each, index) => ({ track: index + 1, holds: each }))

interface Planted {
  clips: FindingClip[]
  events: CutEvent[]
  raster?: { width: number; height: number }
}

const mismatch =
  (aspect: 'length' | 'timecode' | 'reel' | 'channels' | 'shape' | 'rate' | 'pictures') => (pair: Pair) => ({
    ...pair,
    verdict: 'mismatched' as const,
    comparison: [{ aspect, expected: 'as the original', found: 'otherwise', agrees: false, difference: null }],
  })

/** Every fault: what it does to the clip that uses 001 and 007 rest on, and what must be found, and nothing else. */
const faults: Record<
  string,
  { plant: (cut: Planted, clip: FindingClip) => Partial<FindingClip> | null; finds: FindingKind[] }
> = {
  'its volume away': { plant: () => ({ presence: 'away', proxyPlays: false }), finds: ['volume away'] },
  'the file gone': { plant: () => ({ presence: 'gone', proxyPlays: false }), finds: ['file gone'] },
  'the file gone while the proxy plays': {
    plant: () => ({ presence: 'gone' }),
    finds: ['file gone', 'proxy plays, original lost'],
  },
  moved: {
    plant: (_, { originalPaths }) => ({
      ...{ presence: 'gone', proxyPlays: false },
      lostFiles: [
        {
          path: originalPaths[0] as string,
          sightings: [{ path: 'x/y.mov', volumeLabel: 'shelf', isRemovable: false, sameContent: true }],
        },
      ],
    }),
    finds: ['moved'],
  },
  'damaged content': { plant: () => ({ damage: 'damaged from frame 12' }), finds: ['original damaged'] },
  'content replaced': {
    plant: (_, { originalPaths }) => ({ changedFiles: [{ path: originalPaths[0] as string, fingerprint: 'zz' }] }),
    finds: ['original changed'],
  },
  'a short original': {
    plant: () => ({ facts: pictureFacts({ reel: 'A001', frames: 40 }) }),
    finds: ['too short', 'too short'],
  },
  'only on a card': {
    plant: () => ({ notices: [{ kind: 'only on a card', message: 'only there' }] }),
    finds: ['only on a card'],
  },
  'a file that says another reel by now': {
    plant: () => ({ notices: [{ kind: 'reel mismatch', message: 'another reel' }] }),
    finds: ['reel mismatch'],
  },
  'a gap in stills': {
    plant: () => ({ notices: [{ kind: 'gap in stills', message: 'a gap' }] }),
    finds: ['gap in stills'],
  },
  'a proxy of another length': {
    plant: (_, { pairs }) => ({ pairs: pairs.map(mismatch('length')) }),
    finds: ['length mismatch'],
  },
  'a proxy of another timecode': {
    plant: (_, { pairs }) => ({ pairs: pairs.map(mismatch('timecode')) }),
    finds: ['timecode mismatch'],
  },
  'a proxy of another reel': {
    plant: (_, { pairs }) => ({ pairs: pairs.map(mismatch('reel')) }),
    finds: ['reel mismatch'],
  },
  'a proxy of other channels': {
    plant: (_, { pairs }) => ({ pairs: pairs.map(mismatch('channels')) }),
    finds: ['channels mismatch'],
  },
  'a proxy of another shape': {
    plant: (_, { pairs }) => ({ pairs: pairs.map(mismatch('shape')) }),
    finds: ['shape mismatch'],
  },
  'a proxy of other pictures': {
    plant: (_, { pairs }) => ({ pairs: pairs.map(mismatch('pictures')) }),
    finds: ['picture mismatch'],
  },
  'a stale proxy': {
    plant: (_, { pairs }) => ({ pairs: pairs.map((pair) => ({ ...pair, originalChanged: true })) }),
    finds: ['stale proxy'],
  },
  'a proxy with its recording as it was synced before': {
    plant: (_, { pairs }) => ({ pairs: pairs.map((pair) => ({ ...pair, soundChange: 'It was synced anew.' })) }),
    finds: ['stale proxy'],
  },
  'a proxy of an older version of its recipe': {
    plant: (_, { pairs }) => ({
      pairs: pairs.map((pair) => ({ ...pair, recipe: { id: 'half', name: 'Half', version: 2 } })),
    }),
    finds: ['mixed recipes'],
  },
  'a proxy of the name before': {
    plant: (_, { pairs }) => ({ pairs: pairs.map((pair) => ({ ...pair, nameToday: 'B_proxy.mov' })) }),
    finds: ['old proxy name'],
  },
  'a guide without sound': {
    plant: (_, { facts }) => ({ soundUse: 'guide', facts: { ...facts, sound: [] } }),
    finds: ['no guide'],
  },
  'a silent guide': {
    plant: () => ({ soundUse: 'guide', guidelessTracks: tracksThatHold('silence', 'silence') }),
    finds: ['no guide'],
  },
  'music for a guide': {
    plant: () => ({ soundUse: 'guide', guidelessTracks: tracksThatHold('music', 'a steady sound') }),
    finds: ['no guide'],
  },
  'a LUT burnt in': {
    plant: (_, { pairs }) => ({ pairs: pairs.map((pair) => ({ ...pair, viewingLut: 'Estuary' })) }),
    finds: ['look differs'],
  },
  'another original of its name': {
    plant: ({ clips }, clip) => {
      clips.push({
        ...clip,
        id: 'other',
        reel: 'Z009',
        fingerprint: 'other',
        pairs: [],
        originalPaths: ['/z/other.mov'],
      })
      return {}
    },
    finds: ['equal names'],
  },
  'the same file twice': {
    plant: ({ clips }, clip) => {
      clips.push({ ...clip, id: 'twice', reel: 'Z009', pairs: [], originalPaths: ['/z/twice.mov'] })
      return {}
    },
    finds: ['duplicate'],
  },
  'a rival': {
    plant: ({ clips }, clip) => {
      clips.push({ ...clip, id: 'rival', fingerprint: 'rival', pairs: [], originalPaths: ['/z/rival.mov'] })
      return {}
    },
    finds: ['ambiguous'],
  },
  'a later version of a shot': {
    plant: ({ clips }, clip) => {
      const path = (name: string) => ({ name, originalPaths: [`/plates/${name}`], formerNames: [clip.name] })
      clips.push({
        ...clip,
        ...path('SH_v2.mov'),
        id: 'v2',
        reel: 'Z009',
        pairs: [],
        fingerprint: 'v2',
        formerNames: [],
      })
      return path('SH_v1.mov')
    },
    finds: ['newer version'],
  },
  'not known at all': {
    plant: () => null,
    finds: ['unresolved'],
  },
  'a cut in the raster of its proxies': {
    plant: (cut) => {
      cut.raster = { width: 960, height: 540 }
      return {}
    },
    finds: ['raster mismatch'],
  },
}

function find(names: readonly string[], places: readonly number[]) {
  const cut: Planted = {
    clips: [1, 2, 3, 4, 5, 6].map(healthyClip),
    events: Array.from({ length: 12 }, (_, index) => healthyEvent(index)),
  }
  names.forEach((name, order) => {
    const place = places[order] as number
    const clip = cut.clips[place] as FindingClip
    const change = faults[name]?.plant(cut, clip)
    cut.clips[place] = change ? { ...clip, ...change } : { ...clip, name: 'Q.mov', formerNames: [], reel: 'Q' }
  })
  const { clips, events } = cut
  const resolutions = resolveEvents(events, {
    ...{ clips, mappings: [], suffixes: ['_proxy'], unreadable: [], chosen: new Map(), recordRate: rate(25) },
  })
  return findTrouble({
    ...{ rate: rate(25), dropFrame: false, events, resolutions, clips: new Map(clips.map((clip) => [clip.id, clip])) },
    ...{ production, raster: cut.raster },
  })
}
const kindsOf = (list: readonly { kind: FindingKind }[]): FindingKind[] => list.map(({ kind }) => kind).sort()

describe('every fault is found, and nothing that is not there', () => {
  test('a healthy cut has none', () => expect(find([], [])).toEqual([]))

  test.each(Object.keys(faults))('%s, alone', (name) => {
    const findings = find([name], [0])
    expect(kindsOf(findings)).toEqual([...(faults[name]?.finds ?? [])].sort())
    for (const { events } of findings.filter(({ kind }) => kind !== 'raster mismatch'))
      expect(events.every((position) => position % 6 === 0)).toBe(true)
  })

  test('every two of them, on two clips of one cut', () => {
    const names = Object.keys(faults)
    for (const first of names)
      for (const second of names) {
        if (first === second) continue
        const wanted = [...(faults[first]?.finds ?? []), ...(faults[second]?.finds ?? [])].sort()
        expect([first, second, kindsOf(find([first, second], [0, 1]))]).toEqual([first, second, wanted])
      }
  })

  test('two on one clip: what its proxies are like is told beside what became of the original', () => {
    const ofOriginal = ['its volume away', 'the file gone', 'damaged content', 'content replaced', 'a short original']
    const ofProxy = Object.keys(faults).filter((name) => name.includes('proxy of') || name === 'a LUT burnt in')
    for (const first of ofOriginal)
      for (const second of ofProxy) {
        const wanted = [...(faults[first]?.finds ?? []), ...(faults[second]?.finds ?? [])].sort()
        expect([first, second, kindsOf(find([first, second], [0, 0]))]).toEqual([first, second, wanted])
      }
  })

  test('a remark on very many clips has a key as short as one on few', () => {
    const clips = Array.from({ length: 200 }, (_, index): FindingClip => {
      const clip = healthyClip(1)
      const id = `${index}-00000000-0000-4000-8000-000000000000`
      const [pair] = clip.pairs as [Pair]
      const recipe = { id: 'half', name: 'Half', version: 1 + (index % 2) }
      return {
        ...{ ...clip, id, name: 'A.mov', facts: pictureFacts({ rate: rate(50) }), fingerprint: String(index % 150) },
        pairs: [{ ...pair, id: `p${id}`, recipe, viewingLut: 'Estuary', nameToday: 'B_proxy.mov' }],
      }
    })
    const medium = { frames: { startFrame: 0, endFrame: 9 }, width: 480, height: 270, soundChannels: 0 }
    const events = clips.map((_, index) => ({
      ...healthyEvent(index),
      fit: { scalePercent: 400, offset: null },
      medium,
    }))
    const chosen = new Map(clips.map(({ id }, index) => [index, id]))
    const resolutions = resolveEvents(events, {
      ...{ clips, mappings: [], suffixes: [], unreadable: [], chosen, recordRate: rate(25) },
    })
    const findings = findTrouble({
      ...{ rate: rate(25), dropFrame: false, events, resolutions, production },
      clips: new Map(clips.map((clip) => [clip.id, clip])),
    }).filter(({ severity }) => severity === 'note')
    expect(kindsOf(findings)).toEqual([
      ...['duplicate', 'equal names', 'look differs', 'mixed recipes', 'old proxy name', 'other rate', 'proxy scale'],
    ])
    expect(Math.max(...findings.map(({ key }) => key.length))).toBeLessThan(100)
  })

  test('keys tell findings apart, and stay as they are when the cut is looked at again', () => {
    const names = Object.keys(faults)
    const all = names.slice(0, 6)
    const once = find(all, [0, 1, 2, 3, 4, 5])
    expect(new Set(once.map(({ key }) => key)).size).toBe(once.length)
    expect(find(all, [0, 1, 2, 3, 4, 5]).map(({ key }) => key)).toEqual(once.map(({ key }) => key))
  })
})
