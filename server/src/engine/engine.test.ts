import { appendFile, copyFile, mkdir, mkdtemp, open, readdir, rm, stat, truncate, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { fingerprint } from '../disk/fingerprint.ts'
import { makePicture, makeSound } from '../testing/media.ts'
import { findDamagedFrames, findDamagedStill } from './damage.ts'
import { pictureOf } from './pictures.ts'
import { probe, readFacts, UnreadableMedia } from './probe.ts'
import { run } from './process.ts'
import { findTruncation } from './truncation.ts'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-engine-'))
  await makePicture(join(folder, 'a.mov'), { frames: 20 })
  await makeSound(join(folder, 'a.wav'), 9600, 48_000)
})
afterAll(() => rm(folder, { recursive: true, force: true }))
const size = async (name: string): Promise<number> => (await stat(join(folder, name))).size

describe('fingerprints', () => {
  const of = async (name: string) => fingerprint(join(folder, name), await size(name))
  test('are equal for equal content under any name, and differ by one byte at either end', async () => {
    await copyFile(join(folder, 'a.mov'), join(folder, 'copy.bin'))
    expect(await of('copy.bin')).toBe(await of('a.mov'))
    await appendFile(join(folder, 'copy.bin'), 'x')
    expect(await of('copy.bin')).not.toBe(await of('a.mov'))
    await writeFile(join(folder, 'p'), Buffer.alloc(300_000))
    await writeFile(join(folder, 'q'), Buffer.concat([Buffer.alloc(299_999), Buffer.from([1])]))
    await writeFile(join(folder, 'r'), Buffer.concat([Buffer.from([1]), Buffer.alloc(299_999)]))
    expect(new Set([await of('p'), await of('q'), await of('r')]).size).toBe(3)
  })
  test('exist for the smallest files too', async () => {
    await writeFile(join(folder, 'empty'), '')
    await writeFile(join(folder, 'one'), 'x')
    expect(await of('empty')).toMatch(/^[0-9a-f]{16}$/)
    expect(await of('one')).not.toBe(await of('empty'))
  })
})

describe('truncation', () => {
  const cut = async (from: string, to: string, bytes: number) => {
    await copyFile(join(folder, from), join(folder, to))
    await truncate(join(folder, to), bytes)
    return findTruncation(join(folder, to), bytes)
  }
  test('whole files are whole, also with something after their end', async () => {
    expect(await findTruncation(join(folder, 'a.mov'), await size('a.mov'))).toBeNull()
    expect(await findTruncation(join(folder, 'a.wav'), await size('a.wav'))).toBeNull()
    await copyFile(join(folder, 'a.wav'), join(folder, 'longer.wav'))
    await appendFile(join(folder, 'longer.wav'), Buffer.alloc(10))
    expect(await findTruncation(join(folder, 'longer.wav'), await size('longer.wav'))).toBeNull()
  })
  test('a missing end is counted in bytes', async () => {
    expect(await cut('a.wav', 'cut.wav', (await size('a.wav')) - 1000)).toContain('the last 1,000 bytes are missing')
    expect(await cut('a.mov', 'cut.mov', (await size('a.mov')) - 1)).toContain('the last 1 bytes')
  })
  test('what is of another kind, or too short to say, is left to the probe', async () => {
    await writeFile(join(folder, 'text'), 'hello')
    expect(await findTruncation(join(folder, 'text'), 5)).toBeNull()
    // Longer than it is: it was cut since its size was asked.
    expect(await findTruncation(join(folder, 'a.mov'), (await size('a.mov')) + 100)).toMatch(/cut off/)
  })
})

