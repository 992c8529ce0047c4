import { describe, expect, test } from '@jest/globals'
import { rate } from '../../../time/index.ts'
import { CutFaults, neededRanges } from '../../model.ts'
import { writeProven } from '../prove.ts'
import { edl } from './read-edl.ts'

const options = { rate: rate(25), fileName: 'reel 2.edl' }
const read = (lines: string, change: object = {}) => edl.read(`TITLE: Reel 2\n${lines}`, { ...options, ...change })
const again = (lines: string) => read(writeProven(read(lines), edl).replace(/^TITLE.*$/m, ''))
const tracksOf = (lines: string) => read(lines).events.map(({ track, number }) => `${track} ${number}`)

describe('black', () => {
  const fades = `001  A001 V C        01:00:00:00 01:00:04:00 10:00:00:00 10:00:04:00
* FROM CLIP NAME: A001C001.MOV
002  A001 V C        01:00:04:00 01:00:04:00 10:00:04:00 10:00:04:00
002  BL   V D    025 00:00:00:00 00:00:02:00 10:00:04:00 10:00:06:00
003  BL   V C        00:00:00:00 00:00:00:00 10:00:06:00 10:00:06:00
003  B001 V D    012 02:00:00:00 02:00:02:00 10:00:06:00 10:00:08:00`

  test('a clip that goes to black lends what is seen of it; one that comes out of black takes nothing of another', () => {
    const cut = read(fades)
    expect(cut.events.map(({ number }) => number)).toEqual(['001', '003'])
    expect(cut.events[0]?.fadeOut).toMatchObject({ kind: 'dissolve', durationFrames: 25, number: '002' })
    // Four seconds, and one more in which it goes to black.
    expect(neededRanges(cut.events, cut.rate)).toEqual([
      { startFrame: 90_000, endFrame: 90_125 },
      { startFrame: 180_000, endFrame: 180_050 },
    ])
  })

  test('and leaves as it came, with its numbers', () => {
    const lines = writeProven(read(fades), edl).split('\r\n')
    const events = lines.filter((line) => /^\d/.test(line)).map((line) => line.split(/\s+/).slice(0, 5).join(' '))
    expect(events).toEqual([
      '001 A001 V C 01:00:00:00',
      '002 A001 V C 01:00:04:00',
      '002 BL V D 025',
      '003 BL V C 00:00:00:00',
      '003 B001 V D 012',
    ])
  })

  test('out of black directly behind another clip is no dissolve from that', () => {
    const hard = `001  A001 V C        01:00:00:00 01:00:04:00 10:00:00:00 10:00:04:00
002  BL   V C        00:00:00:00 00:00:00:00 10:00:04:00 10:00:04:00
002  B001 V D    012 02:00:00:00 02:00:02:00 10:00:04:00 10:00:06:00`
    const cut = read(hard)
    expect(cut.events[1]?.transition).toMatchObject({ fromBlack: true })
    expect(neededRanges(cut.events, cut.rate)[0]).toEqual({ startFrame: 90_000, endFrame: 90_100 })
    expect(again(hard).events.map(({ transition }) => transition)).toEqual(
      cut.events.map(({ transition }) => transition),
    )
  })

  test('to black out of nothing is told', () => {
    const lines = `001  A001 V C        01:00:04:00 01:00:04:00 10:00:04:00 10:00:04:00
001  BL   V D    025 00:00:00:00 00:00:02:00 10:00:04:00 10:00:06:00`
    expect(() => read(lines)).toThrow('nothing ends on V1 where event 001 goes to black')
  })
})

test('keys are two pictures of one number, the one above the other, and leave so', () => {
  const key = `004  A001 V K B      01:00:00:00 01:00:04:00 10:00:00:00 10:00:04:00
004  T001 V K    010 02:00:00:00 02:00:04:00 10:00:00:00 10:00:04:00
005  B001 V C        03:00:00:00 03:00:01:00 10:00:04:00 10:00:05:00
006  T002 V K O  008 04:00:00:00 04:00:01:00 10:00:04:00 10:00:05:00`
  const { events } = read(key)
  expect(events.map(({ track, number, key: part }) => [track, number, part])).toEqual([
    ['V1', '004', { part: 'background', durationFrames: 0 }],
    ['V1', '005', undefined],
    ['V2', '004', { part: 'foreground', durationFrames: 10 }],
    ['V2', '006', { part: 'foreground out', durationFrames: 8 }],
  ])
  expect(again(key).events).toEqual(events.map((event) => ({ ...event, location: expect.any(String) })))
})

