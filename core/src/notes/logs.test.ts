import { describe, expect, test } from '@jest/globals'
import { rate } from '../time/index.ts'
import {
  aleTracks,
  aleVideoFormat,
  decodeText,
  type LogClip,
  LogError,
  matchLog,
  parseAle,
  parseDelimited,
  writeAle,
  writeDelimited,
} from './index.ts'

const ale = [
  'Heading',
  'FIELD_DELIM\tTABS',
  'VIDEO_FORMAT\t1080',
  'AUDIO_FORMAT\t48khz',
  'FPS\t25',
  '',
  'Column',
  'Name\tTape\tStart\tScene\tMood\t',
  '',
  'Data',
  'A001C001_1104\tA001\t09:14:02:10\t12A\tcalm',
  '',
  'B001C001\tB001\t09:14:03:00\t12A\t\textra',
].join('\n')

describe('text as logs come', () => {
  const text = 'Name\tScene\nMühle\t12A\n'
  test.each([
    ['UTF-8', Buffer.from(text)],
    ['UTF-8', Buffer.from(`\uFEFF${text}`)],
    ['UTF-16', Buffer.from(`\uFEFF${text}`, 'utf16le')],
    ['UTF-16', Buffer.from(`\uFEFF${text}`, 'utf16le').swap16()],
    ['UTF-16', Buffer.from(text, 'utf16le')],
    ['UTF-16', Buffer.from(text, 'utf16le').swap16()],
    ['Latin-1', Buffer.from(text, 'latin1')],
  ])('%s', (encoding, bytes) => expect(decodeText(bytes)).toEqual({ text, encoding }))

  test.each(['\r\n', '\r', '\n'])('line ending %j', (ending) => {
    expect(decodeText(Buffer.from(text.replaceAll('\n', ending))).text).toBe(text)
  })
})

describe('ALE', () => {
  test('reads heading, columns and rows with their lines', () => {
    const read = parseAle(ale)
    expect(read.rate).toEqual(rate(25))
    expect(read.heading.get('VIDEO_FORMAT')).toBe('1080')
    expect(read.columns).toEqual(['Name', 'Tape', 'Start', 'Scene', 'Mood'])
    expect(read.rows).toEqual([
      { line: 11, cells: ['A001C001_1104', 'A001', '09:14:02:10', '12A', 'calm'] },
      { line: 13, cells: ['B001C001', 'B001', '09:14:03:00', '12A', ''] },
    ])
    expect(read.problems).toEqual(['Line 13 has 6 cells for 5 columns: “extra” and what follows is left out.'])
  })

  test.each([
    ['no heading', 'Column\nName\nData\n', 'no line “Heading”'],
    ['no column', 'Heading\nFPS\t25\nData\n', 'no section “Column” after “Heading” on line 1'],
    ['no data', ale.slice(0, ale.indexOf('Data')), 'no section “Data” after “Column” on line 7'],
    ['two of one name', ale.replace('Mood', 'SCENE'), 'names the column “SCENE” twice'],
    ['commas', ale.replace('TABS', 'COMMAS'), 'only TABS'],
    ['empty columns', 'Heading\n\nColumn\n\nData\n', 'names no columns'],
  ])('%s is refused with its line', (_, text, message) => expect(() => parseAle(text)).toThrow(message))

  test('a rate that is none is told and the rows are read', () => {
    expect(parseAle(ale.replace('FPS\t25', 'FPS\tfast'))).toMatchObject({
      rate: null,
      problems: [expect.anything(), expect.stringContaining('“fast”')],
    })
  })

  test('what is written reads back', () => {
    const columns = ['Name', 'Tape', 'Mood']
    const rows = [
      ['A001C001', 'A001', 'two\tparts\nof it'],
      ['', 'B001', 'Mühle'],
    ]
    const read = parseAle(
      writeAle({ rate: rate(24000, 1001), width: 1920, height: 1080, sampleRate: 48_000 }, columns, rows),
    )
    expect(read).toMatchObject({ columns, rate: rate(24000, 1001), problems: [] })
    expect(read.rows.map((row) => row.cells)).toEqual([['A001C001', 'A001', 'two parts of it'], rows[1]])
    expect(read.heading.get('FPS')).toBe('23.976')
    expect(read.heading.get('AUDIO_FORMAT')).toBe('48khz')
  })

  test.each([
    [1920, 1080, rate(25), '1080'],
    [1280, 720, rate(50), '720'],
    [720, 576, rate(25), 'PAL'],
    [720, 486, rate(30000, 1001), 'NTSC'],
    [3840, 2160, rate(25), 'CUSTOM'],
  ])('%dx%d is %s', (width, height, at, name) => expect(aleVideoFormat(width, height, at)).toBe(name))
})