describe('facts from what the probe says', () => {
  const video = {
    codec_type: 'video',
    codec_name: 'h264',
    width: 1920,
    height: 1080,
    r_frame_rate: '25/1',
    avg_frame_rate: '25/1',
    nb_frames: '100',
    time_base: '1/12800',
  }
  const mov = { format_name: 'mov,mp4,m4a,3gp,3g2,mj2', tags: { major_brand: 'qt  ' } }
  const facts = (stream: object, format: object = mov, more: object[] = []) =>
    readFacts({ streams: [{ ...video, ...stream }, ...more], format } as Parameters<typeof readFacts>[0], false)

  test.each([
    ['00:00:00:00', 0, false],
    ['10:00:00:00', 900_000, false],
    ['25:00:00:00', null, false],
    ['nonsense', null, false],
    ['10:00:00;10', 900_010, false],
  ])('timecode %s at 25 is frame %p', (timecode, frame, drop) => {
    expect(facts({ tags: { timecode } })).toMatchObject({ startFrame: frame, dropFrame: drop })
  })

  test('drop-frame is taken from the label at a rate that has it', () => {
    expect(
      facts({ r_frame_rate: '30000/1001', avg_frame_rate: '30000/1001', tags: { timecode: '00:01:00;02' } }),
    ).toMatchObject({
      startFrame: 1800,
      dropFrame: true,
    })
  })

  test.each([
    ['50/1', '25/1', '10:00:00:12', 1_800_024, 25],
    ['60000/1001', '30000/1001', '00:00:59;29', 3598, 30],
    ['50/1', '50/1', '10:00:00:12', 1_800_012, undefined],
    // One that is no count of labels is not believed.
    ['50/1', '1/1', '10:00:00:12', 1_800_012, undefined],
    ['25/1', '30/1', '10:00:00:27', 900_022, 30],
  ])('at %s with a timecode track of %s, %s is frame %i', (runs, counts, timecode, frame, labels) => {
    const track = { codec_type: 'data', codec_tag_string: 'tmcd', avg_frame_rate: counts, tags: { timecode } }
    const said = facts({ r_frame_rate: runs, avg_frame_rate: runs, tags: { timecode } }, mov, [track])
    expect([said.startFrame, said.labelsPerSecond]).toEqual([frame, labels])
  })

  test.each([
    // 25 pictures at 23.976 are 625.6 of its ticks; within the 26th is behind it.
    [626, 600, 864_025],
    [25_025, 24_000, 864_025],
    [25_776, 24_000, 864_026],
    [0, 600, 864_000],
  ])('a timecode track that begins %i of %i ticks in has its label there', (ticks, ticksPerSecond, frame) => {
    const stream = { ...video, r_frame_rate: '24000/1001', avg_frame_rate: '24000/1001' }
    const output = { streams: [{ ...stream, tags: { timecode: '10:00:00:00' } }], format: mov }
    const begins = { shownFrames: null, timecodeBegins: { ticks, ticksPerSecond }, labelsPerSecond: null }
    expect(readFacts(output as Parameters<typeof readFacts>[0], false, begins).startFrame).toBe(frame)
  })

  test('reel and timecode are found wherever the container keeps them, in any case', () => {
    const tmcd = { codec_type: 'data', tags: { reel_name: 'A001' } }
    expect(facts({}, mov, [tmcd]).reel).toBe('A001')
    expect(facts({}, { format_name: 'mxf', tags: { timecode: '01:00:00:00' } })).toMatchObject({
      startFrame: 90_000,
      container: 'mxf',
    })
    expect(facts({ tags: { REEL_NAME: 'B' } }, { format_name: 'matroska,webm' })).toMatchObject({
      reel: 'B',
      container: 'mkv',
    })
  })

  test('Matroska says how long a frame is in nanoseconds: that is the rate that has them', () => {
    const mkv = { format_name: 'matroska,webm' }
    const rateOf = (text: string, format = mkv) => facts({ r_frame_rate: text, avg_frame_rate: text }, format).picture
    const ntsc = { numerator: 60_000, denominator: 1001 }
    expect(rateOf('19001/317')).toMatchObject({ rate: ntsc, variableRate: false })
    expect(rateOf('50/1')).toMatchObject({ rate: { numerator: 50, denominator: 1 } })
    // Clearly another rate stays as it is said, and so does what another container says.
    expect(rateOf('5994/100')).toMatchObject({ rate: { numerator: 2997, denominator: 50 } })
    expect(rateOf('19001/317', mov)).toMatchObject({ rate: { numerator: 19_001, denominator: 317 } })
  })

  test('MXF counts its frames in its duration', () => {
    const { nb_frames: _, ...bare } = video
    expect(
      readFacts({ streams: [{ ...bare, time_base: '1/25', duration_ts: 77 }], format: { format_name: 'mxf' } }, false)
        .picture?.frames,
    ).toBe(77)
  })

  test('interlaced pictures that are counted by their fields run at half of that', () => {
    const counted = { r_frame_rate: '60000/1001', avg_frame_rate: '30000/1001' }
    const ntsc = { numerator: 30_000, denominator: 1001 }
    expect(facts({ ...counted, field_order: 'tt' }).picture).toMatchObject({ rate: ntsc, variableRate: false })
    const pal = { r_frame_rate: '50/1', avg_frame_rate: '25/1', field_order: 'tb' }
    expect(facts(pal).picture).toMatchObject({ rate: { numerator: 25, denominator: 1 }, variableRate: false })
    expect(facts({ ...counted, field_order: 'progressive' }).picture?.variableRate).toBe(true)
  })

  test('a varying rate is told', () => {
    expect(facts({ avg_frame_rate: '24000/1001' }).picture?.variableRate).toBe(true)
    expect(facts({}).picture?.variableRate).toBe(false)
  })

  test('pixel aspect, rotation, colour; unknown is not said', () => {
    expect(
      facts({
        sample_aspect_ratio: '2:1',
        side_data_list: [{ rotation: -90 }],
        color_transfer: 'log100',
        color_primaries: 'unknown',
      }).picture,
    ).toMatchObject({
      pixelAspect: { numerator: 2, denominator: 1 },
      rotation: -90,
      colour: { transfer: 'log100', primaries: null },
    })
    expect(facts({ sample_aspect_ratio: '0:1' }).picture?.pixelAspect).toEqual({ numerator: 1, denominator: 1 })
  })

  test('a cover picture in a sound file is no picture', () => {
    const cover = { ...video, disposition: { attached_pic: 1 } }
    const audio = {
      codec_type: 'audio',
      codec_name: 'mp3',
      channels: 2,
      sample_rate: '44100',
      time_base: '1/14112000',
      duration_ts: 14_112_000,
    }
    expect(
      readFacts({ streams: [cover, audio], format: { format_name: 'mp3' } } as Parameters<typeof readFacts>[0], false),
    ).toMatchObject({
      kind: 'sound',
      picture: null,
      sound: [{ samples: 44_100 }],
    })
  })

  test('nothing to see or hear is no media', () => {
    expect(() => readFacts({ streams: [], format: mov }, false)).toThrow(UnreadableMedia)
    expect(() => facts({ nb_frames: '0' })).toThrow('no frames')
  })
})

