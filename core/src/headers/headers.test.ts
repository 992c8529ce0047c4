import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { fromHex, joinBytes, toHex } from '../bytes/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { box, mediaBytes, movieBox, plainText, type TestMovie, ticksPerFrame, u16, u32 } from '../testing/movie.ts'
import { isOfWholeFrames } from './avc.ts'
import { boxesOf } from './boxes.ts'
import { essenceWords } from './essence.ts'
import { firstPictureWords } from './first-picture.ts'
import { type MovieHeader, readMovieHeader } from './movie-header.ts'
import { inOrderOfReading } from './order-of-reading.ts'
import { factsLike, type HeaderNumbers } from './reading.ts'
import type { Packet } from './sample-table.ts'
import { type HeaderChunk, readWaveHeader } from './wave-header.ts'

const brand = plainText('qt  ')
const packetsAtOnce = 60

/** What is read of a made-up movie whose file ends with its media. */
function read(movie: TestMovie = {}, sizeBytes = (movie.mediaAt ?? 100) + mediaBytes(movie)): MovieHeader | null {
  return readMovieHeader({ brand, movie: movieBox(movie), sizeBytes }, packetsAtOnce)
}

describe('boxes', () => {
  test('are listed in order, with four bytes of nought at the end of user data', () => {
    const bytes = joinBytes([box('free'), box('name', plainText('Wheel')), u32(0)])
    expect(boxesOf(bytes)?.map(({ type, content }) => [type, content.length])).toEqual([
      ['free', 0],
      ['name', 5],
    ])
  })

  test.each([
    ['larger than what there is', joinBytes([u32(20), plainText('name')])],
    ['smaller than itself', joinBytes([u32(4), plainText('name')])],
    ['cut in its head', box('name', u32(0)).subarray(0, 6)],
    ['one of very many', joinBytes(Array.from({ length: 3000 }, () => box('free')))],
  ])('one that is %s makes all of them unreadable', (_, bytes) => expect(boxesOf(bytes)).toBeNull())
})

