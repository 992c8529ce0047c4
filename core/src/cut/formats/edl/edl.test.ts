import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { formatTimecode, rate } from '../../../time/index.ts'
import { type Cut, CutFormatError, neededRanges, normalSpeed } from '../../model.ts'
import { motionSpeed } from './motion-speed.ts'
import { edl } from './read-edl.ts'

const options = { rate: rate(25), fileName: 'reel 1.edl' }
const read = (text: string, at = options) => edl.read(text, at)
const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b))
const event = (line: string) => `TITLE: T\nFCM: NON-DROP FRAME\n${line}`

const example = `TITLE: LOW WATER REEL 1
FCM: NON-DROP FRAME

001  A001     V     C        09:14:03:00 09:14:05:00 10:00:00:00 10:00:02:00
* FROM CLIP NAME: A001C001_1104.MOV
* SOURCE FILE: /Volumes/TIDE-1/A001C001_1104.mov
002  A001     V     C        09:14:05:00 09:14:05:00 10:00:02:00 10:00:02:00
002  B001     V     D    012 09:34:01:00 09:34:03:20 10:00:02:00 10:00:04:20
* FROM CLIP NAME: A001C001_1104.MOV
* TO CLIP NAME: B001C003.MOV
* THE SUN COMES OUT HERE
003  B001     AA/V  C        09:22:00:00 09:22:01:00 10:00:04:20 10:00:05:20
004  BL       V     C        00:00:00:00 00:00:01:00 10:00:05:20 10:00:06:20
005  R07      V     W001 005 01:00:00:00 01:00:02:00 10:00:06:20 10:00:08:20
M2   R07      050.0          01:00:00:00
`

