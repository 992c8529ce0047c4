import { expect, test } from '@jest/globals'
import fc from 'fast-check'
import {
  type Cut,
  type CutEvent,
  CutFormatError,
  cutFormats,
  mediaFrames,
  type Resolution,
  type ResolvableClip,
  resolveEvents,
  type Speed,
  writeProven,
} from '../cut/index.ts'
import { joinFacts, type MediaFacts, pictureRange } from '../media/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { allowsDropFrame, type FrameRange, framesPerDay, type Rate, rate, sameRate } from '../time/index.ts'
import { arrivedOf, conformCut, opensAlone, pieceName, piecesOf } from './index.ts'

/** Camera originals and recordings of a night: across midnight, in drop-frame, without timecode, in several files. */
interface Makings {
  readonly name: string
  readonly reel: string | null
  readonly kind: 'file' | 'spanned' | 'sound' | 'stills'
  readonly rate: Rate
  readonly isDrop: boolean
  readonly start: number | null
  readonly frames: number
}

interface UseMakings {
  readonly clip: number
  readonly from: number
  readonly length: number
  readonly speed: Speed
  readonly withPath: boolean
  readonly withReel: boolean
  /** How a list calls the clip: by its file, without the ending, or by its proxy. */
  readonly called: 'file' | 'bare' | 'proxy'
  /** Counted from the first frame of the medium, and not by its labels. */
  readonly isFromZero: boolean
  /** Whether a list names the file of a take over several in which the use begins, and not the first. */
  readonly namesPart: boolean
  /** Which of the ways of writing the number of a still. */
  readonly writing: number
  /** The sound of a picture's file, and not its picture. */
  readonly isSound: boolean
  /** Quarters of a frame by which sound at its own speed begins later. */
  readonly quarters: number
  /** Frames of a dissolve into it; none where it is the first of its track. */
  readonly dissolve: number
}

const names = ['A001C001', 'B002_C014_1128', 'Tide 7/8', 'Wîntér', 'x'.repeat(40), 'a & b <c>', '12.3 wide']
const rates = [rate(25), rate(24), rate(24_000, 1001), rate(30_000, 1001), rate(50), rate(60_000, 1001)]
const makings = (at: Rate): fc.Arbitrary<Makings> =>
  fc.record({
    name: fc.constantFrom(...names),
    reel: fc.constantFrom(null, 'A001', 'A002', 'MILL RACE 07', 'B7', 'Ä1'),
    kind: fc.constantFrom('file', 'file', 'spanned', 'sound', 'stills'),
    rate: fc.constantFrom(at, at, ...rates),
    isDrop: fc.boolean(),
    start: fc
      .oneof(fc.constant(null), fc.integer({ min: 0, max: 2_000_000 }), fc.constant('late' as const))
      .map((start) => (start === 'late' ? -40 : start)),
    frames: fc.integer({ min: 60, max: 400 }),
  })

function clipOf(made: Makings, index: number): ResolvableClip {
  const drop = made.isDrop && allowsDropFrame(made.rate)
  const day = framesPerDay(made.rate, drop)
  const startFrame = made.start === null ? null : made.start < 0 ? day + made.start : made.start % day
  const fileName = `${made.name.replace('/', '-')}${index}`
  const picture = (from: number | null, frames: number): MediaFacts => ({
    ...pictureFacts({ rate: made.rate, drop, frames, start: null }),
    ...{ startFrame: from, reel: made.reel },
  })
  const halves = [made.frames >> 1, made.frames - (made.frames >> 1)] as const
  const parts =
    made.kind === 'spanned' && startFrame !== null
      ? [picture(startFrame, halves[0]), picture((startFrame + halves[0]) % day, halves[1])]
      : []
  const facts =
    made.kind === 'sound'
      ? soundFacts(made.frames * 2002, (made.start === null ? 0 : Math.max(0, made.start)) * 1920)
      : parts.length
        ? joinFacts(parts)
        : picture(startFrame, made.frames)
  if (made.kind === 'stills') return stillsOf(fileName, index, made)
  const paths = parts.length
    ? parts.map((_, part) => `/bay/${index}/${fileName}_${part + 1}.mov`)
    : [`/bay/${index}/${fileName}.${made.kind === 'sound' ? 'wav' : 'mov'}`]
  return {
    ...{ id: `clip ${index}`, name: `${fileName}${parts.length ? '_1' : ''}.${made.kind === 'sound' ? 'wav' : 'mov'}` },
    ...{
      formerNames: [fileName, ...paths.map((path) => path.split('/').at(-1) as string)],
      reel: made.reel,
      facts,
      presence: 'here',
      originalPaths: paths,
      madePaths: [],
    },
    parts: parts.map((part, at) => ({ path: paths[at] as string, range: pictureRange(part) as FrameRange })),
    ...{ proxyPlays: false, role: 'original', roleReason: null, damage: null },
  }
}