describe('the header of a movie', () => {
  test('has its numbers, and where to look for the rest', () => {
    // 3,877,000,000 seconds after the beginning of 1904, by another calendar than ours.
    expect(read()).toMatchObject({
      numbers: {
        ...{ frames: 50, samples: [96_000], createdAt: '2026-11-08T16:26:40.000000Z' },
        stored: { isIntra: true, leastBytes: 5000, mostBytes: 5000 },
      },
      firstPicture: { at: 100, bytes: 5000, kind: 'apcn' },
      timecode: { at: 100 + 50 * (5000 + 3840), labelsPerSecond: 25 },
    })
  })

  test.each<[string, TestMovie]>([
    ['length', { frames: 73 }],
    ['size of its pictures', { frameBytes: 4321 }],
    ['time', { created: 3_877_000_001 }],
    ['place in its file', { mediaAt: 5000 }],
    ['comment of another kind', { more: [box('udta', box('GPSX', plainText('54.3 N')))] }],
  ])('another %s is the same shape', (what, movie) => {
    const plain = what.startsWith('comment') ? { more: [box('udta', box('GPSX', plainText('54.4 N')))] } : {}
    expect(read(movie)?.shape).toBe(read(plain)?.shape)
    expect(read(movie)?.shape).toBeDefined()
  })

  test.each<[string, TestMovie]>([
    ['raster', { width: 640 }],
    ['codec', { codec: 'apch' }],
    ['rate', { durations: [1001] }],
    ['reel', { reel: 'A002' }],
    ['turn', { matrix: [0, 0x10000, 0, -0x10000, 0, 0, 0, 0, 0x40000000] }],
    ['comment', { more: [box('udta', box('\xa9cmt', plainText('take 2')))] }],
    ['wait before its picture', { edit: { from: 0, wait: 500 } }],
    ['way of saying what can be begun at', { syncs: [1, 13, 25] }],
    ['kind of sound', { soundKind: 'sowt' }],
    ['key', { more: [keyed('com.example.day', 'Monday')] }],
  ])('another %s is another shape', (_, movie) => {
    expect(read(movie)?.shape).toBeDefined()
    expect(read(movie)?.shape).not.toBe(read()?.shape)
  })

  test('what a maker keeps in a box of its own is no part of the shape', () => {
    const own = (small: string) => read({ more: [box('uuid', new Uint8Array(16), plainText(small))] })?.shape
    expect(own('a picture in small')).toBe(own('another'))
    expect(own('another')).toBeDefined()
  })

  test('what a key says counts where it becomes a fact, and only there', () => {
    const shapeOf = (name: string, value: string) => read({ more: [keyed(name, value)] })?.shape
    expect(shapeOf('com.example.day', 'Monday')).toBe(shapeOf('com.example.day', 'Tuesday'))
    expect(shapeOf('Comment', 'Monday')).not.toBe(shapeOf('Comment', 'Tuesday'))
  })

  test.each<[string, TestMovie]>([
    ['in fragments', { more: [box('mvex')] }],
    ['of two pictures', { pictures: 2 }],
    ['of one frame', { frames: 1 }],
    ['of no codec that is read here', { codec: 'mp4v' }],
    ['whose media lie elsewhere', { selfContained: false }],
    ['with chapters', { references: [box('tref', box('chap', u32(9)))] }],
    ['of no steady rate', { frames: 3, durations: [1000, 1000, 1200] }],
    ['that shows fewer frames than it holds', { edit: { from: 0, ticks: 40 * ticksPerFrame } }],
    ['that leaves out its first frames', { edit: { from: 10 * ticksPerFrame, ticks: 40 * ticksPerFrame } }],
    ['that shows pictures before they are decoded', { shifts: [-1000] }],
    ['with partial sync samples', { moreOfTable: [box('stps', u32(0, 0))] }],
    ['of two tables of sizes', { moreOfTable: [box('stsz', u32(0, 5000, 50))] }],
    ['that was made before 1970', { created: 1000 }],
    ['with sound that is packed in a way that is not read here', { soundKind: 'alac' }],
  ])('one %s is left to the probe', (what, movie) => {
    const header = read(movie)
    // What its first picture is says whether its codec is read.
    if (header && what.startsWith('of no codec')) expect(firstPictureWords('mp4v', new Uint8Array(64))).toBeNull()
    else expect(header).toBeNull()
  })

  test('one whose media do not lie in its file, or over each other, is left to the probe', () => {
    expect(read({}, 100 + mediaBytes({}) - 1)).toBeNull()
    const movie = movieBox()
    // The second chunk of the picture, one byte early.
    const at = plainIndexOf(movie, 'stco') + 12 + 4
    movie[at + 3] = (movie[at + 3] as number) - 1
    expect(readMovieHeader({ brand, movie, sizeBytes: 1_000_000 }, packetsAtOnce)).toBeNull()
  })

  test('harmed anywhere, it is read or left alone, and nothing is thrown', () => {
    const whole = movieBox({ shifts: [0], syncs: [1, 2], more: [keyed('day', 'Monday'), box('udta', box('name'))] })
    const harm = fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 4 })
    fc.assert(
      fc.property(harm, fc.nat(whole.length), (changes, cut) => {
        const movie = Uint8Array.from(whole)
        for (const [at, value] of changes) movie[at] = value
        for (const given of [movie, movie.subarray(0, cut)])
          expect(() => readMovieHeader({ brand, movie: given, sizeBytes: 500_000 }, packetsAtOnce)).not.toThrow()
      }),
      { numRuns: 2000, seed: 36 },
    )
  })
})

/** Metadata of one key (the QuickTime file format, “Metadata”). */
function keyed(name: string, value: string): Uint8Array {
  const key = joinBytes([u32(8 + name.length), plainText('mdta'), plainText(name)])
  const item = joinBytes([u32(24 + value.length, 1), box('data', u32(1, 0), plainText(value))])
  const handler = box('hdlr', u32(0, 0), plainText('mdta'), new Uint8Array(13))
  return box('meta', handler, box('keys', u32(0, 1), key), box('ilst', item))
}

function plainIndexOf(bytes: Uint8Array, word: string): number {
  return Buffer.from(bytes).indexOf(word) + word.length - 4
}

