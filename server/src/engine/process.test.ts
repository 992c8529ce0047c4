import { chmod, mkdir, mkdtemp, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals'
import { makePicture, makeSound } from '../testing/media.ts'
import { cutOut, proveCutOut } from './cut-out.ts'
import { findDamagedFrames } from './damage.ts'
import { greyFrames } from './grey-frames.ts'
import { hearWhole } from './hear.ts'
import { probe } from './probe.ts'
import { EndedFromOutside, run } from './process.ts'
import { decodedSound, pictureHashes } from './stream-copy.ts'

const { PATH } = process.env
const { signal } = new AbortController()
let folder: string
let clip: string
const sized = async (path: string) => (await stat(path)).size
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-process-'))
  clip = join(folder, 'a.mov')
  await makePicture(clip, { frames: 50 })
  await makeSound(join(folder, 'a.wav'), 96_000, 48_000)
  await mkdir(join(folder, 'bin'))
})
afterEach(() => {
  process.env.PATH = PATH
})
afterAll(() => rm(folder, { recursive: true, force: true }))

/** Puts a program of a name before all others, which does what a shell is told. */
async function standIn(name: string, script: string): Promise<void> {
  const path = join(folder, 'bin', name)
  await rm(path, { force: true })
  await writeFile(path, `#!/bin/sh\n${script}\n`)
  await chmod(path, 0o755)
  process.env.PATH = `${join(folder, 'bin')}:${PATH}`
}
/** The encoder writes the beginning of what it has to say, and then it is killed. */
const killedHalfway = (name: string, bytes: number) =>
  standIn(name, `PATH='${PATH}' ${name} "$@" | head -c ${bytes}\nkill -9 $$`)

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
    await killedHalfway('ffprobe', 600)
    await expect(findDamagedFrames(clip, facts, signal)).rejects.toThrow(EndedFromOutside)
  })
  test('not that it cannot be read: it is looked at once more', async () => {
    await killedHalfway('ffprobe', 100)
    await expect(probe(clip, await sized(clip))).rejects.toThrow(EndedFromOutside)
    const once = join(folder, 'once')
    await standIn(
      'ffprobe',
      `if [ ! -e '${once}' ]; then touch '${once}'; kill -9 $$; fi\nPATH='${PATH}' exec ffprobe "$@"`,
    )
    expect(await probe(clip, await sized(clip))).toMatchObject({ picture: { frames: 50 } })
  })
  test('not that its pictures or its sound end there', async () => {
    const facts = await probe(clip, await sized(clip))
    const sound = await probe(join(folder, 'a.wav'), await sized(join(folder, 'a.wav')))
    await killedHalfway('ffmpeg', 5000)
    await expect(all(greyFrames(clip, signal))).rejects.toThrow(EndedFromOutside)
    await expect(all(pictureHashes(clip, signal))).rejects.toThrow(EndedFromOutside)
    await expect(all(decodedSound(clip, facts, signal))).rejects.toThrow(EndedFromOutside)
    const heard = { root: folder, path: 'a.wav', fullPath: join(folder, 'a.wav'), sequence: null, facts: sound }
    await expect(hearWhole({ files: [heard] }, signal)).rejects.toThrow(EndedFromOutside)
  })
  test('not that a stretch of it is another than its original', async () => {
    const of = { fullPath: clip, facts: await probe(clip, await sized(clip)) }
    const range = { startFrame: 10, endFrame: 20 }
    const target = join(folder, 'piece.mov')
    await killedHalfway('ffmpeg', 0)
    await expect(cutOut(of, range, { target, reel: null }, signal)).rejects.toThrow(EndedFromOutside)
    process.env.PATH = PATH
    await rm(target, { force: true })
    const { soundHash } = await cutOut(of, range, { target, reel: null }, signal)
    const piece = { fullPath: target, facts: await probe(target, await sized(target), { countPackets: true }) }
    expect(await proveCutOut(piece, of, range, soundHash, signal)).toBeNull()
    await killedHalfway('ffmpeg', 300)
    await expect(proveCutOut(piece, of, range, soundHash, signal)).rejects.toThrow(EndedFromOutside)
  })
})
