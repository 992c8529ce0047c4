import { mkdtemp, readFile, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { samplesBefore } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { makePicture } from '../testing/media.ts'
import { cutOut, proveCutOut } from './cut-out.ts'
import { probe } from './probe.ts'
import { run } from './process.ts'
import type { CopiedFile } from './stream-copy.ts'

let folder: string
let original: CopiedFile
const signal = new AbortController().signal
const described = async (fullPath: string): Promise<CopiedFile> => ({
  fullPath,
  facts: await probe(fullPath, (await stat(fullPath)).size, { countPackets: true }),
})
/** The samples of one channel, by a command of its own. */
async function samplesOf(path: string, channel: number): Promise<Buffer> {
  const raw = join(folder, `raw ${Math.random()}`)
  const words = ['-v', 'error', '-i', path, '-map', `0:a:${channel}`, '-c:a', 'pcm_s24le', '-f', 's24le', raw]
  expect((await run('ffmpeg', words)).exitCode).toBe(0)
  return readFile(raw)
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-cut-out-'))
  const path = join(folder, 'A001C001.mov')
  const rate = '30000/1001'
  await makePicture(path, { size: '160x90', rate, frames: 90, timecode: '10:00:58;20', reel: 'A001' })
  original = await described(path)
})
afterAll(() => rm(folder, { recursive: true }))

test('a stretch has the pictures, the labels and the samples that it has in its original', async () => {
  const range = { startFrame: 13, endFrame: 54 }
  const target = join(folder, 'piece.mov')
  const { failure, soundHash } = await cutOut(original, range, { target, reel: 'A001' }, signal)
  expect(failure).toBeNull()
  const piece = await described(target)
  expect(piece.facts).toMatchObject({
    ...{ startFrame: (original.facts.startFrame as number) + 13, dropFrame: true, reel: 'A001' },
    picture: { codec: 'mjpeg', frames: 41, width: 160, rate: { numerator: 30000, denominator: 1001 } },
  })
  expect(await proveCutOut(piece, original, range, soundHash, signal)).toBeNull()
  // The hash of what was written stands for the original's own sound.
  expect(await proveCutOut(piece, original, range, null, signal)).toBeNull()
  const rate = { numerator: 30000, denominator: 1001 }
  const [from, to] = [samplesBefore(13, rate, 48_000), samplesBefore(54, rate, 48_000)]
  for (const channel of [0, 1]) {
    const whole = await samplesOf(original.fullPath, channel)
    expect((await samplesOf(target, channel)).equals(whole.subarray(from * 3, to * 3))).toBe(true)
  }
})

test('of a file without timecode a stretch says where it lies in it, as lists count that from zero', async () => {
  const path = join(folder, 'plain.mov')
  await makePicture(path, { size: '160x90', frames: 40, timecode: null, reel: null })
  const plain = await described(path)
  const range = { startFrame: 10, endFrame: 30 }
  const target = join(folder, 'plain piece.mov')
  const { failure, soundHash } = await cutOut(plain, range, { target, reel: null }, signal)
  expect(failure).toBeNull()
  const piece = await described(target)
  expect([plain.facts.startFrame, piece.facts.startFrame]).toEqual([null, 10])
  expect(await proveCutOut(piece, plain, range, soundHash, signal)).toBeNull()
})

test('the beginning and the end of a file can be cut out', async () => {
  for (const range of [
    { startFrame: 0, endFrame: 2 },
    { startFrame: 88, endFrame: 90 },
  ]) {
    const target = join(folder, `end ${range.startFrame}.mov`)
    const { failure, soundHash } = await cutOut(original, range, { target, reel: null }, signal)
    expect(failure).toBeNull()
    expect(await proveCutOut(await described(target), original, range, soundHash, signal)).toBeNull()
  }
})

test('another stretch, another length or other sound under its name is told', async () => {
  const range = { startFrame: 20, endFrame: 40 }
  const target = join(folder, 'other.mov')
  const { soundHash } = await cutOut(original, range, { target, reel: null }, signal)
  const piece = await described(target)
  const prove = (of: { startFrame: number; endFrame: number }, hash = soundHash) =>
    proveCutOut(piece, original, of, hash, signal)
  expect(await prove({ startFrame: 20, endFrame: 41 })).toMatch(/20 frames instead of 21/)
  expect(await prove({ startFrame: 21, endFrame: 41 })).toMatch(/timecode/)
  expect(await prove(range, 'another')).toMatch(/sound/)
  const relabelled = { ...piece, facts: { ...piece.facts, startFrame: (piece.facts.startFrame as number) + 1 } }
  expect(await proveCutOut(relabelled, original, { startFrame: 21, endFrame: 41 }, soundHash, signal)).toMatch(
    /its frame 0 is another picture/,
  )
})
