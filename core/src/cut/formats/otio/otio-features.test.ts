import { describe, expect, test } from '@jest/globals'
import { rate } from '../../../time/index.ts'
import { exactNeeds, neededRanges } from '../../model.ts'
import { lossesOf } from '../carries.ts'
import { writeProven } from '../prove.ts'
import { otio } from './read-otio.ts'

const options = { rate: rate(25), fileName: 'mill.otio' }
const time = (value: number, at = 25) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: at })
const range = (start: number, duration: number, at = 25) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, at),
  duration: time(duration, at),
})
const clip = (name: string, start: number, frames: number, change: object = {}) => ({
  OTIO_SCHEMA: 'Clip.2',
  name,
  source_range: range(start, frames),
  ...change,
})
const gap = (frames: number) => ({ OTIO_SCHEMA: 'Gap.1', source_range: range(0, frames) })
const dissolve = (before: number, behind: number) => ({
  OTIO_SCHEMA: 'Transition.1',
  in_offset: time(before),
  out_offset: time(behind),
})
const track = (children: object[], change: object = {}) => ({
  OTIO_SCHEMA: 'Track.1',
  kind: 'Video',
  children,
  ...change,
})
const stack = (children: object[], change: object = {}) => ({ OTIO_SCHEMA: 'Stack.1', children, ...change })
const read = (tracks: object[], change: object = {}) =>
  otio.read(
    JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      name: 'Mill',
      global_start_time: time(1000),
      tracks: stack(tracks),
      ...change,
    }),
    options,
  )
const placesOf = (cut: ReturnType<typeof read>) =>
  cut.events.map(({ track: on, clipName, record, source }) =>
    [on, clipName, record.startFrame, record.endFrame, source.startFrame, source.endFrame].join(' '),
  )

describe('black', () => {
  test('a transition at the end, or before a gap, goes to black: it lends what is shown behind the cut', () => {
    const cut = read([track([clip('a', 0, 50), dissolve(5, 7), gap(20), clip('b', 0, 50), dissolve(10, 0)])])
    expect(placesOf(cut)).toEqual(['V1 a 1000 1045 0 45', 'V1 b 1070 1110 0 40'])
    expect(cut.events.map(({ fadeOut }) => fadeOut?.durationFrames)).toEqual([12, 10])
    expect(neededRanges(cut.events, cut.rate).map(({ endFrame }) => endFrame)).toEqual([57, 50])
  })

  test('a transition behind a gap comes out of black, from where it begins', () => {
    const cut = read([track([clip('a', 0, 50), gap(10), dissolve(4, 6), clip('b', 100, 50)])])
    expect(placesOf(cut)).toEqual(['V1 a 1000 1050 0 50', 'V1 b 1056 1110 96 150'])
    expect(neededRanges(cut.events, cut.rate)[0]).toEqual({ startFrame: 0, endFrame: 50 })
  })
})

