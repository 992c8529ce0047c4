import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { type CutFormat, CutFormatError, cutFormats, edl, otio, writeProven, xmeml } from './cut/index.ts'
import { CubeError, readCube } from './look/index.ts'
import { HashListError, parseHashList, writeHashList } from './manifest/index.ts'
import {
  LogError,
  parseAle,
  parseBext,
  parseDelimited,
  parseIxml,
  parseXml,
  readSoundNotes,
  XmlError,
} from './notes/index.ts'
import { anyCut } from './testing/cuts.ts'
import { formatTimecode, parseTimecode, rate, TimecodeError } from './time/index.ts'

/** A reader, a text that it reads, and what it may throw: whatever else comes is a fault of ours. */
interface Reader {
  readonly read: (text: string) => unknown
  readonly text: string
  readonly mayThrow: readonly (new (...given: never[]) => Error)[]
}

const bytes = (text: string): Uint8Array => Uint8Array.from(text, (letter) => letter.charCodeAt(0) & 0xff)
const options = { rate: rate(25), fileName: 'mill.txt' }
const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: 25 })
const range = (start: number, duration: number) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start),
  duration: time(duration),
})
const clip = {
  ...{
    OTIO_SCHEMA: 'Clip.1',
    name: 'A001C001.mov',
    source_range: range(900_000, 50),
    metadata: { cmx_3600: { reel: 'A001' } },
  },
  media_reference: {
    OTIO_SCHEMA: 'ExternalReference.1',
    target_url: 'file:///A001C001.mov',
    available_range: range(899_990, 100),
  },
  effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 2 }],
}
const children = [{ OTIO_SCHEMA: 'Gap.1', source_range: range(0, 25) }, clip, clip]
const timeline = {
  ...{ OTIO_SCHEMA: 'Timeline.1', name: 'Mill scene', global_start_time: time(900_000) },
  tracks: { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children }] },
}
const ixml =
  '<?xml version="1.0"?><BWFXML><PROJECT>Low Water</PROJECT><SCENE>12A</SCENE><TAKE>1</TAKE><CIRCLED>TRUE</CIRCLED><SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE><TIMECODE_FLAG>NDF</TIMECODE_FLAG></SPEED><TRACK_LIST><TRACK><CHANNEL_INDEX>1</CHANNEL_INDEX><NAME>Boom &amp; more</NAME></TRACK></TRACK_LIST></BWFXML>'
const files = [{ path: 'CLIPS/A001C001.mov', sizeBytes: 12, modifiedAt: null, hashes: { xxh64: '0123456789abcdef' } }]

/** A cut with something of everything, as each format says it. */
const [everything] = fc.sample(anyCut({ otherRates: false }), { seed: 7, numRuns: 1 }) as [
  Parameters<typeof writeProven>[0],
]

/** What is read of a list can be written again, proven, or is refused. */
const readAndWrite =
  (format: CutFormat, takeGood = false) =>
  (text: string): void => {
    const cut = format.read(text, { ...options, rate: everything.rate, takeGood })
    for (const other of cutFormats)
      try {
        writeProven(cut, other)
      } catch (error) {
        if (!(error instanceof CutFormatError)) throw error
      }
  }

const readers: Readonly<Record<string, Reader>> = {
  EDL: {
    read: (text) => edl.read(text, options),
    text: 'TITLE: LOW WATER\nFCM: NON-DROP FRAME\n\n001  A001     V     C        09:14:03:00 09:14:05:00 10:00:00:00 10:00:02:00\n* FROM CLIP NAME: A001C001_1104.MOV\nM2   A001      050.0          09:14:03:00\n002  B001     AA/V  D    012 09:34:01:00 09:34:03:20 10:00:02:00 10:00:04:20\n',
    mayThrow: [CutFormatError],
  },
  OTIO: {
    read: (text) => otio.read(text, options),
    text: JSON.stringify(timeline, null, 1),
    mayThrow: [CutFormatError],
  },
  'EDL of everything': { read: readAndWrite(edl), text: edl.write(everything), mayThrow: [CutFormatError] },
  'OTIO of everything': { read: readAndWrite(otio), text: otio.write(everything), mayThrow: [CutFormatError] },
  'timeline XML of everything': {
    read: readAndWrite(xmeml),
    text: xmeml.write(everything),
    mayThrow: [CutFormatError],
  },
  'the good events of a list': {
    read: readAndWrite(edl, true),
    text: edl.write(everything),
    mayThrow: [CutFormatError],
  },
  'hash list': {
    read: parseHashList,
    text: writeHashList({ createdAt: '2026-11-04T18:05:12.000Z', host: 'ferry', tool: 'Ennick', files }),
    mayThrow: [HashListError],
  },
  LUT: {
    read: readCube,
    text: `TITLE "x"\nLUT_3D_SIZE 2\nDOMAIN_MIN 0 0 0\n${'0.1 0.2 1e-3\n'.repeat(8)}`,
    mayThrow: [CubeError],
  },
  ALE: {
    read: parseAle,
    text: 'Heading\nFIELD_DELIM\tTABS\nVIDEO_FORMAT\t1080\nFPS\t25\n\nColumn\nName\tTape\tStart\n\nData\nA001C001\tA001\t09:14:03:00\nA001C002\tA001\t09:16:00:12\n',
    mayThrow: [LogError],
  },
  table: {
    read: parseDelimited,
    text: 'Name;Scene;"Note; long"\nA001C001;12A;"she ""waits"""\nA001C002;12A;\n',
    mayThrow: [LogError],
  },
  XML: { read: parseXml, text: ixml, mayThrow: [XmlError] },
  iXML: { read: parseIxml, text: ixml, mayThrow: [] },
  bext: {
    read: (text) => parseBext(bytes(text), '2026-11-25'),
    text: `${'sSCENE=12A\r\n'.padEnd(320, '\0')}2026-11-0409:14:00${'\x10'.repeat(20)}`,
    mayThrow: [],
  },
  'both notes of a recording': {
    read: (text) =>
      readSoundNotes(
        { bext: bytes(text.slice(0, 400)), ixml: bytes(text.slice(400)) },
        { channels: 2, sampleRate: 48_000 },
        '2026-11-25',
      ),
    text: `${'sTRK1=Boom\r\n'.padEnd(400, '\0')}${ixml}`,
    mayThrow: [],
  },
  timecode: { read: (text) => parseTimecode(text, rate(30000, 1001)), text: '09:14:03;12', mayThrow: [TimecodeError] },
}

