import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import {
  type AafObjectOfTest,
  composition,
  fileMob,
  filler,
  group,
  markers,
  masterMob,
  operationDefinition,
  ratio,
  sequence,
  slot,
  sourceClip,
  tapeMob,
  timecode,
  transition,
  varying,
  writeAaf,
} from '../../../testing/aaf.ts'
import { rate } from '../../../time/index.ts'
import { CutFaults, CutFormatError, exactNeeds } from '../../model.ts'
import { edl, otio, readCutList, xmeml } from '../index.ts'
import { writeProven } from '../prove.ts'

const pal = [25, 1] as const
const ntsc = [30000, 1001] as const
const dissolve = '0c3bea40-fc05-11d2-8a29-0050040ef7d2'
const speed = '9d2ea890-0968-11d3-8a38-0050040ef7d2'
const gain = '9d2ea894-0968-11d3-8a38-0050040ef7d2'
const blur = '5f1b8ac1-3ed0-4a47-9c0e-1f0a6d2b7c11'
const titling = '5f1b8ac1-3ed0-4a47-9c0e-1f0a6d2b7c12'
const operations = [
  operationDefinition(dissolve, 'Video Dissolve'),
  operationDefinition(speed, 'Video Speed Control', true),
  operationDefinition(gain, 'Mono Audio Gain'),
  operationDefinition(blur, 'Blur'),
  operationDefinition(titling, 'Title'),
]

/** A shot at 10:00:00:00 on a tape of its own, 1000 frames from 40 frames into it, with its file. */
const shot = (at: number, name: string, reel: string): AafObjectOfTest[] => [
  masterMob(at, name, [slot(1, pal, sourceClip('picture', 1000, { mob: at + 1, slot: 7 }), { track: 1 })]),
  fileMob(at + 1, `${name}.mxf`, [slot(7, pal, sourceClip('picture', 1000, { mob: at + 2, slot: 3, start: 40 }))], {
    ...{ rate: pal, length: 1000, url: `file:///V:/Proxies/${name}.mxf`, raster: [960, 540] as const },
  }),
  tapeMob(at + 2, reel, [slot(3, pal, sourceClip('picture', 90_000, { mob: 0 })), slot(4, pal, timecode(900_000, 25))]),
]
const mill = shot(10, 'A001C003', 'A001')
const oven = shot(20, 'B002C001', 'B002')
const record = slot(9, pal, timecode(90_000, 25))

const listOf = (
  parts: readonly AafObjectOfTest[],
  { slots = [], mobs = [] }: { slots?: AafObjectOfTest[]; mobs?: AafObjectOfTest[] } = {},
): Uint8Array =>
  writeAaf(
    [
      ...mill,
      ...oven,
      ...mobs,
      composition(1, 'Mill reel 1', [record, slot(1, pal, sequence('picture', parts), { track: 1 }), ...slots], '0700'),
    ],
    operations,
  )
const read = (bytes: Uint8Array, takeGood = false) =>
  readCutList(bytes, { rate: rate(24), fileName: 'mill.aaf', takeGood }).cut
const placesOf = (cut: ReturnType<typeof read>) =>
  cut.events.map(({ track, clipName, record, source }) =>
    [track, clipName, record.startFrame, record.endFrame, source.startFrame, source.endFrame].join(' '),
  )
const of = (mob: number, start: number, length: number) => sourceClip('picture', length, { mob, start })