/** Numbered stills, which have no timecode and no reel of their own. */
function stillsOf(name: string, index: number, { rate: at, frames, reel }: Makings): ResolvableClip {
  const path = `/bay/${index}/${name}_####.dpx`
  return {
    ...{ id: `clip ${index}`, name: `${name}_####.dpx`, formerNames: [name], reel, presence: 'here' },
    facts: { ...pictureFacts({ rate: at, frames, start: null, channels: 0, container: 'image2' }), reel: null },
    ...{ originalPaths: [path], madePaths: [], parts: [], firstStill: 41, proxyPlays: false },
    ...{ role: 'original', roleReason: null, damage: null },
  }
}

const plainly: Speed = { numerator: 1, denominator: 1 }

/** How lists write what number signs stand for here: the first still, its range, a conversion, other signs. */
const stillWritings = ['####', '0041', '[0041-0140]', '%04d', '@@@@']

/** A use of frames that its clip has, as a list says it: by labels of a day. Its location tells the truth. */
function eventOf(
  use: UseMakings,
  clip: ResolvableClip,
  cut: { rate: Rate; dropFrame: boolean; at: number; number: number },
): CutEvent {
  const { picture, startFrame, dropFrame, timeReferenceSamples, sound } = clip.facts
  const sourceRate = picture?.rate ?? cut.rate
  const drop = picture ? dropFrame : false
  const first = picture
    ? (startFrame ?? 0)
    : Math.ceil(((timeReferenceSamples ?? 0) * cut.rate.numerator) / cut.rate.denominator / 48_000)
  const frames =
    picture?.frames ?? Math.floor((((sound[0]?.samples ?? 0) / 48_000) * cut.rate.numerator) / cut.rate.denominator) - 1
  const at = (recordFrames: number): number => Math.max(1, mediaFrames(recordFrames, use.speed, sourceRate, cut.rate))
  let recordFrames = 1
  while (recordFrames < use.length && at(recordFrames + 1) <= frames) recordFrames++
  const length = at(recordFrames)
  const from = Math.floor(use.from * (frames - length + 1))
  const day = framesPerDay(sourceRate, drop)
  // Backwards the first that is shown is the last of them.
  const shown = use.speed.numerator < 0 ? first + from + length - 1 : first + from
  const part = use.namesPart
    ? clip.parts.find(({ range }) => shown >= range.startFrame && shown < range.endFrame)
    : undefined
  const isFromZero = use.isFromZero && picture !== null
  const label = isFromZero ? shown - (part?.range.startFrame ?? first) : shown % day
  const written = (text: string): string => text.replace('####', stillWritings[use.writing] as string)
  const path = written(part?.path ?? (clip.originalPaths[0] as string))
  const name = written(part ? (part.path.split('/').at(-1) as string) : clip.name)
  const bare = name.replace(/\.[a-z]+$/, '')
  const clipName = { file: name, bare, proxy: `${bare}_proxy.mov` }[use.called]
  const isSound = !picture || (use.isSound && sound.length > 0 && sameRate(sourceRate, cut.rate))
  const record = { startFrame: cut.at, endFrame: cut.at + recordFrames }
  const isBetween = isSound && use.speed === plainly && use.quarters > 0 && from + length < frames
  const later = (frame: number) => ({ numerator: 4 * frame + use.quarters, denominator: 4 })
  const onFrame = (frame: number) => ({ numerator: frame, denominator: 1 })
  return {
    ...{ number: String(cut.number).padStart(3, '0'), track: isSound ? 'A1' : 'V1' },
    kind: isSound ? 'sound' : 'picture',
    ...(isBetween && {
      soundTimes: {
        ...{ sourceStart: later(label), sourceEnd: later(label + length) },
        ...{ recordStart: onFrame(record.startFrame), recordEnd: onFrame(record.endFrame) },
      },
    }),
    ...{ clipName, reel: use.withReel ? clip.reel : null },
    path: use.withPath ? path : null,
    source: { startFrame: label, endFrame: label + length + (isBetween ? 1 : 0) },
    ...{
      sourceRate,
      mediumStartFrame: isFromZero ? 0 : null,
      ...(drop !== cut.dropFrame && allowsDropFrame(sourceRate) && { sourceDropFrame: drop }),
    },
    record,
    transition: use.dissolve ? { kind: 'dissolve', wipeCode: null, durationFrames: use.dissolve } : null,
    ...{ speed: use.speed, notes: [], location: `${clip.id}, frame ${shown}` },
  }
}

