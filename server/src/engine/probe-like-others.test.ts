import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { extname, join } from 'node:path'
import { factsLike, type MediaFacts } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { ffmpeg } from '../testing/media.ts'
import { firstPackets, probe, UnreadableMedia } from './probe.ts'
import { probeLikeOthers } from './probe-like-others.ts'
import { readHeader } from './read-header.ts'

let folder: string

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-alike-'))
})

afterAll(() => rm(folder, { recursive: true }))

interface Shot {
  readonly number: number
  readonly frames: number
  readonly timecode: string
  readonly created: string
}

/** Of each kind three are made: of other lengths, with other timecodes, made at other times. */
const shots: readonly Shot[] = [1, 2, 3].map((number) => ({
  number,
  frames: 20 + 13 * number,
  timecode: `0${number}:5${number}:00:0${number}`,
  created: `2026-11-0${number}T10:00:0${number}Z`,
}))

const picture = ({ frames }: Shot, rate = '25'): string[] => [
  ...['-f', 'lavfi', '-i', `testsrc2=s=256x144:r=${rate},trim=end_frame=${frames}`],
]
const sounds = ({ frames }: Shot, count = 2): string[] =>
  Array.from({ length: count }, (_, index) => [
    ...['-f', 'lavfi', '-i', `sine=f=${300 + index * 100}:r=48000,atrim=end_sample=${frames * 1920}`],
  ]).flat()
const maps = (count = 2): string[] => Array.from({ length: count }, (_, index) => ['-map', `${1 + index}:a`]).flat()
const stamped = (shot: Shot, timecode = shot.timecode): string[] => [
  ...['-timecode', timecode, '-metadata', `creation_time=${shot.created}`],
]
/** A camera's file: a picture, two tracks of sound, timecode. */
const camera = (shot: Shot, codec: string[], { rate = '25', timecode = shot.timecode, sound = 'pcm_s24le' } = {}) => [
  ...[...picture(shot, rate), ...sounds(shot), '-map', '0:v', ...maps()],
  ...['-c:v', ...codec, '-c:a', sound, ...stamped(shot, timecode)],
]
const drop = ({ timecode }: Shot): string => timecode.replace(/:(\d+)$/, ';$1')
const longGop = ['libx264', '-pix_fmt', 'yuv420p', '-g', '12', '-bf', '2']
const dnx = ['dnxhd', '-profile:v', 'dnxhr_sq', '-pix_fmt', 'yuv422p']
const recorder = (shot: Shot, ...more: string[]): string[] => [
  ...['-f', 'lavfi', '-i', `sine=r=48000,atrim=end_sample=${48_000 * shot.number + 17}`, ...more],
]
const notes = ({ number }: Shot): string[] => [
  ...['-write_bext', '1', '-metadata', `time_reference=${number * 1_000_000}`],
  ...['-metadata', `description=sTAKE=${number}`, '-metadata', 'originator=Recorder'],
  ...['-metadata', `origination_date=2026-11-0${number}`, '-metadata', `origination_time=10:0${number}:00`],
]