test('packets can be counted as proof', async () => {
  expect((await probe(join(folder, 'a.mov'), await size('a.mov'), { countPackets: true })).picture?.frames).toBe(20)
})

describe('starting programs', () => {
  test('what they say and how they end', async () => {
    const lines: string[] = []
    const result = await run('bash', ['-c', 'echo one; echo two; echo bad >&2; exit 3'], {
      onLine: (line) => lines.push(line),
    })
    expect(result).toMatchObject({ exitCode: 3, stderr: 'bad' })
    expect(lines).toEqual(['one', 'two'])
  })
  test('one that does not listen to a stop is ended all the same', async () => {
    const stop = new AbortController()
    const work = run('bash', ['-c', 'trap "" TERM; while :; do sleep 0.1; done'], { signal: stop.signal })
    setTimeout(() => stop.abort(new Error('enough')), 200)
    await expect(work).rejects.toThrow('enough')
  })
  test('one that hangs is ended and told', async () => {
    expect((await run('sleep', ['60'], { timeoutMilliseconds: 200 })).stderr).toContain('did not finish in time')
  })
  test('one that is not there', async () => {
    const result = await run('ennick-no-such-program', []).catch((error: Error) => error)
    expect(result instanceof Error || result.exitCode !== 0).toBe(true)
  })
})

describe('small pictures', () => {
  const source = async () => ({
    fullPath: join(folder, 'a.mov'),
    root: folder,
    sequence: null,
    fingerprint: 'abcdef',
    facts: await probe(join(folder, 'a.mov'), await size('a.mov')),
  })
  const pictures = () => join(folder, 'pictures')
  test('are made once, and kept when the file has left', async () => {
    const first = await pictureOf('thumbnail', await source(), { folder: pictures(), lut: null })
    const facts = await probe(first as string, (await stat(first as string)).size)
    expect(facts.picture).toMatchObject({ width: 320, height: 180, codec: 'mjpeg' })
    expect(
      await pictureOf('thumbnail', { ...(await source()), fullPath: '/gone.mov' }, { folder: pictures(), lut: null }),
    ).toBe(first)
  })
  test('a filmstrip shows eight places', async () => {
    const path = await pictureOf('filmstrip', await source(), { folder: pictures(), lut: null })
    expect((await probe(path as string, (await stat(path as string)).size)).picture?.width).toBe(8 * 320)
  })
  test('what nobody waits for any more is not begun; who comes for it after all gets it', async () => {
    const known = await source()
    const of = (fingerprint: string, signal?: AbortSignal) =>
      pictureOf('thumbnail', { ...known, fingerprint }, { folder: pictures(), lut: null, ...(signal && { signal }) })
    const gone = new AbortController()
    const first = [of('c1'), of('c2')]
    const passed = of('c3', gone.signal)
    const [left, stayed] = [of('c4', gone.signal), of('c4')]
    gone.abort()
    const later = of('c3')
    expect(await passed).toBeNull()
    expect(await of('c5', gone.signal)).toBeNull()
    for (const path of await Promise.all([...first, left, stayed, later])) expect(path).toMatch(/c\d-thumbnail\.jpg$/)
    expect(await readdir(join(pictures(), 'c5')).catch(() => [])).toEqual([])
  })
  test('there is none of sound, nor of a file that is not there', async () => {
    const sound = await probe(join(folder, 'a.wav'), await size('a.wav'))
    expect(
      await pictureOf(
        'thumbnail',
        { ...(await source()), fullPath: join(folder, 'a.wav'), fingerprint: 'b1', facts: sound },
        { folder: pictures(), lut: null },
      ),
    ).toBeNull()
    expect(
      await pictureOf(
        'thumbnail',
        { ...(await source()), fullPath: '/gone.mov', fingerprint: 'b2' },
        { folder: pictures(), lut: null },
      ),
    ).toBeNull()
  })
})