const nights = fc
  .constantFrom(...rates)
  .chain((at) =>
    fc.record({
      rate: fc.constant(at),
      isDrop: fc.boolean(),
      clips: fc.array(makings(at), { minLength: 1, maxLength: 4 }),
      uses: fc.array(
        fc.record({
          clip: fc.nat(3),
          from: fc.double({ min: 0, max: 1, maxExcluded: true, noNaN: true }),
          length: fc.integer({ min: 1, max: 50 }),
          speed: fc.constantFrom(
            plainly,
            plainly,
            { numerator: -1, denominator: 1 },
            { numerator: 1, denominator: 2 },
            { numerator: 0, denominator: 1 },
          ),
          withPath: fc.boolean(),
          withReel: fc.boolean(),
          called: fc.constantFrom('file', 'bare', 'proxy'),
          isFromZero: fc.boolean(),
          namesPart: fc.boolean(),
          writing: fc.nat(stillWritings.length - 1),
          isSound: fc.boolean(),
          quarters: fc.constantFrom(0, 1, 3),
          dissolve: fc.constantFrom(0, 0, 0, 4),
        }),
        { minLength: 1, maxLength: 6 },
      ),
    }),
  )
  .map(({ rate: at, isDrop, clips, uses }) => {
    const dropFrame = isDrop && allowsDropFrame(at)
    const all = clips.map(clipOf)
    let record = 3600 * Math.round(at.numerator / at.denominator)
    const events = uses.map((use, index) => {
      const event = eventOf(use, all[use.clip % all.length] as ResolvableClip, {
        rate: at,
        dropFrame,
        at: record,
        number: index + 1,
      })
      record = event.record.endFrame
      return event
    })
    const kinds = new Set(events.map(({ track }) => track))
    const tracks = (['V1', 'A1'] as const).flatMap((name) =>
      kinds.has(name) ? [{ name, kind: name === 'V1' ? ('picture' as const) : ('sound' as const) }] : [],
    )
    const sorted = tracks.flatMap(({ name }) => events.filter(({ track }) => track === name))
    return { clips: all, cut: { name: 'Night', rate: at, dropFrame, tracks, events: sorted } satisfies Cut }
  })

const land = (cut: Cut, clips: readonly ResolvableClip[]): Resolution[] =>
  resolveEvents(cut.events, {
    ...{ clips, mappings: [], suffixes: ['_proxy'], unreadable: [], chosen: new Map(), recordRate: cut.rate },
  })

/** Sound between frames begins and ends on one in all formats but OTIO, and that is told. */
const isRounded = (format: string, { events }: Cut, index: number): boolean =>
  format !== 'otio' && events[index]?.soundTimes !== undefined

