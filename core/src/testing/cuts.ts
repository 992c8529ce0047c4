import fc from 'fast-check'
import { type Cut, type CutEvent, normalSpeed, plain, type Speed, type Transition } from '../cut/model.ts'
import { add, ceiling, divide, fraction, multiply, type Rate, rate, rateAsFraction } from '../time/index.ts'

const speeds: readonly Speed[] = [
  normalSpeed,
  normalSpeed,
  normalSpeed,
  { numerator: 2, denominator: 1 },
  { numerator: 1, denominator: 2 },
  { numerator: 24, denominator: 25 },
  { numerator: 4, denominator: 3 },
  { numerator: -1, denominator: 1 },
  { numerator: -3, denominator: 2 },
  { numerator: 0, denominator: 1 },
]

const names = ['A001C001_1104.mov', 'R07_wheel 1961.mov', 'Gezeitenmühle_Ü.mov', '12.3 WIDE', 'B<002> & "C".mov']
const reels = ['A001', 'B002', 'RIVERSIDE_01', 'MY REEL', 'AX', null]
const paths = [
  '/Volumes/TIDE-1/A001/A001C001_1104.mov',
  'P:/Low Water/R07_wheel 1961.mov',
  '/mnt/ümlaut #3/50%.mov',
  null,
]

/** What a cut for tests may have in it. */
export interface CutMakings {
  /** Sources of other rates than the record's. */
  readonly otherRates: boolean
}

interface EventMakings {
  readonly gap: number
  readonly length: number
  readonly name: number
  readonly reel: number
  readonly path: number
  readonly start: number
  readonly speed: number
  readonly transition: 'none' | 'dissolve' | 'wipe' | 'from black'
  readonly fade: boolean
  readonly transitionFrames: number
  readonly isDisabled: boolean
  readonly isOtherRate: boolean
  readonly subframe: number
  readonly hasNote: boolean
  readonly gain: number
  readonly levelPoints: readonly { readonly thousandths: number; readonly gain: number }[]
}

const eventMakings: fc.Arbitrary<EventMakings> = fc.record({
  gap: fc.constantFrom(0, 0, 0, 1, 40),
  length: fc.integer({ min: 30, max: 120 }),
  name: fc.integer({ min: 0, max: names.length - 1 }),
  reel: fc.integer({ min: 0, max: reels.length - 1 }),
  path: fc.integer({ min: 0, max: paths.length - 1 }),
  start: fc.integer({ min: 0, max: 1_000_000 }),
  speed: fc.integer({ min: 0, max: speeds.length - 1 }),
  transition: fc.constantFrom('none', 'none', 'dissolve', 'wipe', 'from black'),
  fade: fc.boolean(),
  transitionFrames: fc.integer({ min: 1, max: 12 }),
  isDisabled: fc.boolean(),
  isOtherRate: fc.boolean(),
  subframe: fc.integer({ min: 0, max: 9 }),
  hasNote: fc.boolean(),
  gain: fc.constantFrom(1, 0, 0.5, 0.251189, 3.981072),
  levelPoints: fc.array(
    fc.record({ thousandths: fc.integer({ min: 0, max: 30_000 }), gain: fc.constantFrom(0, 0.707946, 1) }),
    { maxLength: 3 },
  ),
})

/** Random cuts with everything that the model can say, one event behind the other on each of some tracks. */
export function anyCut({ otherRates }: CutMakings): fc.Arbitrary<Cut> {
  return fc
    .record({
      rate: fc.constantFrom(rate(25), rate(24), rate(24000, 1001), rate(30000, 1001), rate(50)),
      start: fc.constantFrom(0, 90_000, 3_600),
      isDrop: fc.boolean(),
      tracks: fc.array(fc.array(eventMakings, { minLength: 1, maxLength: 6 }), { minLength: 1, maxLength: 4 }),
    })
    .map(({ rate: recordRate, start, isDrop, tracks }) => {
      const dropFrame = isDrop && recordRate.denominator === 1001 && recordRate.numerator === 30000
      const kinds = tracks.map((_, index) => (index % 2 === 0 ? ('picture' as const) : ('sound' as const)))
      const trackNames = kinds.map((kind, index) => `${kind === 'picture' ? 'V' : 'A'}${Math.floor(index / 2) + 1}`)
      const order = trackNames.map((name, index) => ({ name, kind: kinds[index] as 'picture' | 'sound', index }))
      order.sort((a, b) => Number(a.kind === 'sound') - Number(b.kind === 'sound'))
      let number = 0
      const events = order.flatMap(({ name, kind, index }) => {
        let at = start
        let before: CutEvent | null = null
        return (tracks[index] as EventMakings[]).map((makings) => {
          const event = makeEvent(makings, {
            at,
            before,
            name,
            kind,
            recordRate,
            dropFrame,
            otherRates,
            number: ++number,
          })
          at = event.record.endFrame + (event.fadeOut?.durationFrames ?? 0)
          before = event
          return event
        })
      })
      return {
        name: 'Low Water, reel 3',
        rate: recordRate,
        dropFrame,
        tracks: order.map(({ name, kind }) => ({ name, kind })),
        events,
        recordStartFrame: start,
        raster: { width: 1920, height: 1080 },
        markers: [{ recordFrame: start + 5, durationFrames: 0, name: 'look here', note: 'the <wheel> & the tide' }],
      }
    })
}