describe('sequences within the sequence', () => {
  test('are laid out flat, each of their tracks above the other, and only what is shown of them', () => {
    const inner = stack([track([clip('below', 0, 40), clip('next', 0, 40)]), track([gap(30), clip('above', 0, 20)])], {
      source_range: range(10, 40),
    })
    const cut = read([track([clip('first', 0, 25), inner, clip('last', 0, 25)])])
    expect(placesOf(cut)).toEqual([
      'V1 first 1000 1025 0 25',
      'V1 below 1025 1055 10 40',
      'V1 next 1055 1065 0 10',
      'V1 last 1065 1090 0 25',
      'V2 above 1045 1065 0 20',
    ])
    expect(lossesOf(cut, 'otio').map(({ name }) => name)).toContain('Sequences within the sequence')
  })

  test('one within another, and switched off with what holds it', () => {
    const deep = stack([track([track([stack([track([clip('deep', 5, 10)])])])])], { enabled: false })
    const cut = read([track([gap(3), deep])])
    expect(placesOf(cut)).toEqual(['V1 deep 1003 1013 5 15'])
    expect(cut.events[0]?.isDisabled).toBe(true)
  })

  test('one that is retimed hands its speed to what is in it, and is as long as its range says', () => {
    const warp = (time_scalar: number) => ({ effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar }] })
    const inner = (scalar: number, frames: number) =>
      stack([track([clip('a', 0, 40), clip('b', 100, 40)])], { source_range: range(20, frames), ...warp(scalar) })
    const cut = read([track([clip('first', 0, 25), inner(2, 30), clip('last', 0, 25)])])
    expect(placesOf(cut)).toEqual([
      ...['V1 first 1000 1025 0 25', 'V1 a 1025 1035 20 40', 'V1 b 1035 1055 100 140', 'V1 last 1055 1080 0 25'],
    ])
    expect(cut.events.map(({ speed }) => speed.numerator)).toEqual([1, 2, 2, 1])
    // Its needs are those of twice the frames, and sound may be cut between them.
    expect(neededRanges(cut.events, cut.rate)[2]).toEqual({ startFrame: 100, endFrame: 140 })
    const slow = read([track([inner(0.5, 60)])])
    expect(placesOf(slow)).toEqual(['V1 a 1000 1040 20 40', 'V1 b 1040 1060 100 110'])
    expect(() => read([track([inner(1.5, 40)])])).toThrow('falls between frames')
    expect(() => read([track([inner(-1, 20)])])).toThrow('runs backwards')
    const whole = read([track([clip('a', 0, 40), clip('b', 100, 40)], warp(2))])
    expect(placesOf(whole)).toEqual(['V1 a 1000 1020 0 40', 'V1 b 1020 1040 100 140'])
  })

  test('one that is held shows the frame with which its range begins, and no sound', () => {
    const freeze = { effects: [{ OTIO_SCHEMA: 'FreezeFrame.1', time_scalar: 0 }] }
    const held = (from: number, ...items: object[]) =>
      read([
        track([
          clip('first', 0, 25),
          stack([track(items)], { source_range: range(from, 30), ...freeze }),
          clip('last', 0, 25),
        ]),
      ])
    const cut = held(45, clip('a', 0, 40), clip('b', 100, 40))
    expect(placesOf(cut)).toEqual(['V1 first 1000 1025 0 25', 'V1 b 1025 1055 105 106', 'V1 last 1055 1080 0 25'])
    expect(cut.events[1]?.speed).toEqual({ numerator: 0, denominator: 1 })
    expect(neededRanges(cut.events, cut.rate)[1]).toEqual({ startFrame: 105, endFrame: 106 })
    // Where two sources are seen at once, one of them alone would be wrong.
    const mixed = [clip('a', 0, 40), dissolve(5, 5), clip('b', 100, 40)]
    for (const from of [35, 38, 44]) expect(() => held(from, ...mixed)).toThrow(/within its transition/)
    expect(placesOf(held(45, ...mixed))[1]).toBe('V1 b 1025 1055 105 106')
    const sound = track([clip('s', 0, 40)], { kind: 'Audio' })
    const both = read([stack([track([clip('a', 0, 40)]), sound], { source_range: range(10, 20), ...freeze })])
    expect(placesOf(both)).toEqual(['V1 a 1000 1020 10 11'])
  })

  test('what is retimed within what is retimed runs at the product of both', () => {
    const warp = (time_scalar: number) => ({ effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar }] })
    const fast = clip('a', 0, 40, warp(4))
    const cut = read([track([stack([track([fast])], warp(0.5))])])
    expect(placesOf(cut)).toEqual(['V1 a 1000 1040 0 80'])
    expect(cut.events[0]?.speed).toEqual({ numerator: 2, denominator: 1 })
  })

  test('a track shows what its range says', () => {
    const cut = read([track([clip('a', 0, 50), clip('b', 0, 50)], { source_range: range(40, 20) })])
    expect(placesOf(cut)).toEqual(['V1 a 1000 1010 40 50', 'V1 b 1010 1020 0 10'])
  })

  test('what closes within a transition or a fade keeps what of it is shown; what opens within a fade is told', () => {
    const inner = (start: number, frames: number) =>
      track([clip('a', 0, 50), dissolve(0, 10), clip('b', 0, 50), dissolve(0, 8), gap(20)], {
        source_range: range(start, frames),
      })
    expect(read([inner(0, 53)]).events.map(({ transition }) => transition?.durationFrames ?? 0)).toEqual([0, 3])
    expect(read([inner(60, 45)]).events[0]?.fadeOut?.durationFrames).toBe(5)
    expect(() => read([inner(103, 10)])).toThrow('begins within its transition')
  })

  test('a transition into one layer leads into it; one that would move several, or their beginning, is refused', () => {
    const one = stack([track([clip('in', 0, 40)])])
    const two = stack([track([clip('in', 0, 40)]), track([clip('above', 0, 40)])])
    const [before, after] = read([track([clip('a', 0, 50), dissolve(0, 10), one])]).events
    expect([before?.record.endFrame, after?.record.startFrame, after?.transition?.durationFrames]).toEqual([
      1050, 1050, 10,
    ])
    expect(neededRanges(before ? [before, after as typeof before] : [], rate(25))[0]?.endFrame).toBe(60)
    for (const [leads, nested] of [
      [dissolve(5, 5), one],
      [dissolve(0, 10), two],
    ] as const)
      expect(() => read([track([clip('a', 0, 50), leads, nested])])).toThrow('cannot be laid out flat')
    expect(() => read([track([two, dissolve(0, 10), clip('a', 0, 50)])])).toThrow('cannot be laid out flat')
  })

  test('what begins within a transition is told, and not half read', () => {
    const inner = track([clip('a', 0, 50), dissolve(0, 10), clip('b', 0, 50)], { source_range: range(55, 20) })
    expect(() => read([inner])).toThrow('begins within its transition')
  })
})