describe('the way from a clip to what was shot', () => {
  test('a clip has the name of its master mob, the path of its file, and the reel and labels of its tape', () => {
    const cut = read(listOf([of(10, 100, 50), filler('picture', 25), of(20, 0, 75)]))
    expect(cut).toMatchObject({ name: 'Mill reel 1', rate: rate(25), dropFrame: false, recordStartFrame: 90_000 })
    expect(placesOf(cut)).toEqual(['V1 A001C003 90000 90050 900140 900190', 'V1 B002C001 90075 90150 900040 900115'])
    expect(cut.events[0]).toMatchObject({
      reel: 'A001',
      path: 'file:///V:/Proxies/A001C003.mxf',
      sourceRate: rate(25),
      mediumStartFrame: 900_040,
      medium: { frames: { startFrame: 900_040, endFrame: 901_040 }, width: 960, height: 540 },
      location: 'V1, part 1',
    })
  })

  test('an origin moves what a clip refers to', () => {
    const moved = [
      masterMob(30, 'C001', [slot(1, pal, sourceClip('picture', 1000, { mob: 11, slot: 7 }), { origin: 8 })]),
    ]
    expect(placesOf(read(listOf([of(30, 2, 10)], { mobs: moved })))).toEqual(['V1 C001 90000 90010 900050 900060'])
  })

  test('a file without a tape behind it may have labels of its own, and a reel among its remarks', () => {
    const mobs = [
      masterMob(30, 'C001', [slot(1, pal, sourceClip('picture', 500, { mob: 31, slot: 1 }))], { 'Tape Name': 'C001R' }),
      fileMob(31, 'C001.mov', [slot(1, pal, sourceClip('picture', 500, { mob: 0 })), slot(2, pal, timecode(500, 25))], {
        ...{ rate: pal, length: 500 },
      }),
    ]
    const [event] = read(listOf([of(30, 20, 10)], { mobs })).events
    expect(event).toMatchObject({ reel: 'C001R', path: null, mediumStartFrame: 500, source: { startFrame: 520 } })
  })

  test('one without any label counts from the beginning of its medium', () => {
    const mobs = [
      masterMob(30, 'C001', [slot(1, pal, sourceClip('picture', 500, { mob: 31, slot: 1 }))]),
      fileMob(31, 'C001.mov', [slot(1, pal, sourceClip('picture', 500, { mob: 0 }))], { rate: pal, length: 500 }),
    ]
    const [event] = read(listOf([of(30, 20, 10)], { mobs })).events
    expect(event).toMatchObject({ mediumStartFrame: 0, source: { startFrame: 20, endFrame: 30 } })
  })

  test('a clip whose mob is not in the file stays an event, of which nothing is known', () => {
    const [event] = read(listOf([of(99, 20, 10)])).events
    expect(event).toMatchObject({ clipName: null, reel: null, path: null, record: { startFrame: 90_000 } })
  })

  test('a source that runs at another rate is counted at its own, from where the cut says in time', () => {
    const fast = [50, 1] as const
    const mobs = [
      masterMob(30, 'C001', [slot(1, fast, sourceClip('picture', 500, { mob: 31, slot: 1 }))]),
      fileMob(31, 'C001.mov', [slot(1, fast, sourceClip('picture', 500, { mob: 32, slot: 1 }))], {
        ...{ rate: fast, length: 500 },
      }),
      // Labels of 25 frames a second, as cameras write them beside pictures of 50.
      tapeMob(32, 'C001', [
        slot(1, fast, sourceClip('picture', 9_000, { mob: 0 })),
        slot(2, pal, timecode(900_000, 25)),
      ]),
    ]
    const [event] = read(listOf([of(30, 10, 30)], { mobs })).events
    expect(event).toMatchObject({ sourceRate: rate(50), source: { startFrame: 1_800_020, endFrame: 1_800_080 } })
  })

  test('drop-frame labels of a source in a record that has none are told', () => {
    const mobs = [
      masterMob(30, 'C001', [slot(1, ntsc, sourceClip('picture', 500, { mob: 31, slot: 1 }))]),
      tapeMob(31, 'C001', [
        slot(1, ntsc, sourceClip('picture', 9_000, { mob: 0 })),
        slot(2, ntsc, timecode(107_892, 30, true)),
      ]),
      composition(1, 'Night', [
        slot(1, ntsc, sequence('picture', [of(30, 10, 30)])),
        slot(2, ntsc, timecode(108_000, 30)),
      ]),
    ]
    const [event] = read(writeAaf(mobs)).events
    expect(event).toMatchObject({ sourceRate: rate(30000, 1001), sourceDropFrame: true })
    expect(event?.source.startFrame).toBe(107_902)
  })

  test('sound is cut between frames: its slots may count samples', () => {
    const samples = [48_000, 1] as const
    const mobs = [
      masterMob(30, 'T01', [slot(2, samples, sourceClip('sound', 480_000, { mob: 31, slot: 1 }), { track: 2 })]),
      fileMob(
        31,
        'T01.wav',
        [slot(1, samples, sourceClip('sound', 480_000, { mob: 0 })), slot(2, pal, timecode(50, 25))],
        {
          ...{ rate: samples, length: 480_000 },
        },
      ),
    ]
    const heard = sourceClip('sound', 2400, { mob: 30, slot: 2, start: 960 })
    const slots = [slot(5, samples, sequence('sound', [filler('sound', 480), heard]), { track: 1 })]
    const cut = read(listOf([of(10, 0, 50)], { slots, mobs }))
    expect(cut.tracks.map(({ name }) => name)).toEqual(['V1', 'A1'])
    expect(cut.events[1]).toMatchObject({
      ...{ kind: 'sound', sourceChannel: 2, sourceRate: rate(25) },
      soundTimes: {
        sourceStart: { numerator: 101, denominator: 2 },
        sourceEnd: { numerator: 207, denominator: 4 },
        recordStart: { numerator: 360_001, denominator: 4 },
        recordEnd: { numerator: 180_003, denominator: 2 },
      },
    })
  })
})

