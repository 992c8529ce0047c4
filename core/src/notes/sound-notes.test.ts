import { describe, expect, test } from '@jest/globals'
import { rate } from '../time/index.ts'
import { isRealDate, parseBext, parseIxml, readSoundNotes } from './index.ts'

const today = '2026-11-25'

/** A bext chunk as EBU Tech 3285 lays it out. */
function bext(
  values: { description?: string; originator?: string; date?: string; time?: string; reference?: bigint } = {},
): Uint8Array {
  const bytes = new Uint8Array(602)
  const put = (text: string, at: number): void => bytes.set(new TextEncoder().encode(text), at)
  put(values.description ?? 'Mill, morning', 0)
  put(values.originator ?? 'Ferry 4', 256)
  put('REF-1', 288)
  put(values.date ?? '2026-11-04', 320)
  put(values.time ?? '09:14:00', 330)
  new DataView(bytes.buffer).setBigUint64(338, values.reference ?? 1_595_520_000n, true)
  return bytes
}

const ixml = (inside: string): Uint8Array =>
  new TextEncoder().encode(`<?xml version="1.0"?><BWFXML>${inside}</BWFXML>\0\0`)
const file = { channels: 4, sampleRate: 48_000 }

describe('bext', () => {
  test('reads every field', () => {
    expect(parseBext(bext(), today)).toEqual({
      description: 'Mill, morning',
      originator: 'Ferry 4',
      originatorReference: 'REF-1',
      originationDate: '2026-11-04',
      originationTime: '09:14:00',
      timeReferenceSamples: 1_595_520_000,
      problems: [],
    })
  })

  test('the separators of date and time are the writer’s choice', () => {
    expect(parseBext(bext({ date: '2026_11_04', time: '09.14.00' }), today)).toMatchObject({
      originationDate: '2026-11-04',
      originationTime: '09:14:00',
    })
  })

  test('a time reference above 32 bits is whole', () => {
    expect(parseBext(bext({ reference: 2n ** 33n + 5n }), today).timeReferenceSamples).toBe(8_589_934_597)
  })

  test.each([
    [{ date: '2027-01-01' }, 'in the future'],
    [{ date: '2026-02-30' }, 'is no date'],
    [{ date: 'yesterday!' }, 'is no date'],
    [{ time: '25:00:00' }, 'no time of day'],
    [{ reference: 2n ** 60n }, 'no time of day'],
  ])('%j is told and the rest is read', (values, problem) => {
    const read = parseBext(bext(values), today)
    expect(read.problems.join()).toContain(problem)
    expect(read.originator).toBe('Ferry 4')
  })

  test('a chunk that is cut off gives what is left of it', () => {
    const read = parseBext(bext().slice(0, 300), today)
    expect(read).toMatchObject({ description: 'Mill, morning', timeReferenceSamples: null })
    expect(read.problems[0]).toContain('cut off: 300 of at least 348')
    expect(parseBext(new Uint8Array(0), today).description).toBeNull()
  })

  test('bytes that are no UTF-8 are Latin-1', () => {
    const bytes = bext({ description: '' })
    bytes.set([0x4d, 0xfc, 0x68, 0x6c, 0x65], 0)
    expect(parseBext(bytes, today).description).toBe('Mühle')
  })

  test('a date is one of the calendar', () => {
    expect(['2024-02-29', '2026-11-04'].every(isRealDate)).toBe(true)
    expect(['2026-02-29', '2026-13-01', '04-11-2026', ''].some(isRealDate)).toBe(false)
  })
})

