import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { PassThrough } from 'node:stream'
import { lookBytes, type MediaFacts } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { lookAt } from './look.ts'
import { pictureOf } from './pictures.ts'
import { play } from './play.ts'
import { probe } from './probe.ts'
import { run } from './process.ts'
import { smallGrey } from './small-grey.ts'

const frames = 250
const rate = { numerator: 25, denominator: 1 }
const h264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-bf', '2']
/** As cameras and recorders write them; pictures begin later than sound, by a part of a frame or more. */
const kinds = {
  'closed.mts': [...h264, '-g', '50', '-c:a', 'ac3', '-f', 'mpegts'],
  'open.ts': [...h264, '-g', '50', '-x264-params', 'open-gop=1', '-c:a', 'ac3', '-f', 'mpegts'],
  'one key.ts': [...h264, '-g', '600', '-sc_threshold', '0', '-c:a', 'ac3', '-f', 'mpegts'],
  // It numbers its packets as they are stored, and not as they are shown.
  'leaning.avi': [...h264, '-g', '50', '-c:a', 'mp3', '-f', 'avi'],
  // Its picture begins half a second behind its sound.
  'late.mkv': [...h264, '-g', '50', '-c:a', 'pcm_s16le', '-fps_mode', 'passthrough', '-f', 'matroska'],
  'program.mpg': ['-c:v', 'mpeg2video', '-b:v', '2M', '-g', '15', '-bf', '2', '-c:a', 'mp2', '-f', 'vob'],
}
type Kind = keyof typeof kinds

let folder: string
const truth = new Map<string, Buffer>()
interface Source {
  readonly fullPath: string
  readonly root: string
  readonly sequence: null
  readonly facts: MediaFacts
}
const sources = new Map<string, Source>()

/** Every picture of a file, small and grey. */
async function allPictures(path: string): Promise<Buffer> {
  const raw = `${path}.grey`
  const words = ['-v', 'error', '-y', '-i', path, '-map', '0:V', '-fps_mode', 'passthrough', '-vf', smallGrey]
  expect(await run('ffmpeg', [...words, '-f', 'rawvideo', raw])).toMatchObject({ exitCode: 0 })
  return readFile(raw)
}
const pictureAt = (all: Buffer, frame: number): Buffer => all.subarray(frame * lookBytes, (frame + 1) * lookBytes)
/** Which picture of a file this is most like. */
function mostLike(all: Buffer, picture: Uint8Array): number {
  let [best, least] = [-1, Number.POSITIVE_INFINITY]
  for (let frame = 0; frame < all.length / lookBytes; frame++) {
    let apart = 0
    for (let index = 0; index < lookBytes && apart < least; index++)
      apart += Math.abs((all[frame * lookBytes + index] as number) - (picture[index] as number))
    if (apart < least) [best, least] = [frame, apart]
  }
  return best
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-sought-'))
  for (const [name, words] of Object.entries(kinds)) {
    const path = join(folder, name)
    const made = await run('ffmpeg', [
      ...['-v', 'error', ...(name === 'late.mkv' ? ['-itsoffset', '0.5'] : [])],
      ...['-f', 'lavfi', '-i', `testsrc2=s=320x180:r=25:d=${frames / 25}`],
      ...['-f', 'lavfi', '-i', `sine=300:r=48000:d=${frames / 25}`, ...words, `file:${path}`],
    ])
    expect(made).toMatchObject({ exitCode: 0 })
    const facts = await probe(path, (await stat(path)).size)
    sources.set(name, { fullPath: path, root: folder, sequence: null, facts })
    truth.set(name, await allPictures(path))
  }
})
afterAll(() => rm(folder, { recursive: true, force: true }))

async function playedPictures(picture: Source, range: { startFrame: number; endFrame: number }): Promise<Buffer> {
  const output = new PassThrough()
  const chunks: Buffer[] = []
  output.on('data', (chunk: Buffer) => chunks.push(chunk))
  const { signal } = new AbortController()
  await play({ picture, sound: [], rate, range, tracks: null, lut: null }, output, signal)
  const path = join(folder, 'played.mp4')
  await writeFile(path, Buffer.concat(chunks))
  return allPictures(path)
}

describe('a file in which a frame is hard to find is shown to the frame', () => {
  test.each(Object.keys(kinds) as Kind[])('%s', async (name) => {
    const source = sources.get(name) as Source
    const all = truth.get(name) as Buffer
    expect([source.facts.picture?.frames, all.length / lookBytes]).toEqual([frames, frames])
    const starts = [0, 133, 242]
    const look = await lookAt(source, starts, 8, new AbortController().signal)
    expect(look.broken).toEqual([])
    for (const { from, pictures } of look.stretches)
      pictures.forEach((picture, index) => {
        expect(Buffer.from(picture).equals(pictureAt(all, from + index))).toBe(true)
      })
    const drawn = { ...source, fingerprint: `of ${name}` }
    const path = await pictureOf({ frame: 161, size: 'full' }, drawn, { folder: join(folder, 'cache'), lut: null })
    expect(mostLike(all, await allPictures(path as string))).toBe(161)
    for (const startFrame of [0, 137]) {
      const shown = await playedPictures(source, { startFrame, endFrame: startFrame + 10 })
      expect(shown.length / lookBytes).toBe(10)
      expect([0, 9].map((index) => mostLike(all, pictureAt(shown, index)))).toEqual([startFrame, startFrame + 9])
    }
  })
})

test('where such a file is damaged it is told, and nowhere else', async () => {
  const whole = sources.get('closed.mts') as Source
  const path = join(folder, 'damaged.mts')
  const bytes = await readFile(whole.fullPath)
  // Packets of a part of the second half hold something else; their heads stay, by which they are known.
  for (let at = Math.floor(bytes.length * 0.7); at < bytes.length * 0.75; at++) if (at % 188 > 8) bytes[at] = 0x55
  await writeFile(path, bytes)
  const look = await lookAt({ ...whole, fullPath: path }, [0, 60, 180, 240], 8, new AbortController().signal)
  expect(look.broken).toEqual([180])
  // What lies behind it is no more seen, and not said to be broken.
  expect(look.stretches.map(({ from }) => from)).toEqual([0, 60])
})