describe('reading', () => {
  const cut = read(example)
  const picture = cut.events.filter((item) => item.track === 'V1')

  test('title, tracks and the order of events', () => {
    expect(cut.name).toBe('LOW WATER REEL 1')
    expect(cut.tracks.map((track) => track.name)).toEqual(['V1', 'A1', 'A2'])
    expect(picture.map((item) => item.number)).toEqual(['001', '002', '003', '005'])
  })

  test('names, paths and reels', () => {
    expect(picture[0]).toMatchObject({
      clipName: 'A001C001_1104.MOV',
      path: '/Volumes/TIDE-1/A001C001_1104.mov',
      reel: 'A001',
      source: { startFrame: 831_075, endFrame: 831_125 },
    })
  })

  test('a dissolve belongs to the event it leads into', () => {
    expect(picture[1]).toMatchObject({
      clipName: 'B001C003.MOV',
      transition: { kind: 'dissolve', durationFrames: 12 },
      notes: ['* THE SUN COMES OUT HERE'],
    })
    expect(picture[0]?.transition).toBeNull()
  })

  test('a motion line sets the speed, and explains no length', () => {
    expect(picture[3]).toMatchObject({
      speed: { numerator: 2, denominator: 1 },
      transition: { kind: 'wipe', wipeCode: '001', durationFrames: 5 },
    })
  })

  test.each<[string, ReturnType<typeof rate>, number, number]>([
    ['050.0', rate(25), 2, 1],
    ['012.5', rate(25), 1, 2],
    ['024.0', rate(25), 24, 25],
    ['033.333', rate(25), 4, 3],
    ['048.0', rate(24000, 1001), 2, 1],
    ['024', rate(24000, 1001), 1, 1],
    ['023.976', rate(24000, 1001), 1, 1],
    ['23.98', rate(24000, 1001), 1, 1],
    ['047.952', rate(24000, 1001), 2, 1],
    ['-030.0', rate(30000, 1001), -1, 1],
    ['015.0', rate(30000, 1001), 1, 2],
    ['000.0', rate(25), 0, 1],
  ])('a motion of %s frames a second means a speed', (written, at, numerator, denominator) => {
    expect(motionSpeed(written, at)).toEqual({ numerator, denominator })
  })

  test('speeds leave with three decimals and come back as they were', () => {
    const rates = [rate(25), rate(24), rate(24000, 1001), rate(30000, 1001), rate(50)]
    const percent = fc.integer({ min: 1, max: 1000 })
    fc.assert(
      fc.property(fc.constantFrom(...rates), percent, fc.boolean(), (at, numerator, isBackwards) => {
        const divisor = gcd(numerator, 100)
        const speed = { numerator: ((isBackwards ? -1 : 1) * numerator) / divisor, denominator: 100 / divisor }
        const written = ((speed.numerator * at.numerator) / (speed.denominator * at.denominator)).toFixed(3)
        expect(motionSpeed(written, at)).toEqual(speed)
      }),
    )
  })

  test('a reversed event with its out before its in is as long as what lies between', () => {
    const text = event('001  A V C 10:00:10:00 10:00:08:00 01:00:00:00 01:00:02:00\nM2 A -025.0 10:00:10:00')
    const cut = read(text)
    expect(cut.events[0]).toMatchObject({
      source: { startFrame: 900_250, endFrame: 900_300 },
      speed: { numerator: -1, denominator: 1 },
    })
    expect(neededRanges(cut.events, cut.rate)).toEqual([{ startFrame: 900_201, endFrame: 900_251 }])
    expect(read(edl.write(cut)).events[0]).toMatchObject({ source: cut.events[0]?.source, speed: cut.events[0]?.speed })
  })

  test('black is a use of nothing', () => {
    expect(cut.events.some((item) => item.number === '004')).toBe(false)
  })

  test('drop-frame is counted as drop-frame, and mixed labels by the mode in force', () => {
    const text = 'TITLE: D\nFCM: DROP FRAME\n001  DR01 V C 12:59:58;00 12:59:59;00 01:00:00;00 01:00:01;00'
    const drop = read(text, { ...options, rate: rate(30000, 1001) })
    expect(drop.dropFrame).toBe(true)
    expect(formatTimecode(drop.events[0]?.source.startFrame ?? 0, rate(30000, 1001), true)).toBe('12:59:58;00')
  })

  test('in a drop-frame list every label says its own mode, whatever FCM lines stand between', () => {
    const ntsc = { ...options, rate: rate(30000, 1001) }
    const text = `TITLE: D
FCM: DROP FRAME
001  D1 V C 10:00:00;00 10:00:02;00 01:00:00;00 01:00:02;00
FCM: NON-DROP FRAME
002  N1 V C 10:00:00:00 10:00:02:00 01:00:02;00 01:00:04;00
003  N2 V C 11:00:00:00 11:00:02:00 01:10:00;00 01:10:02;00`
    const cut = read(text, ntsc)
    expect(cut.dropFrame).toBe(true)
    expect(cut.events.map(({ sourceDropFrame }) => sourceDropFrame)).toEqual([undefined, false, false])
    // 10:00:00:00 counts 1,080,000 frames non-drop; 01:10:00;00 is 126,000 labels less 2 for each of 63 minutes.
    expect(cut.events[1]?.source).toEqual({ startFrame: 1_080_000, endFrame: 1_080_060 })
    expect(cut.events[2]?.record.startFrame).toBe(126_000 - 2 * 63)
    const again = edl.write(cut)
    expect(again).toMatch(/N1 .*10:00:00:00 10:00:02:00 01:00:02;00 01:00:04;00/)
    expect(read(again, ntsc).events.map(({ location: _, ...rest }) => rest)).toEqual(
      cut.events.map(({ location: _, ...rest }) => rest),
    )
  })

  test('where labels do not say it, FCM counts for sources, and the first for the record', () => {
    const text = `FCM: DROP FRAME
001  D1 V C 10:00:00:00 10:00:02:00 01:10:00:00 01:10:02:00
FCM: NON-DROP FRAME
002  N1 V C 10:00:00:00 10:00:02:00 01:10:02:00 01:10:04:00`
    const { events, dropFrame } = read(text, { ...options, rate: rate(30000, 1001) })
    expect([dropFrame, events[1]?.sourceDropFrame]).toEqual([true, false])
    expect(events.map(({ record }) => record.startFrame)).toEqual([126_000 - 126, 126_060 - 126])
    expect(events.map(({ source }) => source.startFrame)).toEqual([1_080_000 - 1080, 1_080_000])
  })

  test('any line ending and a byte order mark', () => {
    for (const ending of ['\r\n', '\r'])
      expect(read(`\uFEFF${example.replaceAll('\n', ending)}`).events).toHaveLength(cut.events.length)
  })

  test('a record that runs over midnight goes on after it, and comes back with its own labels', () => {
    const text = event(
      [
        '001  A V C 01:00:00:00 01:00:01:00 23:59:58:00 23:59:59:00',
        '002  A V C 02:00:00:00 02:00:02:00 23:59:59:00 00:00:01:00',
        '003  A V C 03:00:00:00 03:00:01:00 00:00:01:00 00:00:02:00',
      ].join('\n'),
    )
    const records = read(text).events.map(({ record }) => [record.startFrame, record.endFrame])
    const day = 24 * 3600 * 25
    expect(records).toEqual([
      [day - 50, day - 25],
      [day - 25, day + 25],
      [day + 25, day + 50],
    ])
    const again = edl.write(read(text))
    expect(again).toContain('23:59:59:00 00:00:01:00')
    expect(read(again).events.map(({ record }) => [record.startFrame, record.endFrame])).toEqual(records)
  })

  test('channels above the second are on a line of their own', () => {
    const tracks = (text: string) => read(event(text)).events.map(({ track }) => track)
    const times = '01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00'
    expect(tracks(`001  A AA/V C ${times}\nAUD  3    4`)).toEqual(['V1', 'A1', 'A2', 'A3', 'A4'])
    expect(tracks(`001  A NONE C ${times}\nAUD 03`)).toEqual(['A3'])
  })

  test('a reel that the field cannot hold is said in a remark, and leaves so again', () => {
    const text = event(
      '001  LOWWATER V C 01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00\n* REEL NAME: LOW WATER REEL 12',
    )
    expect(read(text).events[0]).toMatchObject({ reel: 'LOW WATER REEL 12', notes: [] })
    expect(read(edl.write(read(text))).events[0]?.reel).toBe('LOW WATER REEL 12')
  })

  test('a dissolve out of a clip without a reel does not come out of black', () => {
    const text = event(
      [
        '001  AX V C 01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00',
        '002  B V D 010 02:00:00:00 02:00:01:00 10:00:01:00 10:00:02:00',
      ].join('\n'),
    )
    expect(edl.write(read(text))).toMatch(/^002\s+AX\s+V\s+C\s/m)
    expect(edl.write(read(text))).not.toMatch(/\sBL\s/)
  })

  test('a source that runs over midnight ends after it', () => {
    const over = read(event('001  N1 V C 23:59:59:00 00:00:01:00 10:00:00:00 10:00:02:00')).events[0]
    expect((over?.source.endFrame ?? 0) - (over?.source.startFrame ?? 0)).toBe(50)
  })
})