describe('transitions', () => {
  test('one lies over the end of a clip and the beginning of the next; to and from black there is a filler', () => {
    const over = transition('picture', 10, dissolve)
    const cut = read(
      listOf([filler('picture', 10), over, of(10, 0, 50), over, of(20, 0, 50), over, filler('picture', 10)]),
    )
    expect(placesOf(cut)).toEqual(['V1 A001C003 90000 90040 900040 900080', 'V1 B002C001 90040 90080 900040 900080'])
    const [first, second] = cut.events
    expect(first?.transition).toMatchObject({ kind: 'dissolve', durationFrames: 10 })
    expect(second).toMatchObject({ transition: { durationFrames: 10 }, fadeOut: { durationFrames: 10 } })
    expect(exactNeeds(cut.events, cut.rate).map(({ end }) => Number(end.numerator))).toEqual([900_090, 900_090])
  })

  test('one that is longer than what goes before it is refused', () => {
    expect(() => read(listOf([transition('picture', 10, dissolve), of(10, 0, 50)]))).toThrow(
      /V1, part 1: the transition is longer than what goes before it/,
    )
    expect(() => read(listOf([of(10, 0, 5), transition('picture', 10, dissolve), of(20, 0, 50)]))).toThrow(/longer/)
  })

  test('fades of a sound clip are its own', () => {
    const faded = sourceClip('sound', 100, { mob: 10, fades: [5, 8] })
    const cut = read(listOf([of(10, 0, 50)], { slots: [slot(5, pal, sequence('sound', [faded]))] }))
    expect(cut.events[1]).toMatchObject({
      ...{ transition: { durationFrames: 5 }, fadeOut: { durationFrames: 8 } },
      record: { startFrame: 90_000, endFrame: 90_092 },
    })
  })
})

