import { mkdtemp, readFile, rm, truncate, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { speech } from '../../../core/src/testing/sounds.ts'
import { describeFile, stampOf } from '../intake/describe-file.ts'
import { makeRecording } from '../testing/media.ts'
import { decodeSound } from './decode-sound.ts'
import { hearWhole, soundStretches } from './hear.ts'
import { Hearing, mixed } from './hearing.ts'
import { plainSoundOf, readStretches } from './plain-sound.ts'
import { run } from './process.ts'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-hear-'))
})
afterAll(() => rm(folder, { recursive: true }))

const rate = 96_000
async function tracksOf(channels: readonly Float32Array[]) {
  const path = join(folder, `${channels.length}.wav`)
  await makeRecording(path, channels, { sampleRate: rate, timeReference: null })
  const { facts } = await describeFile(path, await stampOf(path))
  if (!facts) throw new Error('It cannot be read.')
  const file = { fullPath: path, root: folder, sequence: null, facts }
  const heard = await hearWhole({ files: [file] }, new AbortController().signal)
  return heard?.tracks
}

test('each track is measured by itself, and one that was clipped tells where, at the rate of its file', async () => {
  const take = speech(3, rate, 4).map((sample) => sample * 0.5)
  const clipped = take.slice()
  // Four samples of a millisecond at full scale: at the rate at which loudness is measured nobody would see them.
  for (const at of [150_000, 200_000]) clipped.fill(1, at, at + 4)
  const tracks = await tracksOf([take, clipped, new Float32Array(take.length)])
  expect(tracks?.map(({ holds, clipping }) => [holds, clipping])).toEqual([
    ['sound', null],
    ['sound', { places: 2, firstSample: 150_000, sampleRate: rate }],
    ['silence', null],
  ])
})

/** A file of two seconds and a half with given words of the encoder, and what is known of it. */
async function madeAs(name: string, words: readonly string[]) {
  const path = join(folder, name)
  const take = join(folder, 'take.wav')
  await makeRecording(take, [speech(2.5, 48_000, 7), speech(2.5, 48_000, 8)], { timeReference: null })
  const picture = ['-f', 'lavfi', '-i', 'color=s=64x64:r=25:d=2.5']
  const made = await run('ffmpeg', ['-v', 'error', '-y', ...picture, '-i', take, ...words, `file:${path}`])
  expect(made).toMatchObject({ exitCode: 0, stderr: '' })
  const { facts } = await describeFile(path, await stampOf(path))
  if (!facts) throw new Error('It cannot be read.')
  return { files: [{ fullPath: path, root: folder, sequence: null, facts }] }
}

const never = new AbortController().signal
/** All samples of each channel. */
async function gather(read: (take: (channels: readonly Float32Array[]) => void) => Promise<boolean>) {
  const channels: number[][] = []
  const isWhole = await read((taken) =>
    taken.forEach((samples, channel) => {
      channels[channel] ??= []
      channels[channel].push(...samples)
    }),
  )
  return isWhole ? channels : null
}

const sound = ['-map', '1:a']
const both = ['-map', '0:v', '-map', '1:a', '-c:v', 'mjpeg']
test.each([
  ['s16.wav', [...sound, '-c:a', 'pcm_s16le']],
  ['s24.wav', [...sound, '-c:a', 'pcm_s24le']],
  ['s32.wav', [...sound, '-c:a', 'pcm_s32le']],
  ['f32.wav', [...sound, '-c:a', 'pcm_f32le']],
  ['large.wav', [...sound, '-c:a', 'pcm_s24le', '-rf64', 'always']],
  ['one.wav', [...sound, '-c:a', 'pcm_f32le', '-ac', '1']],
  ['s16.mov', [...both, '-c:a', 'pcm_s16le']],
  ['s16be.mov', [...both, '-c:a', 'pcm_s16be']],
  ['s24be.mov', [...both, '-c:a', 'pcm_s24be', '-ac', '1']],
  ['f32.mov', [...both, '-c:a', 'pcm_f32le']],
  ['first.mov', [...both, '-c:a', 'pcm_s24le', '-movflags', '+faststart']],
] as const)('%s is read as it lies, and is what the decoder makes of it', async (name, words) => {
  const clip = await madeAs(name, words)
  const plain = await plainSoundOf(clip)
  if (!plain) throw new Error('It is not plain.')
  const decoded = await gather((take) => decodeSound(clip, 48_000, [{ fromSeconds: 0, take }], never))
  expect(decoded?.[0]).toHaveLength(120_000)
  const [read = []] = await readStretches(plain, [{ firstSample: 0, samples: 200_000 }])
  expect(read.map((samples) => [...samples])).toEqual(decoded)
  // All of it in a thread, and stretches of it, one of which goes beyond its end.
  const hearing = new Hearing(48_000)
  hearing.take(read)
  expect(await hearWhole(clip, never)).toEqual(hearing.finish())
  const asked = { fromSeconds: [0.25, 1.001, 2.42], samples: 9600, sampleRate: 48_000 }
  const mix = mixed(read)
  const places = [12_000, 48_048, 116_160]
  expect(await soundStretches(clip, asked, never)).toEqual(places.map((at) => mix.slice(at, at + 9600)))
})

