import { expect, test } from '@jest/globals'
import { type Cut, edl, otio, type ResolvableClip, resolveEvents, writeProven } from '../cut/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { clip as original } from '../testing/trouble.ts'
import { rate } from '../time/index.ts'
import { arrivedOf, conformCut, opensAlone } from './index.ts'

const made = (id: string, start: string, change: Partial<ResolvableClip> = {}): ResolvableClip => ({
  ...original({ id, name: `${id}.mov`, facts: pictureFacts({ start, reel: id }) }),
  ...{ reel: id, originalPaths: [`/courier/${id}.mov`], ...change },
})

const cut: Cut = edl.read(
  `TITLE: Mill
001  A001 V C 10:00:00:05 10:00:00:15 01:00:00:00 01:00:00:10
* FROM CLIP NAME: A001.mov
002  B007 V C 11:00:00:05 11:00:00:15 01:00:00:10 01:00:00:20
* FROM CLIP NAME: B007.mov
`,
  { rate: rate(25), fileName: 'mill.edl' },
)

/** Whether what leaves of the cut opens with nothing but copies of these clips. */
function open(clips: readonly ResolvableClip[], change = (arrived: ResolvableClip[]) => arrived, of = cut) {
  const context = { clips, mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: of.rate }
  const landed = resolveEvents(of.events, context)
  const production = { width: 1920, height: 1080 }
  const out = conformCut(of, landed, new Map(clips.map((clip) => [clip.id, clip])), { name: 'x', production })
  const arrived = new Map(clips.map((clip) => [clip.id, change(arrivedOf(clip, null))]))
  return [edl, otio].flatMap((format) =>
    opensAlone(writeProven(out, format), format, of, landed, arrived).map((each) => ({ format: format.id, ...each })),
  )
}

const [first, second] = [made('A001', '10:00:00:00'), made('B007', '11:00:00:00')]

test('what is whole opens in every format', () => {
  expect(open([first, second])).toEqual([])
})

test('clips of one name and timecode that only reels tell apart which were said here, where paths do not hold', () => {
  const plain = pictureFacts({ start: '10:00:00:00', reel: null })
  const same = (reel: string, box: number): ResolvableClip =>
    made(reel, '10:00:00:00', { facts: plain, name: 'C0001.mov', originalPaths: [`/courier/${box}/C0001.mov`] })
  const source = { startFrame: 900_005, endFrame: 900_015 }
  const counted = { ...cut, events: cut.events.map((event) => ({ ...event, clipName: 'C0001.mov', source })) }
  const clips = [same('A001', 1), same('B007', 2)]
  expect(open(clips, undefined, counted)).toEqual([])
  const elsewhere = (arrived: ResolvableClip[]) =>
    arrived.map((clip) => ({ ...clip, originalPaths: [`/media/courier/${clip.id}/C0001.mov`] }))
  expect(open(clips, elsewhere, counted)[0]).toEqual({ format: 'edl', number: '001', reason: 'it is unresolved' })
})

test('what lies elsewhere, is another clip, or is not there is told by its event', () => {
  const moved = (arrived: ResolvableClip[]) =>
    arrived.map((clip) => ({ ...clip, facts: { ...clip.facts, startFrame: (clip.facts.startFrame ?? 0) - 3 } }))
  expect(open([first, second], moved)).toEqual([])
  const short = (arrived: ResolvableClip[]) =>
    arrived.map((clip) => ({ ...clip, facts: pictureFacts({ start: '10:00:00:00', frames: 12, reel: clip.id }) }))
  expect(open([first, second], short).map(({ number }) => number)).toEqual(expect.arrayContaining(['001', '002']))
  expect(open([first, second], () => []).map(({ reason }) => reason)).toEqual(Array(4).fill('it is unresolved'))
})