describe('operations', () => {
  const run = (length: number, taken: number, by: AafObjectOfTest[]) =>
    read(listOf([group('picture', length, speed, [of(10, 100, taken)], by)])).events[0]

  test('a speed is what the lengths say, made exact by a ratio that agrees with them either way', () => {
    expect(run(50, 100, [ratio([2, 1])])?.speed).toEqual({ numerator: 2, denominator: 1 })
    expect(run(50, 100, [ratio([1, 2])])?.speed).toEqual({ numerator: 2, denominator: 1 })
    expect(run(50, 17, [ratio([1, 3])])?.speed).toEqual({ numerator: 1, denominator: 3 })
    expect(run(50, 80, [ratio([9, 1])])?.speed).toEqual({ numerator: 8, denominator: 5 })
    expect(run(50, 80, [])?.speed).toEqual({ numerator: 8, denominator: 5 })
  })

  test('backwards it begins with the last frame that it takes; held it shows one', () => {
    expect(run(50, 100, [ratio([-2, 1])])).toMatchObject({
      ...{ speed: { numerator: -2, denominator: 1 }, source: { startFrame: 900_239 } },
      record: { startFrame: 90_000, endFrame: 90_050 },
    })
    expect(run(50, 1, [])).toMatchObject({
      ...{ speed: { numerator: 0, denominator: 1 }, source: { startFrame: 900_140, endFrame: 900_141 } },
    })
  })

  test('a speed that changes on the way is told, and so is what it is taken for', () => {
    expect(run(50, 80, [varying(3)])?.notes[0]).toContain('SPEED VARIES')
    expect(run(50, 80, [varying(2)])?.notes).toEqual([])
  })

  test('several clips that run faster as one stand where they stand', () => {
    const both = sequence('picture', [of(10, 0, 40), of(20, 0, 20)])
    const cut = read(listOf([group('picture', 30, speed, [both], [ratio([2, 1])])]))
    expect(placesOf(cut)).toEqual(['V1 A001C003 90000 90020 900040 900080', 'V1 B002C001 90020 90030 900040 900060'])
    const backwards = listOf([group('picture', 30, speed, [both], [ratio([-2, 1])])])
    expect(() => read(backwards)).toThrow(/V1, part 1: several clips that run backwards/)
  })

  test('an effect is named at its clip; layers stand one above the other; what needs no source is a generator', () => {
    const cut = read(
      listOf([
        group('picture', 50, blur, [of(10, 0, 50)]),
        group('picture', 20, titling, []),
        group('picture', 30, blur, [of(10, 100, 30), of(20, 0, 30)]),
      ]),
    )
    expect(placesOf(cut)).toEqual([
      'V1 A001C003 90000 90050 900040 900090',
      'V1 A001C003 90070 90100 900140 900170',
      'V2 B002C001 90070 90100 900040 900070',
    ])
    expect(cut.events[0]?.notes).toEqual(['* EFFECT NAME: BLUR'])
    expect(cut.generators).toEqual([{ track: 'V1', name: 'Title', record: { startFrame: 90_050, endFrame: 90_070 } }])
  })

  test('a gain of sound is a level; one that changes on the way is named at its clip', () => {
    const recording = [
      masterMob(50, 'T003', [slot(1, pal, sourceClip('sound', 1000, { mob: 51, slot: 1 }), { track: 1 })]),
      fileMob(51, 'T003.wav', [slot(1, pal, sourceClip('sound', 1000, { mob: 0 }))], {
        ...{ rate: pal, length: 1000, url: 'file:///V:/T003.wav' },
      }),
    ]
    const heard = sourceClip('sound', 50, { mob: 50, start: 0 })
    const levels = sequence('sound', [
      group('sound', 50, gain, [heard], [ratio([1, 2])]),
      group('sound', 50, gain, [group('sound', 50, gain, [heard], [ratio([1, 2])])], [ratio([1, 4])]),
      group('sound', 50, gain, [heard], [varying(3)]),
      group('sound', 50, gain, [heard], [ratio([1, 1])]),
    ])
    const cut = read(listOf([of(10, 0, 50)], { slots: [slot(2, pal, levels, { track: 1 })], mobs: recording }))
    const sounds = cut.events.filter(({ kind }) => kind === 'sound')
    expect(sounds.map(({ level }) => level?.gain)).toEqual([0.5, 0.125, undefined, undefined])
    expect(sounds.map(({ notes }) => notes)).toEqual([[], [], ['* EFFECT NAME: MONO AUDIO GAIN'], []])
  })

  test('an effect that is not as long as what is in it is refused with its place, or left out on request', () => {
    const bytes = listOf([group('picture', 50, blur, [of(10, 0, 60)]), of(20, 0, 50)])
    expect(() => read(bytes)).toThrow(CutFaults)
    expect(() => read(bytes)).toThrow('V1, part 1: its effect “Blur” is not as long as what is in it')
    const cut = read(bytes, true)
    expect(placesOf(cut)).toEqual(['V1 B002C001 90050 90100 900040 900090'])
    expect(cut.leftOut).toMatchObject([{ location: 'V1, part 1' }])
  })
})