describe('separated values', () => {
  test.each([',', ';', '\t'] as const)('round trip with %j', (delimiter) => {
    const columns = ['Name', 'Notes', 'Take']
    const rows = [
      ['A', `a "quoted", ; and \t tabbed`, '1'],
      ['B', 'two\nlines', ''],
      ['', 'ends with a quote"', '3'],
    ]
    const read = parseDelimited(decodeText(Buffer.from(writeDelimited(delimiter, columns, rows))).text)
    expect(read.columns).toEqual(columns)
    expect(read.rows.map((row) => row.cells)).toEqual(rows)
    expect(read.delimiter).toBe(delimiter)
    expect(read.problems).toEqual([])
  })

  test('lines are counted through quoted line breaks', () => {
    const read = parseDelimited('Name,Notes\nA,"one\ntwo"\nB,x\n')
    expect(read.rows.map((row) => row.line)).toEqual([2, 4])
  })

  test('ragged rows are told with their line', () => {
    const read = parseDelimited('Name,Scene\nA\nB,1,2\n\nC,3,\n')
    expect(read.rows.map((row) => row.cells)).toEqual([
      ['A', ''],
      ['B', '1'],
      ['C', '3'],
    ])
    expect(read.problems).toEqual([
      'Line 2 has 1 of 2 cells: the missing ones are empty.',
      'Line 3 has 3 cells for 2 columns: “2” and what follows is left out.',
    ])
  })

  test('200 columns are read, 201 are refused, and an open quote names its line', () => {
    const names = (count: number): string => Array.from({ length: count }, (_, index) => `c${index}`).join(',')
    expect(parseDelimited(`${names(200)}\n`).columns).toHaveLength(200)
    expect(() => parseDelimited(`${names(201)}\n`)).toThrow(LogError)
    expect(() => parseDelimited('Name\n"open\nto the end')).toThrow('Line 2 opens a quote')
    expect(() => parseDelimited('\n\n')).toThrow('empty')
  })
})