test('packets come as they lie in the file, as long as no track is more than a second ahead', () => {
  const track = (name: string, packets: Partial<Packet>[]) => ({
    ...{ name, ticksPerSecond: 10, beginsAt: 0 },
    table: {
      *packets() {
        yield* packets as Packet[]
      },
    },
  })
  const orderOf = (...tracks: ReturnType<typeof track>[]): string[] =>
    [...inOrderOfReading(tracks as never)].map(
      ([track, { at }]) => `${(track as unknown as { name: string }).name}${at}`,
    )
  const picture = [0, 10, 20].map((ticks, index) => ({ at: 100 * index, ticks }))
  expect(orderOf(track('v', picture), track('a', [{ at: 50, ticks: 0 }]))).toEqual(['v0', 'a50', 'v100', 'v200'])
  // All sound lies behind all pictures.
  const sound = [0, 10, 20].map((ticks, index) => ({ at: 900 + index, ticks }))
  expect(orderOf(track('v', picture), track('a', sound))).toEqual(['v0', 'v100', 'a900', 'v200', 'a901', 'a902'])
})

describe('H.264', () => {
  test.each([
    ['progressive', '0164000cffe1001a6764000cacd941419f9f011000000300100000030320f1429960', true],
    ['interlaced', '01640015ffe1001967640015acd941433f260220000003002000000643e28532c0', false],
    ['all-intra of ten bits', '017a100cffe10017677a100cb6cb82833f1b80880000030008000003019020', true],
    ['baseline', '0142c00cffe100196742c00cd901419f9f011000000300100000030320f142a480', true],
    ['cut off', '0164000cffe1001a6764000c', null],
    ['of no set', '0164000cffe0', null],
    ['ending within a word', '0164000cffe100056764000cac', null],
  ])('%s: whether it is of whole frames', (_, configuration, expected) =>
    expect(isOfWholeFrames(fromHex(configuration))).toBe(expected),
  )

  test('scaling lists and the order of pictures are stepped over', () => {
    const anyList = fc.option(fc.constantFrom('flat', 'falls back'))
    fc.assert(
      fc.property(
        fc.record({
          ...{ isHigh: fc.boolean(), sampling: fc.constantFrom(0, 1, 2, 3), order: fc.constantFrom(0, 1, 2) },
          ...{ lists: fc.option(fc.array(anyList, { minLength: 12, maxLength: 12 })), isWhole: fc.boolean() },
          cycle: fc.array(fc.integer({ min: -300, max: 300 }), { maxLength: 5 }),
        }),
        (set) => {
          expect(isOfWholeFrames(configurationOf(set))).toBe(set.isWhole)
        },
      ),
    )
  })
})

interface ParameterSet {
  readonly isHigh: boolean
  readonly sampling: number
  readonly lists: readonly (string | null)[] | null
  readonly order: number
  readonly cycle: readonly number[]
  readonly isWhole: boolean
}

/** A decoder configuration with a sequence parameter set, written as ITU-T H.264 has it. */
function configurationOf({ isHigh, sampling, lists, order, cycle, isWhole }: ParameterSet): Uint8Array {
  let bits = ''
  const unsigned = (value: number): void => {
    const code = (value + 1).toString(2)
    bits += '0'.repeat(code.length - 1) + code
  }
  const signed = (value: number): void => unsigned(value > 0 ? 2 * value - 1 : -2 * value)
  unsigned(0)
  if (isHigh) {
    unsigned(sampling)
    if (sampling === 3) bits += '0'
    unsigned(2)
    unsigned(2)
    bits += lists ? '01' : '00'
    for (const [index, list] of (lists ?? []).slice(0, sampling === 3 ? 12 : 8).entries()) {
      bits += list ? '1' : '0'
      // The next of the first is nought: what follows is the default.
      if (list === 'falls back') signed(-8)
      if (list === 'flat') for (let entry = 0; entry < (index < 6 ? 16 : 64); entry++) signed(entry === 0 ? 8 : 0)
    }
  }
  unsigned(4)
  unsigned(order)
  if (order === 0) unsigned(4)
  if (order === 1) {
    bits += '0'
    signed(-3)
    signed(7)
    unsigned(cycle.length)
    for (const value of cycle) signed(value)
  }
  unsigned(4)
  bits += '0'
  unsigned(119)
  unsigned(67)
  bits += `${isWhole ? '1' : '0'}1`
  const payload = (bits.padEnd(Math.ceil(bits.length / 8) * 8, '0').match(/.{8}/g) ?? []).map((byte) =>
    Number.parseInt(byte, 2),
  )
  const guarded: number[] = []
  for (const byte of payload) {
    if (byte <= 3 && guarded.at(-1) === 0 && guarded.at(-2) === 0) guarded.push(3)
    guarded.push(byte)
  }
  const unit = Uint8Array.of(0x67, isHigh ? 100 : 66, 0, 12, ...guarded)
  return joinBytes([Uint8Array.of(1, 100, 0, 12, 0xff, 0xe1), u16(unit.length), unit])
}