/** What a disk, a mail program or a person may do to a text. */
type Harm = (text: string, at: number, length: number, more: string) => string
const harms: readonly Harm[] = [
  (text, at) => text.slice(0, at),
  (text, at, length) => text.slice(0, at) + text.slice(at + length),
  (text, at, _, more) => text.slice(0, at) + more + text.slice(at),
  (text, at, length, more) => text.slice(0, at) + more + text.slice(at + length),
  (text, at, length) => text.slice(0, at) + text.slice(at, at + length).repeat(3) + text.slice(at + length),
  (text, at, length) =>
    text.slice(0, at) + [...text.slice(at, at + length)].reverse().join('') + text.slice(at + length),
  (text) => text.replaceAll('\n', '\r'),
  (text) => text.replace(/\d+/g, '9'.repeat(30)),
]
const odd = fc.constantFrom(
  '\0',
  '\uFEFF',
  '\uD800',
  '"',
  '<',
  '&#0;',
  ']]>',
  '{',
  '[',
  'null',
  '-1',
  '1e999',
  'NaN',
  '\t',
  ';',
  '😀',
  '\\u0000',
  '99:99:99:99',
)
const harm = fc.tuple(fc.nat(harms.length - 1), fc.nat(5000), fc.nat(60), fc.oneof(odd, fc.string({ maxLength: 12 })))

describe.each(Object.entries(readers))('%s', (_, { read, text, mayThrow }) => {
  test('whole, it is read', () => expect(() => read(text)).not.toThrow())

  test('harmed in any way, it is read or refused in our own words', () => {
    fc.assert(
      fc.property(fc.array(harm, { minLength: 1, maxLength: 4 }), (list) => {
        const harmed = list.reduce(
          (now, [which, at, length, more]) => (harms[which] as Harm)(now, at % (now.length + 1), length, more),
          text,
        )
        try {
          read(harmed)
        } catch (error) {
          if (!mayThrow.some((kind) => error instanceof kind)) throw error
          if ((error as Error).message.trim() === '') throw new Error('It is refused without a word.')
        }
      }),
      {
        seed: Number(process.env.ENNICK_FUZZ_SEED ?? 4600),
        numRuns: Number(process.env.ENNICK_FUZZ_RUNS ?? (text.length > 5000 ? 50 : 400)),
      },
    )
  })
})

test.each<[string, string, string]>([
  ['XML', '<a>', '</a>'],
  ['OTIO', '[', ']'],
  ['OTIO', '{"OTIO_SCHEMA":"Stack.1","children":[', ']}'],
  ['OTIO', '{"OTIO_SCHEMA":"Timeline.1","tracks":', '}'],
])('%s that is nested without end is refused: %s', (name, open, close) => {
  const { read, mayThrow } = readers[name] as Reader
  for (const depth of [101, 20_000]) expect(() => read(open.repeat(depth) + close.repeat(depth))).toThrow(mayThrow[0])
})

test('any label of time that is read is the one that is written', () => {
  fc.assert(
    fc.property(fc.nat(2_589_407), fc.boolean(), (frame, drop) => {
      const at = rate(30000, 1001)
      expect(parseTimecode(formatTimecode(frame, at, drop), at, drop)).toBe(frame)
    }),
  )
})