describe('which clip a row is about', () => {
  const clip = (id: string, name: string, reel: string | null, start: string | null): LogClip => ({
    id,
    name,
    reel,
    start,
    fileNames: [`${name}.mov`],
  })
  const clips = [
    clip('a', 'A001C001', 'A001', '09:14:02:10'),
    clip('b1', 'B002C001', 'B002', '11:00:00:00'),
    clip('b2', 'B002C001', 'B002', '11:00:02:00'),
    { ...clip('c', '12A-1', 'A001', '10:00:00:00'), fileNames: ['A001C009.mov'] },
  ]
  const match = (columns: string[], ...cells: string[]) =>
    matchLog({ columns, rows: [{ line: 2, cells }], problems: [] }, clips)[0]

  test('by clip name, with or without an extension, whatever the case', () => {
    expect(match(['Name'], 'a001c001.MOV')).toMatchObject({ clipId: 'a', by: 'clip name' })
  })
  test('two of one name are settled by timecode', () => {
    expect(match(['Name', 'Start'], 'B002C001', '11:00:02:00')).toMatchObject({ clipId: 'b2', by: 'clip name' })
    expect(match(['Name'], 'B002C001')).toMatchObject({ clipId: null, reason: expect.stringContaining('2 clips') })
  })
  test('then by reel and timecode, whatever the separators', () => {
    expect(match(['Name', 'Tape', 'Start'], 'wheel', 'a001', '09;14;02;10')).toMatchObject({
      clipId: 'a',
      by: 'reel and timecode',
    })
  })
  test('then by file name', () => {
    expect(match(['Source File'], '/Volumes/x/A001C009.mov')).toMatchObject({ clipId: 'c', by: 'file name' })
    expect(match(['Name'], 'A001C009')).toMatchObject({ clipId: 'c', by: 'file name' })
  })
  test('a row that contradicts the clip of its name is not about it', () => {
    expect(match(['Name', 'Start'], 'A001C001', '17:05:00:00')).toMatchObject({
      clipId: null,
      reason: 'The clip name fits A001C001, but the row starts at 17:05:00:00 and the clip at 09:14:02:10.',
    })
  })
  test('two rows about one clip are both told', () => {
    const rows = [
      { line: 2, cells: ['A001C001'] },
      { line: 5, cells: ['A001C001.mov'] },
    ]
    const matches = matchLog({ columns: ['Name'], rows, problems: [] }, clips)
    expect(matches.map((row) => row.clipId)).toEqual([null, null])
    expect(matches[1]?.reason).toContain('Lines 2, 5')
  })
  test('a row without a name is called by its line', () => {
    expect(match(['Mood'], 'calm')).toMatchObject({
      clipId: null,
      label: 'row on line 2',
      reason: expect.stringContaining('No clip'),
    })
  })
})

describe('cells that a spreadsheet would run', () => {
  test.each([
    ['=HYPERLINK("http://example.org","look")', `"'=HYPERLINK(""http://example.org"",""look"")"`],
    ['@SUM(A1)', "'@SUM(A1)"],
    ['+cmd', "'+cmd"],
    ['-2+3', "'-2+3"],
    ["'=1", "''=1"],
    ['-5', '-5'],
    ['+2.5', '+2.5'],
    ['A=1', 'A=1'],
    ["'quoted'", "'quoted'"],
  ])('%s is written as %s, and read back as it was', (cell, written) => {
    const text = writeDelimited(',', ['Notes'], [[cell]])
    expect(text).toBe(`Notes\r\n${written}\r\n`)
    expect(parseDelimited(text.replaceAll('\r\n', '\n')).rows[0]?.cells).toEqual([cell])
  })
  test('in a title too', () => {
    expect(parseDelimited(writeDelimited('\t', ['=A1'], [['x']]).replaceAll('\r\n', '\n')).columns).toEqual(['=A1'])
  })
})

describe('what a cutting room wrote', () => {
  const clips: LogClip[] = [
    { id: 'a', name: 'A001C001', reel: 'A001TAPE1', start: '10:00:00:00', fileNames: ['A001C001.mov'] },
  ]
  const find = (cells: string[], suffixes?: string[]) =>
    matchLog({ columns: ['Name', 'Tape', 'Start'], rows: [{ line: 2, cells }], problems: [] }, clips, suffixes)[0]
  test('names of proxies are those of their clips, as the production says', () => {
    expect(find(['A001C001_proxy.mov', '', ''], ['_proxy'])).toMatchObject({ clipId: 'a', by: 'clip name' })
    expect(find(['A001C001_proxy.mov', '', ''])?.clipId).toBeNull()
  })
  test('a reel that a list cut to eight characters is the same reel', () => {
    expect(find(['A001C001', 'a001tape', ''])).toMatchObject({ clipId: 'a' })
    expect(find(['A001C001', 'B001', ''])?.reason).toContain('reel B001')
  })
  test('tracks', () => {
    expect([aleTracks(true, 4), aleTracks(true, 0), aleTracks(false, 2)]).toEqual(['VA1A2A3A4', 'V', 'A1A2'])
  })
})