describe('channels', () => {
  const at = '01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00'
  test.each([
    ['B', ['V1', 'A1']],
    ['AA', ['A1', 'A2']],
    ['AA/V', ['V1', 'A1', 'A2']],
    ['A12', ['A1', 'A2']],
    ['A34', ['A3', 'A4']],
    ['A3/V', ['V1', 'A3']],
    ['NONE', []],
  ])('%s', (field, tracks) => {
    const lines = `001  A001 V2 C ${at}\n002  A001 ${field} C ${at}`
    expect(read(lines).events.flatMap(({ track, number }) => (number === '002' ? [track] : []))).toEqual(tracks)
  })

  test('where a list has an eleventh channel, A12 is the twelfth', () => {
    expect(tracksOf(`001  A001 A11 C ${at}\n002  A001 A12 C ${at}`)).toEqual(['A11 001', 'A12 002'])
  })

  test('one event on several tracks leaves as one, with its number', () => {
    const lines = `007  A001 AA/V C ${at}\nAUD 3 4\n* FROM CLIP NAME: A001C001.MOV`
    const written = writeProven(read(lines), edl)
    expect(written.match(/^007.*/gm)).toHaveLength(1)
    expect(written).toMatch(/^AUD\s+3\s+4$/m)
    expect(read(written).events.map(({ track }) => track)).toEqual(['V1', 'A1', 'A2', 'A3', 'A4'])
  })
})

test('lines of one number on different tracks keep it: split edits, a picture above the first beside its sound', () => {
  const lines = `004  A001 V C 01:00:00:00 01:00:02:00 10:00:00:00 10:00:02:00
SPLIT:    AUDIO DELAY= 00:00:00:10
004  A001 A C 01:00:00:10 01:00:02:10 10:00:00:10 10:00:02:10
005  B001 V2 C 02:00:00:00 02:00:01:00 10:00:03:00 10:00:04:00
005  B001 A C 02:00:00:00 02:00:01:00 10:00:03:00 10:00:04:00`
  expect(edl.replaced(read(lines))).toEqual([])
  expect(
    again(lines)
      .events.map(({ track, number }) => `${track} ${number}`)
      .sort(),
  ).toEqual(tracksOf(lines).sort())
})

describe('time', () => {
  test('a record over midnight on several tracks, each from before it', () => {
    const lines = ['V', 'A']
      .map(
        (track, index) => `00${index * 2 + 1}  A001 ${track} C 01:00:00:00 01:00:02:00 23:59:58:00 00:00:00:00
00${index * 2 + 2}  A001 ${track} C 01:00:02:00 01:00:03:00 00:00:00:00 00:00:01:00`,
      )
      .join('\n')
    const day = 24 * 3600 * 25
    const records = read(lines).events.map(({ record }) => [record.startFrame - day, record.endFrame - day])
    expect(records).toEqual([
      [-50, 0],
      [0, 25],
      [-50, 0],
      [0, 25],
    ])
  })

  test('24:00:00:00 is the end of the day', () => {
    const [event] = read('001  A001 V C 23:59:59:00 24:00:00:00 23:59:59:00 24:00:00:00').events
    expect([event?.source.endFrame, event?.record.endFrame]).toEqual([2_160_000, 2_160_000])
  })

  test('a motion that begins within an event leaves what is before it as it was taken', () => {
    const lines = `001  A001 V C 01:00:00:00 01:00:04:00 10:00:00:00 10:00:04:00
M2   A001     050.0          01:00:01:00`
    const cut = read(lines)
    expect(
      cut.events.map(({ source, record, speed }) => [
        source.startFrame,
        record.endFrame - record.startFrame,
        speed.numerator,
      ]),
    ).toEqual([
      [90_000, 25, 1],
      [90_025, 75, 2],
    ])
    // One second as it is, then three seconds at twice the speed: 25 + 150 frames.
    expect(neededRanges(cut.events, cut.rate).at(-1)?.endFrame).toBe(90_000 + 25 + 150)
    expect(edl.replaced(cut)).toEqual([{ what: 'event number', from: '001', to: '002' }])
  })
})