describe('a first picture', () => {
  const proRes = joinBytes([u32(5000), plainText('icpf'), Uint8Array.from({ length: 60 }, (_, index) => index)])
  const jpeg = fromHex('ffd8ffe000044142ffdb00050001eeffc00005010203ffda0003')

  test('says what the container does not', () => {
    expect(firstPictureWords('apcn', proRes)).toBe('000102030405060708090a0b0c0d0e0f10111213')
    // Its application data and its frame, not its tables.
    expect(firstPictureWords('jpeg', jpeg)).toBe('ffe000044142 ffc00005010203')
    expect(firstPictureWords('avc1', fromHex('00000002091000'))).toBe('')
  })

  test.each([
    ['apcn', 'of nought', new Uint8Array(64)],
    ['jpeg', 'without its scan', jpeg.subarray(0, 20)],
    ['jpeg', 'of another kind', proRes],
    ['AVdn', 'of nought', new Uint8Array(64)],
    ['avc1', 'of nought', new Uint8Array(64)],
    ['hvc1', 'that is no unit', fromHex('00000010ff000000')],
    ['mp4v', 'that is not read here', proRes],
  ])('%s, one %s says nothing', (kind, _, picture) => expect(firstPictureWords(kind, picture)).toBeNull())
})

describe('a first picture of MXF', () => {
  const of = (...hex: string[]): Uint8Array => fromHex(hex.join('').padEnd(120, '0'))
  const [frames, fields] = [
    ...['6764000cacd941419f9f011000000300100000030320f1429960', '67640015acd941433f260220000003002000000643e28532c0'],
  ]

  test('of MPEG-2 says its sequence and its extensions, not what time it is', () => {
    const at = (time: string) =>
      of(
        '000001b314009037',
        '000001b514820001',
        `000001b8${time}`,
        '00000100000ffff8',
        '000001b58ffff398',
        '00000101aa',
      )
    expect(essenceWords(at('00080040'))).toBe('b314009037000001 b514820001000001 b58ffff398000001')
    expect(essenceWords(at('10880040'))).toBe(essenceWords(at('00080040')))
  })

  test('of H.264 says its parameter sets, where it is of whole frames', () => {
    expect(essenceWords(of('0000000109f0', `00000001${frames}`, '0000000168ebecb2', '0000016588'))).toBe(
      `${frames}00 68ebecb2`,
    )
    expect(essenceWords(of(`00000001${fields}`, '0000000168ebecb2', '0000016588'))).toBeNull()
    expect(essenceWords(of('0000000168ebecb2', '0000016588'))).toBeNull()
  })

  test('of other codecs says its header', () => {
    const vc3 = of('000002800100')
    expect(essenceWords(vc3)).toBe(toHex(vc3.subarray(0, 48)))
    expect(essenceWords(of('00001388', '69637066', '0094', '0001'))).toMatch(/^00940001(00){16}$/)
  })

  test.each([
    ['nothing', new Uint8Array(64)],
    ['MPEG-2 without a slice', of('000001b314009037', '000001b514820001')],
    ['JPEG 2000', of('ff4fff510004aabb', 'ff90000a')],
    ['too little', of('000002800100').subarray(0, 40)],
  ])('of %s is not read', (_, picture) => expect(essenceWords(picture)).toBeNull())
})