describe('refusing, with the line and the reason', () => {
  test.each([
    ['', 'line 1', 'no event'],
    [event('001  A001 V C 09:14:03:00 09:14:05:00 10:00:00:00'), 'line 3', 'four timecodes'],
    [event('001  A001 V C 09:14:03:00 09:14:05:25 10:00:00:00 10:00:02:00'), 'line 3', 'the last is 24'],
    [event('001  A001 V C 09:14:03:00 09:14:05:00 10:00:00:00 10:00:03:00'), 'line 3', '50 source frames for 75'],
    [event('001  A001 V C 09:14:03:00 09:14:05:00 10:00:02:00 10:00:00:00'), 'line 3', 'lies before'],
    [event('001  A001 V D 09:14:03:00 09:14:05:00 10:00:00:00 10:00:02:00'), 'line 3', 'needs its length'],
    [event('001  A001 V K X 09:14:03:00 09:14:05:00 10:00:00:00 10:00:02:00'), 'line 3', 'not an event'],
    [event('hello'), 'line 3', 'no line of a CMX 3600 list'],
    [event('M2 A001 25 01:00:00:00'), 'line 3', 'follows no event'],
    [event('AUD 3 4'), 'line 3', 'follows no event'],
    [
      event('001  A V C 01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00\nAUD three'),
      'line 4',
      'names no sound channels',
    ],
    ['FCM: DROP FRAME\n001  A001 V C 09:14:03:00 09:14:05:00 10:00:00:00 10:00:02:00', 'line 1', 'does not have'],
    [
      event(
        '001  A V C 01:00:00:00 01:00:02:00 10:00:00:00 10:00:02:00\n002  B V C 01:00:00:00 01:00:02:00 10:00:01:00 10:00:03:00',
      ),
      'line 4',
      'overlaps event 001',
    ],
  ])('%j', (text, location, reason) => {
    try {
      read(text)
      throw new Error('it was read')
    } catch (error) {
      expect(error).toBeInstanceOf(CutFormatError)
      expect((error as CutFormatError).location).toBe(location)
      expect((error as Error).message).toContain(reason)
    }
  })

  test('no text whatever does anything but read or refuse', () => {
    const line = fc.oneof(
      fc.string(),
      fc.constantFrom(
        'TITLE: x',
        'FCM: NON-DROP FRAME',
        '001  A001 V C 09:14:03:00 09:14:05:00 10:00:00:00 10:00:02:00',
        '* FROM CLIP NAME: x',
        'M2 A 1 00:00:00:00',
      ),
    )
    fc.assert(
      fc.property(fc.array(line, { maxLength: 8 }), (lines) => {
        try {
          read(lines.join('\n'))
        } catch (error) {
          expect(error).toBeInstanceOf(CutFormatError)
        }
      }),
    )
  })
})