describe('what is bad in a list', () => {
  const bad = `001  A001 V C 01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00
* FROM CLIP NAME: A001C001.MOV
002  A001 V C 01:00:00:00 01:00:01:99 10:00:01:00 10:00:02:00
* FROM CLIP NAME: OF THE BAD ONE
hello
003  B001 V C 01:00:00:00 01:00:01:00 10:00:02:00 10:00:03:00
004  B001 V C 01:00:00:00 01:00:01:00 10:00:02:10 10:00:03:10`

  test('every bad line is told, in order', () => {
    let error: unknown
    try {
      read(bad)
    } catch (caught) {
      error = caught
    }
    expect(error).toBeInstanceOf(CutFaults)
    expect((error as CutFaults).faults.map(({ location }) => location)).toEqual(['line 4', 'line 6', 'line 8'])
    expect((error as Error).message).toContain('the last is 24')
    expect((error as Error).message).toContain('overlaps event 003')
  })

  test('on request the good events are taken, and nothing of a bad one goes to another', () => {
    const cut = read(bad, { takeGood: true })
    expect(cut.events.map(({ number, clipName }) => [number, clipName])).toEqual([
      ['001', 'A001C001.MOV'],
      ['003', null],
    ])
    expect(cut.leftOut?.map(({ location }) => location)).toEqual(['line 4', 'line 6', 'line 8'])
  })

  test('a line that is no event at all takes nothing of the good one before it along', () => {
    const list = `TITLE: x
001  A001 V C 10:00:00:00 10:00:01:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.MOV
002  A001 V C bad line
003  A001 V C 10:01:00:00 10:01:00:00 01:00:02:00 01:00:02:00
003  A001 V D 010 10:01:00:10 10:01:01:10 01:00:02:00 01:00:03:00
* TO CLIP NAME: A001C002.MOV
004  nothing
005  A001 V C 10:02:00:00 10:02:00:00 01:00:04:00 01:00:04:00
005  A001 V D 010 bad
`
    const cut = read(list, { takeGood: true })
    expect(cut.events.map(({ number, clipName, transition }) => [number, clipName, transition?.kind])).toEqual([
      ['001', 'A001C001.MOV', undefined],
      ['003', 'A001C002.MOV', 'dissolve'],
    ])
    expect(cut.leftOut?.map(({ location }) => location)).toEqual(['line 5', 'line 9', 'line 11'])
  })

  test('a list without one good event is refused all the same', () => {
    expect(() => read('hello', { takeGood: true })).toThrow('no line of a CMX 3600 list')
  })
})

describe('reels', () => {
  const at = (second: number) => `01:00:00:00 01:00:01:00 10:00:0${second}:00 10:00:0${second + 1}:00`
  const lines = `001  X V C ${at(0)}\n* REEL NAME: RIVERSIDE_01\n002  X V C ${at(1)}\n* REEL NAME: RIVERSIDE_02\n003  X V C ${at(2)}\n* REEL NAME: AX`

  test('are kept whole, or cut to eight so that no two become one; a remark has them whole', () => {
    const cut = read(lines)
    const words = (text: string) => (text.match(/^\d.*/gm) ?? []).map((line) => line.split(/\s+/)[1])
    expect(words(edl.write(cut))).toEqual(['RIVERSIDE_01', 'RIVERSIDE_02', 'AX'])
    const short = { edlReels: 'eight characters' } as const
    expect(words(edl.write(cut, short))).toEqual(['RIVERSID', 'RIVERSI2', 'AX'])
    expect(edl.replaced(cut, short)).toEqual([
      { what: 'reel', from: 'RIVERSIDE_01', to: 'RIVERSID' },
      { what: 'reel', from: 'RIVERSIDE_02', to: 'RIVERSI2' },
    ])
    expect(read(writeProven(cut, edl, short)).events.map(({ reel }) => reel)).toEqual([
      'RIVERSIDE_01',
      'RIVERSIDE_02',
      'AX',
    ])
  })
})

test('other spacings and cases of remarks are read', () => {
  const [event] = read(
    '001  A V C 01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00\n*from clip name : a.mov\n* Source  File: /x/a.mov',
  ).events
  expect(event).toMatchObject({ clipName: 'a.mov', path: '/x/a.mov' })
})