describe('the header of a wave file', () => {
  const format = fromHex('0100010080bb000080320200030018000000').subarray(0, 16)
  const notes = (change: { description?: string; date?: string; time?: string } = {}): Uint8Array => {
    const bytes = new Uint8Array(602)
    const set = (at: number, text: string): void => bytes.set(plainText(text), at)
    set(0, change.description ?? 'sSCENE=12A')
    set(256, 'Recorder')
    set(320, change.date ?? '2026-11-04')
    set(330, change.time ?? '')
    bytes[338] = 2
    bytes[342] = 1
    return bytes
  }
  const chunk = (id: string, content: Uint8Array | null, bytes = content?.length ?? 0): HeaderChunk => ({
    ...{ id, at: 1000, bytes, content },
  })
  const sound = chunk('data', new Uint8Array(300), 300)
  const plain = [chunk('fmt ', format), sound]
  const wave = (chunks: HeaderChunk[], sizeBytes = 1300) => readWaveHeader({ form: 'RIFF', chunks, sizeBytes })

  test('has its samples and what its notes say', () => {
    expect(wave([...plain, chunk('bext', notes())])?.numbers).toEqual({
      ...{ frames: null, samples: [100], timecode: null, stored: null, createdAt: '2026-11-04' },
      materialPackage: null,
      notes: { timeReferenceSamples: 2 ** 32 + 2, originator: 'Recorder', description: 'sSCENE=12A' },
    })
    expect(wave(plain)?.numbers.notes).toBeNull()
  })

  test('other samples and notes are the same shape, another format or other chunks are not', () => {
    const shape = wave([...plain, chunk('bext', notes())])?.shape
    const shorter = chunk('data', new Uint8Array(150), 150)
    const others = [chunk('fmt ', format), shorter, chunk('bext', notes({ description: '', time: '10:00:00' }))]
    expect(wave(others)?.shape).toBe(shape)
    expect(wave(plain)?.shape).not.toBe(shape)
    const other = fromHex('0100020080bb000080bb0000060018000000').subarray(0, 16)
    expect(wave([chunk('fmt ', other), sound, chunk('bext', notes())])?.shape).not.toBe(shape)
  })

  test('one that is cut off is left to the probe', () => expect(wave(plain, 1299)).toBeNull())

  test.each<[string, HeaderChunk[]]>([
    ['of packed sound', [chunk('fmt ', fromHex('55000100401f0000401f000001000800')), sound]],
    ['with part of a sample', [chunk('fmt ', format), chunk('data', new Uint8Array(299), 299)]],
    ['of no sound', [chunk('fmt ', format), chunk('data', new Uint8Array(), 0)]],
    ['of two sounds', [...plain, sound]],
    ['with a list of words', [...plain, chunk('LIST', plainText('INFOICMT\x04\0\0\0take'))]],
    ['with notes in other letters', [...plain, chunk('bext', notes({ description: 'W\xe4chter' }))]],
    ['with notes that are cut off', [...plain, chunk('bext', notes().subarray(0, 300))]],
    ['with a chunk that may say anything', [...plain, chunk('id3 ', null, 40)]],
    ['with packed sound under the name of plain', [chunk('fmt ', format), chunk('data', disguised(), 300)]],
  ])('one %s is left to the probe', (_, chunks) => expect(wave(chunks)).toBeNull())
})

function disguised(): Uint8Array {
  const bytes = new Uint8Array(300)
  bytes.set(fromHex('7ffe8001'), 12)
  return bytes
}

describe('what is said of a file like another', () => {
  const numbers: HeaderNumbers = {
    ...{ frames: 80, samples: [153_600, 153_600], timecode: { frame: 900_500, labelsPerSecond: 25 } },
    createdAt: null,
    stored: { isIntra: true, leastBytes: 10, mostBytes: 20 },
    notes: null,
    materialPackage: null,
  }
  const stored = { isIntra: true, leastBytes: 1, mostBytes: 2 }
  const facts = pictureFacts({ stored })

  test('is what is said of that, but for its numbers', () => {
    const like = factsLike(facts, numbers, true)
    expect(like).toEqual({
      ...facts,
      picture: { ...facts.picture, frames: 80, stored: numbers.stored },
      sound: facts.sound.map((stream) => ({ ...stream, samples: 153_600 })),
      startFrame: 900_500,
    })
    expect(factsLike(facts, numbers, false)?.picture?.stored).toBeNull()
  })

  test.each([
    ['of another number of sounds', facts, { ...numbers, samples: [1] }],
    ['without its picture', facts, { ...numbers, frames: null }],
    ['whose labels count otherwise', facts, { ...numbers, timecode: { frame: 5, labelsPerSecond: 30 } }],
    ['whose label no clock shows', facts, { ...numbers, timecode: { frame: 24 * 90_000, labelsPerSecond: 25 } }],
    ['of two pictures', { ...facts, furtherPictures: 1 }, numbers],
    ['of which less is shown', pictureFacts({ stored, heldFrames: 100, frames: 90 }), numbers],
    ['of no steady rate', pictureFacts({ stored, variableRate: true }), numbers],
  ])('nothing, of one %s', (_, other, its) => expect(factsLike(other, its, true)).toBeNull())
})