function makeEvent(
  makings: EventMakings,
  on: {
    at: number
    before: CutEvent | null
    name: string
    kind: 'picture' | 'sound'
    recordRate: Rate
    dropFrame: boolean
    otherRates: boolean
    number: number
  },
): CutEvent {
  const { recordRate, kind } = on
  const isOther = on.otherRates && makings.isOtherRate && kind === 'picture'
  const sourceRate = isOther ? rate(recordRate.numerator === 50 ? 25 : 50) : recordRate
  const startFrame = on.at + makings.gap
  const record = { startFrame, endFrame: startFrame + makings.length }
  const speed = kind === 'sound' ? normalSpeed : (speeds[makings.speed] as Speed)
  const perRecord = divide(rateAsFraction(sourceRate), rateAsFraction(recordRate))
  const size = fraction(Math.abs(speed.numerator), speed.denominator)
  const shown = multiply(multiply(fraction(makings.length), perRecord), size)
  const frames = speed.numerator === 0 ? 1 : Number(ceiling(shown))
  // A reversed source begins late enough to have something before it.
  const sourceStart = makings.start + 10_000
  const transition = transitionOf(makings, on.before, startFrame)
  const subframe = fraction(makings.subframe, 10)
  const isBetween = kind === 'sound' && makings.subframe > 0 && makings.gap > 0
  const times = isBetween && {
    sourceStart: plain(add(fraction(sourceStart), subframe)),
    sourceEnd: plain(add(fraction(sourceStart + makings.length), subframe)),
    recordStart: plain(fraction(record.startFrame)),
    recordEnd: plain(fraction(record.endFrame)),
  }
  return {
    number: String(on.number).padStart(3, '0'),
    track: on.name,
    kind,
    clipName: names[makings.name] as string,
    reel: reels[makings.reel] as string | null,
    path: paths[makings.path] as string | null,
    source: { startFrame: sourceStart, endFrame: sourceStart + frames + (times ? 1 : 0) },
    sourceRate,
    mediumStartFrame: 0,
    record,
    transition,
    speed,
    notes: makings.hasNote ? ['* THE TIDE TURNS HERE'] : [],
    location: '',
    ...(makings.fade && { fadeOut: { kind: 'dissolve', wipeCode: null, durationFrames: makings.transitionFrames } }),
    ...(makings.isDisabled && on.number > 1 && !transition && !makings.fade && makings.gap > 0 && { isDisabled: true }),
    ...(times && { soundTimes: times }),
    ...(kind === 'sound' && { sourceChannel: 1, ...levelOf(makings, sourceStart) }),
  }
}

/** As loud as it was recorded is said by nothing. */
function levelOf({ gain, levelPoints }: EventMakings, sourceStart: number): Pick<CutEvent, 'level'> {
  const ordered = levelPoints.toSorted((a, b) => a.thousandths - b.thousandths)
  const points = ordered.map((point) => ({
    sourceFrame: plain(add(fraction(sourceStart), fraction(point.thousandths, 1000))),
    gain: point.gain,
  }))
  const [first] = points
  if (first) return { level: { gain: first.gain, points } }
  return gain === 1 ? {} : { level: { gain } }
}

function transitionOf(makings: EventMakings, before: CutEvent | null, startFrame: number): Transition | null {
  const { transition: wanted, transitionFrames: durationFrames } = makings
  if (wanted === 'none') return null
  const abuts = before !== null && !before.fadeOut && !before.isDisabled && before.record.endFrame === startFrame
  const plainly = { kind: 'dissolve', wipeCode: null, durationFrames } as const
  if (wanted === 'from black') return abuts ? { ...plainly, fromBlack: true } : plainly
  return wanted === 'wipe' ? { kind: 'wipe', wipeCode: '012', durationFrames } : plainly
}

/** An event of two seconds of A001C001, from frame 1000 of it, at frame 100 of the record. */
export const plainEvent = (change: Partial<CutEvent> = {}): CutEvent => ({
  ...{ number: '001', track: 'V1', kind: 'picture', clipName: 'A001C001.mov', reel: 'A001', path: null },
  ...{ sourceRate: rate(25), mediumStartFrame: null, transition: null, speed: normalSpeed, notes: [], location: '' },
  source: { startFrame: 1000, endFrame: 1050 },
  record: { startFrame: 100, endFrame: 150 },
  ...change,
})