describe('sound between frames', () => {
  const sound = [{ ...track([gap(10.4), clip('s', 100.25, 30.5)]), kind: 'Audio' }]

  test('keeps where it begins and ends, exactly, and needs no more', () => {
    const cut = read(sound)
    expect(cut.events[0]).toMatchObject({
      source: { startFrame: 100, endFrame: 131 },
      record: { startFrame: 1010, endFrame: 1041 },
      soundTimes: { sourceStart: { numerator: 401, denominator: 4 }, recordStart: { numerator: 5052, denominator: 5 } },
    })
    const [need] = exactNeeds(cut.events, cut.rate)
    expect(need).toEqual({ start: { numerator: 401n, denominator: 4n }, end: { numerator: 523n, denominator: 4n } })
  })

  test('and leaves as it came; in other formats it is told', () => {
    const cut = read(sound)
    const again = otio.read(writeProven(cut, otio), options)
    expect(again.events[0]?.soundTimes).toEqual(cut.events[0]?.soundTimes)
    expect(lossesOf(cut, 'edl').map(({ becomes }) => becomes)).toContain('Begins and ends on a frame.')
  })
})

test('several time effects work one upon the other', () => {
  const effects = [
    { OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 2 },
    { OTIO_SCHEMA: 'Effect.1', effect_name: 'blur' },
    { OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: -0.75 },
  ]
  expect(read([track([clip('a', 900, 50, { effects })])]).events[0]?.speed).toEqual({ numerator: -3, denominator: 2 })
})

test('metadata, effects and markers of others go back as they came', () => {
  const mine = { metadata: { grading: { node: 7 } }, effects: [{ OTIO_SCHEMA: 'Effect.1', effect_name: 'blur' }] }
  const cut = read([track([clip('a', 0, 50, mine)])], { metadata: { room: { desk: 3 } } })
  const written = JSON.parse(writeProven(cut, otio))
  expect(written.metadata.room).toEqual({ desk: 3 })
  expect(written.tracks.children[0].children[0]).toMatchObject(mine)
  expect(lossesOf(cut, 'xmeml').find(({ feature }) => feature === 'effects')?.events).toEqual([0])
  expect(lossesOf(cut, 'otio').find(({ feature }) => feature === 'effects')).toBeUndefined()
})

test('numbered stills are one path, read and written as a sequence', () => {
  const reference = {
    OTIO_SCHEMA: 'ImageSequenceReference.1',
    target_url_base: 'file:///mnt/day%203/',
    name_prefix: 'mist_',
    name_suffix: '.dpx',
    frame_zero_padding: 4,
  }
  const cut = read([track([clip('mist', 0, 50, { media_reference: reference })])])
  expect(cut.events[0]?.path).toBe('file:///mnt/day%203/mist_####.dpx')
  const written = JSON.parse(otio.write(cut)).tracks.children[0].children[0].media_reference
  expect(written).toMatchObject(reference)
})