test('the first damaged still of many is named by its place', async () => {
  const stills = join(folder, 'stills')
  await mkdir(stills)
  const made = [
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=64x36,trim=end_frame=6',
    '-pix_fmt',
    'rgb24',
    join(stills, 'still.%04d.tif'),
  ]
  await run('ffmpeg', ['-v', 'error', ...made])
  const sequence = {
    folder: 'stills',
    prefix: 'still.',
    suffix: '.tif',
    digits: 4,
    ranges: [{ startFrame: 1, endFrame: 7 }],
  }
  const file = { fullPath: join(stills, 'still.%04d.tif'), root: folder, sequence }
  const { signal } = new AbortController()
  const find = () => findDamagedStill(file, { numerator: 25, denominator: 1 }, signal)
  expect(await find()).toBeNull()
  await truncate(join(stills, 'still.0004.tif'), 300)
  expect(await find()).toBe(3)
})

test('damaged and missing frames are named by their numbers', async () => {
  const path = join(folder, 'damaged.mov')
  await copyFile(join(folder, 'a.mov'), path)
  const facts = await probe(path, await size('damaged.mov'))
  const picture = facts.picture as NonNullable<typeof facts.picture>
  const { signal } = new AbortController()
  expect(await findDamagedFrames(path, facts, signal)).toEqual([])
  const listed = await run('ffprobe', [
    '-v',
    'error',
    '-select_streams',
    'v',
    '-show_entries',
    'packet=pos,size',
    '-of',
    'csv=p=0',
    path,
  ])
  const packets = listed.stdout.split('\n').map((line) => line.split(',').map(Number))
  const file = await open(path, 'r+')
  for (const frame of [5, 12]) {
    const [bytes, at] = packets[frame] as [number, number]
    await file.write(Buffer.alloc(Math.floor(bytes / 4), 0xff), 0, Math.floor(bytes / 4), at + Math.floor(bytes / 3))
  }
  await file.close()
  expect(await findDamagedFrames(path, facts, signal)).toEqual([5, 12])
  // One that the container promises and that is not there counts too.
  const promised = { ...facts, picture: { ...picture, frames: 22 } }
  expect(await findDamagedFrames(join(folder, 'a.mov'), promised, signal)).toEqual([20, 21])
})

test('the first packets say what no header does, of a small file and of one that is read in part', async () => {
  const codec = (words: string) => ['-c:v', ...words.split(' '), '-pix_fmt', 'yuv420p']
  await makePicture(join(folder, 'intra.mov'), { frames: 30, codec: codec('libx264 -g 1') })
  await makePicture(join(folder, 'gop.mov'), { frames: 30, codec: codec('libx264 -g 15') })
  const stored = async (name: string) => (await probe(join(folder, name), await size(name))).picture?.stored ?? null
  for (const [name, isIntra] of [
    ['intra.mov', true],
    ['gop.mov', false],
  ] as const) {
    const found = await stored(name)
    expect(found).toMatchObject({ isIntra })
    expect(found?.leastBytes).toBeLessThanOrEqual(found?.mostBytes as number)
    await copyFile(join(folder, name), join(folder, `large ${name}`))
    await truncate(join(folder, `large ${name}`), 70_000_000)
    expect(await stored(`large ${name}`)).toEqual(found)
  }
})