test('what lands on its original lands on the same frames of it when the list that leaves is read again', () => {
  let written = 0
  let lost = 0
  fc.assert(
    fc.property(nights, ({ clips, cut }) => {
      const landed = land(cut, clips)
      const wrong = landed.flatMap(({ state, clipId, evidence }, index) =>
        // What it lends to a dissolve may lie behind its end.
        state === 'on original' || (state === 'short' && cut.events.some(({ transition }) => transition))
          ? []
          : [[cut.events[index]?.number, state, clipId, evidence]],
      )
      expect(wrong).toEqual([])
      const shown = landed.map(({ clipId, needed }, index) => {
        const isBackwards = (cut.events[index] as CutEvent).speed.numerator < 0
        return `${clipId}, frame ${isBackwards ? needed.endFrame - 1 : needed.startFrame}`
      })
      expect(shown).toEqual(cut.events.map(({ location }) => location))
      const out = conformCut(cut, landed, new Map(clips.map((clip) => [clip.id, clip])), {
        ...{ name: cut.name, production: { width: 1920, height: 1080 } },
      })
      for (const format of cutFormats) {
        let text: string
        try {
          text = writeProven(out, format, { edlReels: 'whole' })
        } catch (error) {
          if (!(error instanceof CutFormatError)) throw error
          // One rate is all that an EDL has.
          const isMixed = out.events.some(({ sourceRate }) => !sameRate(sourceRate, out.rate))
          if (format.id !== 'edl' || !isMixed) throw error
          lost++
          continue
        }
        written++
        const again = format.read(text, { rate: cut.rate, fileName: cut.name })
        const landedAgain = land(again, clips)
        const short = ({ state, clipId, exactNeed, needed }: Resolution, index: number) =>
          isRounded(format.id, cut, index) ? [state, clipId, needed.startFrame] : [state, clipId, exactNeed]
        expect([format.id, ...landedAgain.map(short)]).toEqual([format.id, ...landed.map(short)])
      }
    }),
    { numRuns: 300 },
  )
  expect(written).toBeGreaterThan(2 * lost)
})

/** A clip that goes as stretches where it can: what lists say of it here, and which frames go. */
function inStretches(clip: ResolvableClip, cut: Cut, landed: readonly Resolution[], handles: number) {
  const { picture } = clip.facts
  const uses = landed.flatMap(({ clipId, needed }, index) =>
    clipId === clip.id ? [{ range: needed, rate: (cut.events[index] as CutEvent).sourceRate }] : [],
  )
  const intra = picture && { ...clip.facts, picture: { ...picture, codec: 'prores', profile: 'Standard' } }
  const pieces = intra && clip.parts.length === 0 && uses.length ? piecesOf(intra, uses, handles) : null
  if (!intra || !pieces) return { here: clip, pieces: null }
  const first = clip.facts.startFrame ?? 0
  const stretches = pieces.map((piece) => ({
    path: `/courier/${clip.id}/${pieceName(clip.name.replace(/\.mov$/, ''), clip.facts, piece)}`,
    range: { startFrame: first + piece.startFrame, endFrame: first + piece.endFrame },
  }))
  const here = { ...clip, facts: intra, originalPaths: stretches.map(({ path }) => path), parts: stretches }
  return { here, pieces }
}

test('the list of a copy that holds no more than is used lands on it alone, on the very labels', () => {
  let cutOut = 0
  fc.assert(
    fc.property(nights, fc.constantFrom(0, 3, 25), ({ clips, cut }, handles) => {
      const landed = land(cut, clips)
      fc.pre(landed.every(({ state }) => state === 'on original'))
      const copies = clips.map((clip) => inStretches(clip, cut, landed, handles))
      cutOut += copies.filter(({ pieces }) => pieces).length
      const out = conformCut(cut, landed, new Map(copies.map(({ here }) => [here.id, here])), {
        ...{ name: cut.name, production: { width: 1920, height: 1080 } },
      })
      const arrived = new Map(copies.map(({ here, pieces }) => [here.id, arrivedOf(here, pieces)]))
      for (const format of cutFormats) {
        if (format.id === 'edl' && out.events.some(({ sourceRate }) => !sameRate(sourceRate, out.rate))) continue
        const text = writeProven(out, format, { edlReels: 'whole' })
        expect([format.id, ...opensAlone(text, format, cut, landed, arrived)]).toEqual([format.id])
      }
    }),
    { numRuns: 300 },
  )
  expect(cutOut).toBeGreaterThan(50)
})