/** What the probe is not asked of each. */
const kinds: [name: string, make: (shot: Shot) => string[]][] = [
  ['jpeg.mov', (shot) => camera(shot, ['mjpeg', '-pix_fmt', 'yuvj420p'])],
  ['silent.mov', (shot) => [...picture(shot), '-c:v', 'mjpeg', '-pix_fmt', 'yuvj420p']],
  ['long-gop.mov', (shot) => camera(shot, longGop, { sound: 'pcm_s16le' })],
  ['long-gop.mp4', (shot) => camera(shot, longGop, { sound: 'aac' })],
  ['begins-with-its-index.mp4', (shot) => [...camera(shot, longGop, { sound: 'aac' }), '-movflags', '+faststart']],
  ['all-intra.mov', (shot) => camera(shot, ['libx264', '-pix_fmt', 'yuv422p10le', '-g', '1'])],
  [
    'hevc.mp4',
    (shot) => camera(shot, ['libx265', '-x265-params', 'log-level=none', '-tag:v', 'hvc1'], { sound: 'aac' }),
  ],
  ['prores.mov', (shot) => camera(shot, ['prores_ks', '-profile:v', '2'])],
  ['alpha.mov', (shot) => camera(shot, ['prores_ks', '-profile:v', '4', '-pix_fmt', 'yuva444p10le'])],
  ['fields.mov', (shot) => camera(shot, ['prores_ks', '-flags', '+ildct', '-field_order', 'tt'])],
  ['vc3.mov', (shot) => camera(shot, dnx)],
  ['drop.mov', (shot) => camera(shot, ['prores_ks'], { rate: '30000/1001', timecode: drop(shot) })],
  ['23.976.mov', (shot) => camera(shot, longGop, { rate: '24000/1001', sound: 'aac' })],
  ['50.mov', (shot) => camera(shot, longGop, { rate: '50' })],
  ['59.94.mp4', (shot) => camera(shot, longGop, { rate: '60000/1001', timecode: drop(shot), sound: 'aac' })],
  [
    'eight.mov',
    (shot) => [
      ...[...picture(shot), ...sounds(shot, 8), '-map', '0:v', ...maps(8)],
      ...['-c:v', 'prores_ks', '-c:a', 'pcm_s24le', ...stamped(shot)],
    ],
  ],
  ['sound.mov', (shot) => [...sounds(shot, 1), '-c:a', 'pcm_s24le']],
  ['sound.m4a', (shot) => [...sounds(shot, 1), '-c:a', 'aac', '-f', 'ipod']],
  ['notes.wav', (shot) => [...recorder(shot), '-c:a', 'pcm_s24le', ...notes(shot)]],
  ['plain.wav', (shot) => [...recorder(shot), '-c:a', 'pcm_s16le', '-ac', '2']],
  ['large.wav', (shot) => [...recorder(shot), '-c:a', 'pcm_f32le', '-ac', '4', '-rf64', 'always']],
  ['mpeg-2.mxf', (shot) => camera(shot, ['mpeg2video', '-b:v', '4M', '-g', '12', '-bf', '2'])],
  [
    'fields.mxf',
    (shot) => camera(shot, ['mpeg2video', '-b:v', '4M', '-flags', '+ildct+ilme', '-top', '1'], { sound: 'pcm_s16le' }),
  ],
  ['long-gop.mxf', (shot) => camera(shot, longGop)],
  ['drop.mxf', (shot) => camera(shot, dnx, { rate: '30000/1001', timecode: drop(shot) })],
  ['one-track.mxf', (shot) => [...sounds(shot, 1), '-c:a', 'pcm_s24le', '-f', 'mxf_opatom']],
]

/** What has more to it than is read here. */
const others: typeof kinds = [
  ['interlaced.mov', (shot) => camera(shot, ['libx264', '-flags', '+ildct+ilme', '-x264opts', 'tff=1'])],
  ['mpeg-4.mov', (shot) => camera(shot, ['mpeg4'])],
  ['two-pictures.mov', (shot) => [...picture(shot), '-map', '0:v', '-map', '0:v', '-c:v', 'mjpeg']],
  ['matroska.mkv', (shot) => camera(shot, longGop)],
  ['interlaced.mxf', (shot) => camera(shot, ['libx264', '-flags', '+ildct+ilme', '-x264opts', 'tff=1'])],
  ['all-in-one.mxf', (shot) => [...picture(shot), '-c:v', ...dnx, '-f', 'mxf_opatom']],
  ['packed.wav', (shot) => [...recorder(shot), '-c:a', 'adpcm_ms']],
]

interface Made {
  readonly path: string
  readonly sizeBytes: number
}

async function madeOf(name: string, make: (shot: Shot) => string[], of: readonly Shot[]): Promise<Made[]> {
  const made = []
  for (const shot of of) {
    const path = join(folder, `${shot.number} ${name}`)
    await ffmpeg([...make(shot), `file:${path}`])
    made.push({ path, sizeBytes: (await stat(path)).size })
  }
  return made
}

/** Without the probe on this machine. */
async function withoutProbe<T>(task: () => Promise<T>): Promise<T> {
  const { PATH } = process.env
  process.env.PATH = join(folder, 'nothing')
  try {
    return await task()
  } finally {
    process.env.PATH = PATH
  }
}

