import { mkdtemp, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { PassThrough } from 'node:stream'
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals'
import { makePicture, makeSound } from '../testing/media.ts'
import { killedHalfway, standIn, withoutStandIns } from '../testing/stand-in.ts'
import { cutOut, proveCutOut } from './cut-out.ts'
import { findDamagedFrames } from './damage.ts'
import { greyFrames } from './grey-frames.ts'
import { hearWhole } from './hear.ts'
import { play } from './play.ts'
import { probe } from './probe.ts'
import { EndedFromOutside, run } from './process.ts'
import { decodedSound, pictureHashes } from './stream-copy.ts'

const { signal } = new AbortController()
let folder: string
let clip: string
const sized = async (path: string) => (await stat(path)).size
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-process-'))
  clip = join(folder, 'a.mov')
  await makePicture(clip, { frames: 50 })
  await makeSound(join(folder, 'a.wav'), 96_000, 48_000)
})
afterEach(withoutStandIns)
afterAll(() => rm(folder, { recursive: true, force: true }))

const killHalfway = (name: string, bytes: number) => killedHalfway(join(folder, 'bin'), name, bytes)

async function all<T>(stream: AsyncIterable<T>): Promise<T[]> {
  const list: T[] = []
  for await (const each of stream) list.push(each)
  return list
}

describe('a program that is run', () => {
  const sh = (script: string, options = {}) => run('sh', ['-c', script], options)
  test('answers with its own end, also where it falls over its work', async () => {
    expect(await sh('echo a; exit 3')).toEqual({ exitCode: 3, stdout: 'a', stderr: '' })
    expect(await sh('kill -SEGV $$')).toMatchObject({ exitCode: -1 })
    expect(await sh('echo why >&2; exit 255')).toMatchObject({ exitCode: 255, stderr: 'why' })
    expect(await sh('exec sleep 20', { timeoutMilliseconds: 50 })).toMatchObject({
      exitCode: -1,
      stderr: 'sh did not finish in time',
    })
  })
  test.each(['kill -KILL $$', 'kill -TERM $$', 'exit 255'])('and does not answer where others ended it: %s', (script) =>
    expect(sh(script)).rejects.toThrow(/ended from outside .* says nothing of the files/),
  )
  test('ends with its signal, for the reason of that', async () => {
    const controller = new AbortController()
    const running = sh('exec sleep 20', { signal: controller.signal })
    setTimeout(() => controller.abort(new Error('stopped by a person')), 50)
    await expect(running).rejects.toThrow('stopped by a person')
  })
})

describe('of a file that was being worked on when the encoder was killed nothing is said', () => {
  test('not that it is damaged', async () => {
    const facts = await probe(clip, await sized(clip))
    expect(await findDamagedFrames(clip, facts, signal)).toEqual([])
    await killHalfway('ffprobe', 600)
    await expect(findDamagedFrames(clip, facts, signal)).rejects.toThrow(EndedFromOutside)
  })
  test('not that it cannot be read: it is looked at once more', async () => {
    await killHalfway('ffprobe', 100)
    await expect(probe(clip, await sized(clip))).rejects.toThrow(EndedFromOutside)
    await withoutStandIns()
    const ffprobe = (await run('sh', ['-c', 'command -v ffprobe'])).stdout
    const once = join(folder, 'once')
    const script = `if [ ! -e '${once}' ]; then touch '${once}'; kill -9 $$; fi\nexec ${ffprobe} "$@"`
    await standIn(join(folder, 'bin'), 'ffprobe', script)
    expect(await probe(clip, await sized(clip))).toMatchObject({ picture: { frames: 50 } })
  })
  test('not that its pictures or its sound end there', async () => {
    const facts = await probe(clip, await sized(clip))
    const sound = await probe(join(folder, 'a.wav'), await sized(join(folder, 'a.wav')))
    await killHalfway('ffmpeg', 5000)
    await expect(all(greyFrames(clip, signal))).rejects.toThrow(EndedFromOutside)
    await expect(all(pictureHashes(clip, signal))).rejects.toThrow(EndedFromOutside)
    await expect(all(decodedSound(clip, facts, signal))).rejects.toThrow(EndedFromOutside)
    // Of what is read as it lies no encoder is asked.
    const packed = { ...sound, sound: sound.sound.map((stream) => ({ ...stream, codec: 'flac' })) }
    const heard = { root: folder, path: 'a.wav', fullPath: join(folder, 'a.wav'), sequence: null, facts: packed }
    await expect(hearWhole({ files: [heard] }, signal)).rejects.toThrow(EndedFromOutside)
  })
  test('to a screen that it cannot be played: why nothing comes', async () => {
    const picture = {
      root: folder,
      path: 'a.mov',
      fullPath: clip,
      sequence: null,
      facts: await probe(clip, await sized(clip)),
    }
    const played = { picture, sound: [], rate: { numerator: 25, denominator: 1 }, tracks: null, lut: null }
    await killHalfway('ffmpeg', 0)
    const range = { startFrame: 0, endFrame: 5 }
    expect(await play({ ...played, range }, new PassThrough(), signal)).toMatch(/ended from outside/)
  })
  test('not that a stretch of it is another than its original', async () => {
    const of = { fullPath: clip, facts: await probe(clip, await sized(clip)) }
    const range = { startFrame: 10, endFrame: 20 }
    const target = join(folder, 'piece.mov')
    await killHalfway('ffmpeg', 0)
    await expect(cutOut(of, range, { target, reel: null }, signal)).rejects.toThrow(EndedFromOutside)
    await withoutStandIns()
    await rm(target, { force: true })
    const { soundHash } = await cutOut(of, range, { target, reel: null }, signal)
    const piece = { fullPath: target, facts: await probe(target, await sized(target), { countPackets: true }) }
    expect(await proveCutOut(piece, of, range, soundHash, signal)).toBeNull()
    await killHalfway('ffmpeg', 300)
    await expect(proveCutOut(piece, of, range, soundHash, signal)).rejects.toThrow(EndedFromOutside)
  })
})