test.each([
  ['aac.mov', [...both, '-c:a', 'aac'], 2],
  ['two.mov', [...both, '-map', '1:a', '-c:a', 'pcm_s16le'], 4],
  ['s24.mxf', ['-map', '0:v', ...sound, '-c:v', 'mpeg2video', '-c:a', 'pcm_s24le', '-ac', '1'], 1],
  ['in-parts.mov', [...both, '-c:a', 'pcm_s16le', '-movflags', '+frag_keyframe+empty_moov'], 2],
] as const)('%s is not plain, and is decoded', async (name, words, tracks) => {
  const clip = await madeAs(name, words)
  expect(await plainSoundOf(clip)).toBeNull()
  expect((await hearWhole(clip, never))?.tracks).toHaveLength(tracks)
  const asked = { fromSeconds: [0.25, 1.001], samples: 9600, sampleRate: 48_000 }
  expect((await soundStretches(clip, asked, never)).map((stretch) => stretch?.length)).toEqual([9600, 9600])
})

test('sound that begins behind its pictures has silence before it', async () => {
  const late = await madeAs('late.mov', [
    ...['-itsoffset', '0.5', '-i', join(folder, 'take.wav'), '-map', '0:v', '-map', '2:a', '-t', '2.5'],
    ...['-c:v', 'mjpeg', '-c:a', 'pcm_s16le'],
  ])
  expect(await plainSoundOf(late)).toBeNull()
  const heard = await hearWhole(late, never)
  // Fifty values a second: the loudest changes are behind half a second of it.
  const rising = [...(heard?.envelope ?? [])].slice(1).map((value, index) => value - (heard?.envelope[index] as number))
  expect(rising.slice(0, 23).every((rise) => Math.abs(rise) < 0.2)).toBe(true)
  expect(rising.findIndex((rise) => rise > 0.5)).toBeGreaterThanOrEqual(24)
})

test.each([
  ['a chunk lies behind its end', 'stco', 12, 0x7fff_ffff],
  ['a run of chunks begins nowhere', 'stsc', 12, 0],
  ['it counts other samples than are known', 'stsz', 12, 7],
  ['its samples have another size', 'stsz', 8, 3],
  ['its edit begins later', 'elst', 16, 4800],
  ['its edits are many', 'elst', 8, 2],
  ['its media lie in another file', 'dref', 20, 0],
  ['its kinds of sound are two', 'stsd', 8, 2],
])('a movie of which the tables say that %s is not read as it lies', async (_, box, behind, value) => {
  const name = `${box}-${behind}.mov`
  const clip = await madeAs(name, [...both, '-c:a', 'pcm_s16le'])
  expect(await plainSoundOf(clip)).not.toBeNull()
  const bytes = await readFile(join(folder, name))
  // Of the sound, whose track is the last.
  bytes.writeUInt32BE(value, bytes.lastIndexOf(box) + behind)
  await writeFile(join(folder, name), bytes)
  expect(await plainSoundOf(clip)).toBeNull()
})

test('a file that became shorter meanwhile is not heard as it was known', async () => {
  const clip = await madeAs('shorter.wav', [...sound, '-c:a', 'pcm_s16le'])
  await truncate(join(folder, 'shorter.wav'), 100_000)
  expect(await plainSoundOf(clip)).toBeNull()
})
