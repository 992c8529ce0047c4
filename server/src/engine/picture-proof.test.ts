import { mkdtemp, open, rm, stat, truncate } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import {
  builtInRecipes,
  comparePictures,
  type EncodePlan,
  type PictureHash,
  planEncode,
  type Recipe,
  rate,
  sampleFrames,
} from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { makePicture } from '../testing/media.ts'
import { encode } from './encode.ts'
import { fontPath } from './luts.ts'
import { decodeMade, hashFrames, withHashes } from './picture-proof.ts'
import { probe } from './probe.ts'
import { run } from './process.ts'

const { signal } = new AbortController()
const frames = sampleFrames(50, rate(25))
let folder: string
let plan: EncodePlan
let source: readonly PictureHash[]
let made: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-proof-'))
  const original = join(folder, 'original.mov')
  await makePicture(original, { size: '240x180' })
  plan = await planOf(original)
  made = join(folder, 'made.mov')
  source = await withHashes(1, async ([hashes = ''], read) => {
    const inputs = [{ fullPath: original, root: folder, sequence: null }]
    const outcome = await encode(
      [{ plan, outputs: [made], lut: null, hashes }],
      { inputs, font: fontPath, strip: null },
      { signal, onProgress: () => undefined },
    )
    expect(outcome.failure).toBeNull()
    return read(0)
  })
})
afterAll(() => rm(folder, { recursive: true, force: true }))

async function planOf(path: string, frameRate = rate(25)): Promise<EncodePlan> {
  return planEncode({
    ...{ name: basename(path), facts: await probe(path, (await stat(path)).size), reel: 'A001', production: 'Proof' },
    format: { rate: frameRate, width: 320, height: 180 },
    recipe: builtInRecipes.find((recipe) => recipe.id === 'half-h264-intra') as Recipe,
  })
}

/** The made file with its pictures changed as no codec would. */
async function doctored(name: string, filter: string): Promise<string> {
  const path = join(folder, `${name}.mov`)
  const result = await run('ffmpeg', [
    '-v',
    'error',
    '-i',
    made,
    '-vf',
    filter,
    '-c:v',
    'libx264',
    '-g',
    '1',
    '-an',
    path,
  ])
  expect(result.stderr).toBe('')
  return path
}
/** What is wrong by looking at some frames, or by decoding all of them. */
const difference = async (path: string, look = hashFrames): Promise<string | null> => {
  const hashes = await look(plan, path, frames, { signal })
  return typeof hashes === 'string' ? hashes : comparePictures(source, hashes, 0).difference
}

test('every picture has a hash, and what was made is alike', async () => {
  expect(source).toHaveLength(50)
  expect(await difference(made)).toBeNull()
  expect(await difference(made, decodeMade)).toBeNull()
})

test.each([
  ['black', 'drawbox=t=fill:color=black', /frame 0 is black/],
  [
    'black from the middle on',
    "drawbox=t=fill:color=black:enable='gte(n,25)'",
    /^frame 36 is black; frame 49 is black$/,
  ],
  ['frozen', 'loop=loop=49:size=1,trim=end_frame=50', /frame 49 shows/],
  ['shifted by three frames', 'tpad=start=3:start_mode=clone,trim=end_frame=50', /frame 24 shows frame 2[01]/],
  ['upside down', 'vflip', /shows another picture/],
])('a picture that is %s is caught', async (name, filter, message) => {
  const path = await doctored(name.replaceAll(' ', '-'), filter)
  expect(await difference(path)).toMatch(message)
  expect(await difference(path, decodeMade)).toMatch(message)
})

test('a file that is cut off, and one that cannot be decoded, are told', async () => {
  const short = await doctored('short', 'trim=end_frame=40')
  expect(await difference(short)).toMatch(/pictures could be decoded|decod|Invalid|no reason/)
  expect(await difference(short, decodeMade)).toBe('40 of 50 frames could be decoded')
  const broken = await doctored('broken', 'null')
  await truncate(broken, 2000)
  for (const look of [hashFrames, decodeMade]) expect(await difference(broken, look)).toMatch(/moov|Invalid|decod/)
})

test('each frame is the one that was asked for, at a rate that no decimal time meets', async () => {
  const path = join(folder, 'odd rate.mxf')
  await makePicture(path, {
    ...{ rate: '30000/1001', frames: 31, timecode: '12:59:58;00', channels: 0, format: 'mxf_opatom' },
    codec: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_lb', '-pix_fmt', 'yuv422p'],
  })
  const odd = await planOf(path, rate(30000, 1001))
  const hashes = await hashFrames(odd, path, [...Array(31).keys()], { signal })
  if (typeof hashes === 'string') throw new Error(hashes)
  const apart = new Set([...hashes.values()].map((hash) => hash.join()))
  expect(apart.size).toBe(31)
})

test('a frame that nobody looks at is found when all are decoded', async () => {
  const path = join(folder, 'hidden.mov')
  await makePicture(path, {
    size: '240x180',
    frames: 250,
    codec: ['-c:v', 'libx264', '-g', '1', '-pix_fmt', 'yuv420p'],
  })
  const long = await planOf(path)
  const looked = sampleFrames(250, rate(25))
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
  // Long after one that is looked at, and not just before another: decoders read ahead of what is asked of them.
  const frame = (looked[1] as number) - 5
  expect(looked).not.toContain(frame)
  const [bytes, at] = (listed.stdout.split('\n')[frame] as string).split(',').map(Number) as [number, number]
  const file = await open(path, 'r+')
  await file.write(Buffer.alloc(Math.floor(bytes / 2), 0xff), 0, Math.floor(bytes / 2), at + Math.floor(bytes / 4))
  await file.close()
  expect(await hashFrames(long, path, looked, { signal })).toBeInstanceOf(Map)
  expect(await decodeMade(long, path, looked, { signal })).toMatch(/h264|decod|error/i)
})
