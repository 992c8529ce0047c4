import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { PassThrough } from 'node:stream'
import type { MediaFacts } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { makePicture, makeSound } from '../testing/media.ts'
import { mayPlay, type Played, play } from './play.ts'
import { probe } from './probe.ts'
import { run } from './process.ts'

let folder: string
let picture: { fullPath: string; root: string; sequence: null; facts: MediaFacts }
let sound: typeof picture

const factsOf = async (path: string): Promise<MediaFacts> => probe(path, (await stat(path)).size)

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-play-'))
  const [picturePath, soundPath] = [join(folder, 'picture.mov'), join(folder, 'sound.wav')]
  await makePicture(picturePath, { frames: 60, channels: 2 })
  await makeSound(soundPath, 96_000, 0, 1)
  picture = { fullPath: picturePath, root: folder, sequence: null, facts: await factsOf(picturePath) }
  sound = { fullPath: soundPath, root: folder, sequence: null, facts: await factsOf(soundPath) }
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const stretch = (change: Partial<Played> = {}): Played => ({
  ...{ picture, sound: [], rate: { numerator: 25, denominator: 1 }, tracks: null, lut: null },
  range: { startFrame: 17, endFrame: 27 },
  ...change,
})

/** Renders a stretch into a file. */
async function rendered(played: Played): Promise<string> {
  const output = new PassThrough()
  const chunks: Buffer[] = []
  output.on('data', (chunk: Buffer) => chunks.push(chunk))
  expect(await play(played, output, new AbortController().signal)).toBeNull()
  const path = join(folder, `${Math.random()}.mp4`)
  await writeFile(path, Buffer.concat(chunks))
  return path
}

/** The pictures of a file, small and grey. */
async function greyPictures(path: string): Promise<Buffer[]> {
  const raw = `${path}.grey`
  const made = await run('ffmpeg', [
    ...['-v', 'error', '-i', path, '-map', '0:V', '-vf', 'scale=64:36:flags=area,format=gray', '-f', 'rawvideo', raw],
  ])
  expect(made.exitCode).toBe(0)
  const bytes = await readFile(raw)
  return Array.from({ length: bytes.length / 2304 }, (_, index) => bytes.subarray(index * 2304, (index + 1) * 2304))
}

const apart = (a: Buffer, b: Buffer): number =>
  a.reduce((sum, value, index) => sum + Math.abs(value - (b[index] ?? 0)), 0)

/** The samples of a file, as many channels as it has, one after another. */
async function samples(path: string): Promise<Float32Array> {
  const raw = `${path}.samples`
  const words = ['-v', 'error', '-y', '-i', path, '-map', '0:a:0', '-f', 'f32le', raw]
  expect((await run('ffmpeg', words)).exitCode).toBe(0)
  const bytes = await readFile(raw)
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength))
}

describe('what is rendered for a screen', () => {
  test('begins with the first frame of the stretch and ends with its last', async () => {
    const [source, shown] = await Promise.all([greyPictures(picture.fullPath), greyPictures(await rendered(stretch()))])
    const nearest = shown.map((one) => {
      const distances = source.map((other) => apart(one, other))
      return distances.indexOf(Math.min(...distances))
    })
    expect(nearest).toEqual([17, 18, 19, 20, 21, 22, 23, 24, 25, 26])
  })

  test('has the chosen track alone, from its very sample', async () => {
    const [source, heard] = await Promise.all([
      samples(sound.fullPath),
      samples(await rendered(stretch({ picture: null, sound: [{ file: sound, atSeconds: 17 / 25 }], tracks: [0] }))),
    ])
    expect(heard.length).toBe(2 * 10 * 1920)
    const first = 17 * 1920
    const worst = source
      .subarray(first, first + 10 * 1920)
      .reduce((most, value, index) => Math.max(most, Math.abs(value - (heard[2 * index] ?? 1))), 0)
    expect(worst).toBeLessThan(0.001)
  })

  test('a recording beside the picture lies where it is said to, be it later or earlier', async () => {
    const source = await samples(sound.fullPath)
    // Two channels of the camera come first.
    for (const atSeconds of [0.25, -0.2]) {
      const heard = await samples(await rendered(stretch({ sound: [{ file: sound, atSeconds }], tracks: [2] })))
      expect(heard.length).toBe(2 * 10 * 1920)
      const first = Math.round(atSeconds * 48_000)
      const worst = Array.from({ length: 10 * 1920 }, (_, index) =>
        Math.abs((source[first + index] ?? 0) - (heard[2 * index] ?? 1)),
      ).reduce((most, value) => Math.max(most, value), 0)
      expect(worst).toBeLessThan(0.001)
    }
  })

  test('two tracks are left and right; without any it is silent', async () => {
    const both = await samples(await rendered(stretch()))
    const isSame = both.every((value, index) => index % 2 === 1 || value === both[index + 1])
    expect(isSame).toBe(false)
    const facts = await factsOf(await rendered(stretch({ tracks: [] })))
    expect([facts.sound.length, facts.picture?.frames]).toEqual([0, 10])
  })

  test('sound that ends before the picture is silent from there: a player that is given both waits for both', async () => {
    const path = join(folder, 'short sound.mov')
    await makePicture(path, { frames: 60, channels: 1, extra: ['-af', 'atrim=end_sample=24000'] })
    const short = { fullPath: path, root: folder, sequence: null, facts: await factsOf(path) }
    const source = await samples(path)
    for (const startFrame of [2, 30]) {
      const range = { startFrame, endFrame: startFrame + 20 }
      const heard = await samples(await rendered(stretch({ picture: short, range })))
      // The encoder ends with the last picture, whatever sound it still holds.
      expect(heard.length).toBeGreaterThan(2 * 15 * 1920)
      const heardSamples = Math.max(0, 24_000 - startFrame * 1920)
      const own = source.subarray(startFrame * 1920)
      expect(own.length).toBe(heardSamples)
      expect(own.every((value, index) => Math.abs(value - (heard[2 * index] ?? 1)) < 0.001)).toBe(true)
      expect(heard.subarray(2 * heardSamples).every((value) => value === 0)).toBe(true)
    }
  })

  test('three at once; one that nobody looks at any more ends, and makes room', async () => {
    const unread = Array.from({ length: 3 }, () => {
      const gone = new AbortController()
      const output = new PassThrough({ highWaterMark: 1 })
      return { gone, output, ended: play(stretch({ range: { startFrame: 0, endFrame: 60 } }), output, gone.signal) }
    })
    expect(mayPlay()).toBe(false)
    unread[0]?.gone.abort()
    expect(await unread[0]?.ended).toBeNull()
    expect(mayPlay()).toBe(true)
    for (const { gone } of unread) gone.abort()
    await Promise.all(unread.map(({ ended }) => ended))
  })

  test('what cannot be decoded is told', async () => {
    const path = join(folder, 'broken.mov')
    await writeFile(path, 'no film at all')
    const complaint = await play(
      stretch({ picture: { ...picture, fullPath: path } }),
      new PassThrough(),
      new AbortController().signal,
    )
    expect(complaint).toMatch(/broken\.mov/)
  })
})