describe('writing', () => {
  test('what was read comes back the same', () => {
    const cut = read(example)
    const again = read(edl.write(cut))
    const essence = (item: Cut) => item.events.map(({ location: _, number: __, ...rest }) => rest)
    expect(essence(again)).toEqual(essence(cut))
  })

  const anyEvent = fc.record({
    gap: fc.nat(50),
    length: fc.integer({ min: 1, max: 500 }),
    start: fc.nat(2_000_000),
    reel: fc.stringMatching(/^[A-Z][0-9]{1,6}$/),
    name: fc.stringMatching(/^[A-Za-z0-9_.]{1,20}$/),
  })
  test('any plain cut survives', () => {
    fc.assert(
      fc.property(fc.array(anyEvent, { minLength: 1, maxLength: 20 }), (items) => {
        let at = 900_000
        const events = items.map((item, index) => {
          const recordStart = at + item.gap
          at = recordStart + item.length
          return {
            number: String(index + 1).padStart(3, '0'),
            track: 'V1',
            kind: 'picture' as const,
            clipName: item.name,
            reel: item.reel,
            path: null,
            source: { startFrame: item.start, endFrame: item.start + item.length },
            sourceRate: rate(25),
            mediumStartFrame: null,
            record: { startFrame: recordStart, endFrame: at },
            transition: null,
            speed: normalSpeed,
            notes: [],
            location: '',
          }
        })
        const cut: Cut = {
          name: 'x',
          rate: rate(25),
          dropFrame: false,
          tracks: [{ name: 'V1', kind: 'picture' }],
          events,
        }
        expect(read(edl.write(cut)).events.map((item) => ({ ...item, location: '' }))).toEqual(events)
      }),
    )
  })

  test('a source of another rate is refused: the list has one', () => {
    const cut = read(example)
    const mixed = { ...cut, events: cut.events.map((item) => ({ ...item, sourceRate: rate(24) })) }
    expect(() => edl.write(mixed)).toThrow('Hand it off as OTIO or XML')
  })

  test('a path with a line break in it stays on one line', () => {
    const cut = read(event('001  A001 V C 09:14:03:00 09:14:05:00 10:00:00:00 10:00:02:00'))
    const odd = { ...cut, events: cut.events.map((item) => ({ ...item, path: '/a/two\nlines.mov' })) }
    expect(read(edl.write(odd)).events[0]?.path).toBe('file:///a/two%0Alines.mov')
  })
})