describe('iXML', () => {
  test('reads scene, take, tracks in channel order, rate and flag', () => {
    const read = parseIxml(
      '<BWFXML><PROJECT>Low Water</PROJECT><SCENE>12A</SCENE><TAKE>3</TAKE><TAPE>MIX-01</TAPE><CIRCLED>TRUE</CIRCLED><NOTE>gulls &amp; wind</NOTE>' +
        '<SPEED><TIMECODE_RATE>30000/1001</TIMECODE_RATE><TIMECODE_FLAG>DF</TIMECODE_FLAG><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>1</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>5</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO><TIMESTAMP_SAMPLE_RATE>48000</TIMESTAMP_SAMPLE_RATE></SPEED>' +
        '<TRACK_LIST><TRACK_COUNT>2</TRACK_COUNT><TRACK><INTERLEAVE_INDEX>2</INTERLEAVE_INDEX><NAME>BOOM</NAME></TRACK><TRACK><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>MIX</NAME></TRACK></TRACK_LIST></BWFXML>',
    )
    expect(read).toEqual({
      project: 'Low Water',
      scene: '12A',
      take: '3',
      tape: 'MIX-01',
      note: 'gulls & wind',
      circled: true,
      timecodeRate: rate(30000, 1001),
      dropFrame: true,
      timestampSamples: 4_294_967_301,
      timestampSampleRate: 48_000,
      speedNote: null,
      trackNames: ['MIX', 'BOOM'],
      problems: [],
    })
  })

  test.each([
    ['<BWFXML><SCENE>12', 'not well-formed'],
    ['<!DOCTYPE x [<!ENTITY a "b">]><BWFXML><SCENE>&a;</SCENE></BWFXML>', 'document type'],
    ['<HTML></HTML>', 'begins with <HTML>'],
    ['', 'not read'],
    ['<BWFXML><SPEED><TIMECODE_RATE>25/0</TIMECODE_RATE></SPEED></BWFXML>', 'no rate'],
    [
      '<BWFXML><SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE><TIMECODE_FLAG>DF</TIMECODE_FLAG></SPEED></BWFXML>',
      'contradicts itself: drop-frame at 25',
    ],
    ['<BWFXML><TRACK_LIST><TRACK_COUNT>9</TRACK_COUNT></TRACK_LIST></BWFXML>', 'claims 9 tracks and lists 0'],
    ['<BWFXML><CIRCLED>MAYBE</CIRCLED></BWFXML>', 'neither TRUE nor FALSE'],
  ])('%s is told', (text, problem) => {
    expect(parseIxml(text).problems.join()).toContain(problem)
  })

  test('growing entities are never expanded', () => {
    const bomb = `<!DOCTYPE l [<!ENTITY a "${'x'.repeat(1000)}">${Array.from({ length: 20 }, (_, index) => `<!ENTITY b${index} "&a;&a;&a;">`).join('')}]><BWFXML><SCENE>&b19;</SCENE></BWFXML>`
    expect(parseIxml(bomb).scene).toBeNull()
  })
})

describe('both together', () => {
  test('nothing is nothing', () => expect(readSoundNotes({ bext: null, ixml: null }, file, today)).toBeNull())

  test('where they contradict each other bext is believed, and it is told', () => {
    const notes = readSoundNotes(
      {
        bext: bext(),
        ixml: ixml('<SPEED><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>7</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED>'),
      },
      file,
      today,
    )
    expect(notes?.timeReferenceSamples).toBe(1_595_520_000)
    expect(notes?.problems.join()).toContain('bext starts 1595520000 samples after midnight, iXML 7')
  })

  test('a timestamp counted at another rate is brought to the file’s', () => {
    const notes = readSoundNotes(
      {
        bext: null,
        ixml: ixml(
          '<SPEED><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>96000</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO><TIMESTAMP_SAMPLE_RATE>96000</TIMESTAMP_SAMPLE_RATE></SPEED>',
        ),
      },
      file,
      today,
    )
    expect(notes).toMatchObject({ timeReferenceSamples: 48_000, problems: [] })
  })

  test('a recorder without iXML writes lines into the description', () => {
    const notes = readSoundNotes(
      { bext: bext({ description: 'sSCENE=12A\r\nsTAKE=1\r\nsTRK1=MIX\r\nsTRK3=INES' }), ixml: null },
      file,
      today,
    )
    expect(notes).toMatchObject({ scene: '12A', take: '1', trackNames: ['MIX', '', 'INES'] })
  })

  test('more track names than channels, and a start after midnight, are told', () => {
    const tracks = Array.from({ length: 6 }, (_, index) => `<TRACK><NAME>T${index}</NAME></TRACK>`).join('')
    const notes = readSoundNotes(
      { bext: bext({ reference: 86_400n * 48_000n }), ixml: ixml(`<TRACK_LIST>${tracks}</TRACK_LIST>`) },
      file,
      today,
    )
    expect(notes?.trackNames).toEqual(['T0', 'T1', 'T2', 'T3'])
    expect(notes?.problems.join(' ')).toMatch(/name 6 tracks.*past the next midnight/)
  })
})