test('paths leave as URLs', () => {
  const written = (path: string) => {
    const cut = read([track([clip('a', 0, 50)])])
    const events = cut.events.map((event) => ({ ...event, path }))
    return JSON.parse(writeProven({ ...cut, events }, otio)).tracks.children[0].children[0].media_reference.target_url
  }
  expect(written('/Volumes/TIDE 1/ü #1/50%.mov')).toBe('file:///Volumes/TIDE%201/%C3%BC%20%231/50%25.mov')
  expect(written('P:\\Low Water\\a.mov')).toBe('file:///P:/Low%20Water/a.mov')
  expect(written('//server/share/a.mov')).toBe('file://server/share/a.mov')
  expect(written('file:///already.mov')).toBe('file:///already.mov')
})

test('markers of the record and where it begins stay', () => {
  const marker = { OTIO_SCHEMA: 'Marker.2', name: 'look', comment: 'here', marked_range: range(12, 0) }
  const cut = read([track([gap(50), clip('a', 0, 50)])], {
    tracks: stack([track([gap(50), clip('a', 0, 50)])], { markers: [marker] }),
  })
  expect(cut).toMatchObject({
    recordStartFrame: 1000,
    markers: [{ recordFrame: 1012, durationFrames: 0, name: 'look', note: 'here' }],
  })
  expect(otio.read(writeProven(cut, otio), options)).toMatchObject({ recordStartFrame: 1000, markers: cut.markers })
  const red = { ...cut, markers: (cut.markers ?? []).map((each) => ({ ...each, colour: 'RED' })) }
  expect(otio.read(writeProven(red, otio), options).markers).toEqual(red.markers)
})

test('generated pictures are uses of nothing, and stay where they are', () => {
  const bars = { OTIO_SCHEMA: 'GeneratorReference.1', generator_kind: 'SMPTEBars', available_range: null }
  const cut = read([track([clip('Bars', 0, 25, { media_reference: bars }), dissolve(0, 5), clip('a', 0, 50)])])
  expect(cut.generators).toEqual([{ track: 'V1', name: 'Bars', record: { startFrame: 1000, endFrame: 1025 } }])
  expect(placesOf(cut)).toEqual(['V1 a 1025 1075 0 50'])
  expect(otio.read(writeProven(cut, otio), options).generators).toEqual(cut.generators)
})

test('every clip with a fault is told, and on request the others are taken', () => {
  const faulty = [
    track([clip('a', 0.5, 50), clip('b', 0, 50), clip('c', 0, 50, { effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1' }] })]),
  ]
  expect(() => read(faulty)).toThrow(/children\[0\]\.source_range[\s\S]*children\[2\]\.effects/)
  const text = JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', tracks: stack(faulty) })
  const cut = otio.read(text, { ...options, takeGood: true })
  expect(placesOf(cut)).toEqual(['V1 b 50 100 0 50'])
  expect(cut.leftOut).toHaveLength(2)
})

test('so is every nested sequence that cannot be laid out, as long as it says how long it is', () => {
  const back = { effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: -1 }] }
  const layered = stack([track([clip('x', 0, 40)]), track([clip('y', 0, 40)])], { source_range: range(0, 30) })
  const faulty = [
    track([
      clip('a', 0, 50),
      stack([track([clip('n', 0, 40)])], { source_range: range(0, 20), ...back }),
      clip('b', 0, 50),
      dissolve(0, 10),
      layered,
      clip('c', 0, 50),
    ]),
  ]
  expect(() => read(faulty)).toThrow(/children\[1\]: .*runs backwards[\s\S]*children\[4\]: .*cannot be laid out flat/)
  const text = JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', tracks: stack(faulty) })
  const cut = otio.read(text, { ...options, takeGood: true })
  expect(placesOf(cut)).toEqual(['V1 a 0 50 0 50', 'V1 b 70 120 0 50', 'V1 c 150 200 0 50'])
  // What goes over into it is needed as before.
  expect(cut.events[1]?.fadeOut?.durationFrames).toBe(10)
  expect(cut.leftOut).toHaveLength(2)
  const endless = track([clip('a', 0, 50), stack([track([clip('n', 0, 40)])], back), clip('b', 0, 50)])
  const open = JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', tracks: stack([endless]) })
  expect(() => otio.read(open, { ...options, takeGood: true })).toThrow('runs backwards')
})
