import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { speech } from '../../../core/src/testing/sounds.ts'
import { describeFile, stampOf } from '../intake/describe-file.ts'
import { makeRecording } from '../testing/media.ts'
import { hearWhole } from './hear.ts'

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