test.each(kinds)('of a third %s the probe is not asked, and every fact is as it would tell', async (name, make) => {
  const made = await madeOf(name, make, shots)
  const ask = ({ path, sizeBytes }: Made): Promise<MediaFacts> => probeLikeOthers(path, sizeBytes, {})
  const [first, second, third] = made as [Made, Made, Made]
  // Of two it is asked.
  const told = [await ask(first), await ask(second), await probe(third.path, third.sizeBytes)]
  await expect(withoutProbe(() => probe(third.path, third.sizeBytes))).rejects.toThrow()
  expect(await withoutProbe(() => ask(third))).toEqual(told[2])
  // Each is told by any other of them.
  for (const [one, { path, sizeBytes }] of made.entries()) {
    const reading = await readHeader(path, sizeBytes, firstPackets)
    for (const other of told) expect(reading && factsLike(other, reading.numbers, true)).toEqual(told[one])
  }
})

test('of copies of one file the probe is asked once, and it says nothing of others', async () => {
  const made = (frames: number): Promise<void> =>
    ffmpeg([
      ...['-f', 'lavfi', '-i', `testsrc2=s=640x360:r=25,trim=end_frame=${frames}`],
      ...['-c:v', 'prores_ks', '-metadata', 'comment=copied', `file:${join(folder, `${frames} copied.mov`)}`],
    ])
  await made(20)
  await made(30)
  const [first, other] = [join(folder, '20 copied.mov'), join(folder, '30 copied.mov')]
  const ask = async (path: string) => probeLikeOthers(path, (await stat(path)).size, {})
  const told = await ask(first)
  expect(await withoutProbe(() => ask(first))).toEqual(told)
  await expect(withoutProbe(() => ask(other))).rejects.toThrow()
})

test.each(others)('of each %s the probe is asked', async (name, make) => {
  const [made] = (await madeOf(name, make, shots.slice(0, 1))) as [Made]
  expect(await readHeader(made.path, made.sizeBytes, firstPackets)).toBeNull()
  expect(await probeLikeOthers(made.path, made.sizeBytes, {})).toEqual(await probe(made.path, made.sizeBytes))
})

describe('a file that was harmed', () => {
  const harmed = async (
    name: string,
    harm: (bytes: Buffer) => Buffer,
  ): Promise<{ path: string; sizeBytes: number }> => {
    const bytes = harm(await readFile(join(folder, name)))
    const path = join(folder, `harmed${extname(name)}`)
    await writeFile(path, bytes)
    return { path, sizeBytes: bytes.length }
  }

  test('is not taken for one like others: cut off, or its first picture wiped', async () => {
    const cut = await harmed('3 prores.mov', (bytes) => bytes.subarray(0, bytes.length - 900))
    await expect(probeLikeOthers(cut.path, cut.sizeBytes, {})).rejects.toThrow(UnreadableMedia)
    const wiped = await harmed('3 prores.mov', (bytes) => {
      bytes.fill(0, bytes.indexOf('icpf') - 4, bytes.indexOf('icpf') + 4000)
      return bytes
    })
    expect(await readHeader(wiped.path, wiped.sizeBytes, firstPackets)).toBeNull()
    expect(await probeLikeOthers(wiped.path, wiped.sizeBytes, {})).toEqual(await probe(wiped.path, wiped.sizeBytes))
  })

  // A number that is drawn anew each time from the one before (Numerical Recipes, 7.1).
  let seed = 36
  const draw = (below: number): number => {
    seed = (seed * 1_664_525 + 1_013_904_223) % 2 ** 32
    return Math.floor((seed / 2 ** 32) * below)
  }

  test.each(['1 jpeg.mov', '1 long-gop.mp4', '1 mpeg-2.mxf', '1 notes.wav'])(
    'somewhere in its header is told as the probe tells: %s',
    async (name) => {
      const whole = join(folder, name)
      const { size } = await stat(whole)
      const facts = await probe(whole, size)
      const shape = (await readHeader(whole, size, firstPackets))?.shape
      let compared = 0
      for (let turn = 0; turn < 25; turn++) {
        const { path, sizeBytes } = await harmed(name, (bytes) => {
          const from = Math.max(0, bytes.indexOf('moov'))
          const most = from > 0 || name.endsWith('.mxf') ? 6000 : 700
          bytes[from + draw(Math.min(bytes.length - from, most))] = draw(256)
          return bytes
        })
        const reading = await readHeader(path, sizeBytes, firstPackets)
        const like = reading?.shape === shape ? reading && factsLike(facts, reading.numbers, true) : null
        if (!like) continue
        compared++
        expect(await probeLikeOthers(path, sizeBytes, {}).catch(String)).toEqual(
          await probe(path, sizeBytes).catch(String),
        )
      }
      expect(compared).toBeGreaterThan(0)
    },
  )
})