describe('compositions in each other', () => {
  const scene = composition(40, 'Scene 4', [
    slot(1, pal, sequence('picture', [of(10, 0, 50), of(20, 0, 50)]), { track: 1 }),
  ])

  test('one within another is laid out flat, as far as it is shown', () => {
    const cut = read(listOf([of(40, 30, 40)], { mobs: [scene] }))
    expect(placesOf(cut)).toEqual(['V1 A001C003 90000 90020 900070 900090', 'V1 B002C001 90020 90040 900040 900060'])
    expect(cut.nestedSequences).toBe(1)
  })

  test('a part of a clip is no sequence, and another programme is told', () => {
    const part = composition(41, 'A001C003 part', [slot(1, pal, of(10, 200, 100))], '0500')
    const other = composition(42, 'Mill reel 2', [slot(1, pal, sequence('picture', [of(20, 0, 50)]))], '0700')
    const cut = read(listOf([of(41, 5, 10), filler('picture', 90)], { mobs: [other, part] }))
    expect(placesOf(cut)).toEqual(['V1 A001C003 90000 90010 900245 900255'])
    expect(cut.nestedSequences).toBeUndefined()
    expect(cut.leftOut?.[0]?.reason).toMatch(/“Mill reel 2” is another one/)
  })

  test('one that holds itself is refused, and so is one of clips alone', () => {
    const round = composition(43, 'Round', [slot(1, pal, sequence('picture', [of(43, 0, 50)]))])
    expect(() => read(listOf([of(43, 0, 50)], { mobs: [round] }))).toThrow(/holds itself/)
    expect(() => read(writeAaf(mill))).toThrow(/there is no composition in it/)
  })

  test('few that stand in each other many times become no more than a programme has', () => {
    const doubled = Array.from({ length: 30 }, (_, index) =>
      composition(100 + index, `level ${index}`, [
        slot(
          1,
          pal,
          sequence('picture', [of(101 + index, 0, 2 ** (29 - index)), of(101 + index, 0, 2 ** (29 - index))]),
        ),
      ]),
    )
    const last = composition(130, 'last', [slot(1, pal, sequence('picture', [of(10, 0, 1)]))])
    expect(() => read(listOf([of(100, 0, 2 ** 30)], { mobs: [...doubled, last] }))).toThrow(/when they are laid out/)
  })
})

test('remarks of the record, and tracks in the order of their numbers', () => {
  const slots = [
    slot(6, pal, sequence('picture', [of(20, 0, 10)]), { track: 3 }),
    slot(7, pal, sequence('picture', [of(20, 50, 10)]), { track: 2 }),
    markers(8, pal, [[12, 'Check the flour']]),
  ]
  const cut = read(listOf([of(10, 0, 50)], { slots }))
  expect(cut.events.map(({ track, source }) => `${track} ${source.startFrame}`)).toEqual([
    'V1 900040',
    'V2 900090',
    'V3 900040',
  ])
  expect(cut.markers).toEqual([{ recordFrame: 90_012, durationFrames: 1, name: '', note: 'Check the flour' }])
})

test('files of large sectors are read as those of small ones', () => {
  const mobs = [...mill, composition(1, 'Mill', [record, slot(1, pal, sequence('picture', [of(10, 100, 50)]))])]
  expect(read(writeAaf(mobs, operations, 4096))).toEqual(read(writeAaf(mobs, operations, 512)))
})

test('what was read of it is written in the three formats, and says the same when it is read again', () => {
  const cut = read(
    listOf([
      of(10, 0, 50),
      transition('picture', 10, dissolve),
      of(20, 0, 50),
      group('picture', 50, speed, [of(10, 100, 100)], [ratio([-2, 1])]),
    ]),
  )
  for (const format of [edl, otio, xmeml]) expect(() => writeProven(cut, format)).not.toThrow()
})

test('a harmed file is read or refused with a plain reason, and nothing else', () => {
  const good = listOf([
    of(10, 0, 50),
    transition('picture', 10, dissolve),
    group('picture', 50, speed, [of(10, 100, 100)], [ratio([-2, 1])]),
  ])
  const place = fc.nat(good.length - 1)
  const harm = fc.array(fc.tuple(place, fc.constantFrom(0, 1, 0x7f, 0x80, 0xfe, 0xff)), { minLength: 1, maxLength: 8 })
  fc.assert(
    fc.property(harm, fc.option(place, { freq: 8 }), (changes, end) => {
      const bytes = good.slice(0, end ?? good.length)
      for (const [at, byte] of changes) bytes[at] = byte
      try {
        read(bytes, true)
      } catch (error) {
        if (!(error instanceof CutFormatError)) throw error
      }
    }),
    { seed: Number(process.env.ENNICK_FUZZ_SEED ?? 4600), numRuns: Number(process.env.ENNICK_FUZZ_RUNS ?? 500) },
  )
})
