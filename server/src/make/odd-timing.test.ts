import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'

let ennick: Harness
let productionId: string
const pictures = 'testsrc2=s=320x180:r=25:d=4'
const sound = 'sine=r=48000:d=4'
const h264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']
/** Whole recordings in which the first picture is not at the beginning of the file, each in its way. */
const recordings: Record<string, readonly string[]> = {
  'leaning.avi': ['-f', 'lavfi', '-i', pictures, '-f', 'lavfi', '-i', sound, ...h264, '-bf', '2', '-c:a', 'mp3'],
  'matroska.mkv': [
    ...['-itsoffset', '0.5', '-f', 'lavfi', '-i', pictures, '-f', 'lavfi', '-i', sound, ...h264],
    ...['-fps_mode', 'passthrough', '-c:a', 'pcm_s16le'],
  ],
  'movie.mov': [
    ...['-itsoffset', '0.5', '-f', 'lavfi', '-i', pictures, '-f', 'lavfi', '-i', sound, ...h264],
    ...['-fps_mode', 'passthrough', '-c:a', 'pcm_s16le', '-timecode', '10:00:00:00'],
  ],
  'stream.mts': [
    ...['-itsoffset', '0.07', '-f', 'lavfi', '-i', pictures, '-f', 'lavfi', '-i', sound, ...h264, '-bf', '0'],
    ...['-fps_mode', 'passthrough', '-c:a', 'ac3', '-f', 'mpegts'],
  ],
}

async function record(path: string, words: readonly string[]): Promise<void> {
  const made = await run('ffmpeg', ['-v', 'error', ...words, `file:${path}`])
  expect(made).toMatchObject({ exitCode: 0, stderr: '' })
}

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Odd timing')
  const card = join(ennick.media, 'card')
  await mkdir(card, { recursive: true })
  for (const [name, words] of Object.entries(recordings)) await record(join(card, name), words)
  // As a camera or a phone trims a clip: nothing is written anew, and a list in it says what is shown.
  const whole = join(ennick.media, 'whole.mov')
  const both = ['-f', 'lavfi', '-i', pictures, '-f', 'lavfi', '-i', sound]
  await record(whole, [...both, ...h264, '-g', '100', '-c:a', 'pcm_s16le', '-timecode', '10:00:00:00'])
  await record(join(card, 'trimmed.mov'), ['-ss', '1.3', '-i', whole, '-map', '0', '-c', 'copy', '-copy_unknown'])
  await ennick.addVolume(productionId, 'CARD', card)
})
afterAll(() => ennick.stop())

test('what an edit list leaves out is no part of the clip, and its timecode is that of the first frame shown', async () => {
  const trimmed = (await ennick.clips(productionId)).find(({ name }) => name === 'trimmed.mov')
  expect(trimmed).toMatchObject({ frames: 67, startTimecode: '10:00:01:08' })
  expect(trimmed?.notice).toBe('edit list')
})

test('each is whole, and its proxies show its frames from the first to the last', async () => {
  const clips = await ennick.clips(productionId)
  expect(clips.map(({ name, frames }) => [name, frames]).sort()).toEqual([
    ...['leaning.avi', 'matroska.mkv', 'movie.mov', 'stream.mts'].map((name) => [name, 100]),
    ['trimmed.mov', 67],
  ])
  const body = {
    clipIds: clips.map(({ id }) => id),
    ...{ recipeId: 'half-h264-intra', alsoRecipeIds: ['vc3-lb-op-atom'] },
  }
  const asked = await ennick.call('make', { params: { productionId }, body })
  const jobs = await Promise.all(asked.jobs.map(({ id }) => ennick.waitForJob(id)))
  expect(jobs.map(({ title, state, error }) => [title, state, error])).toEqual(
    jobs.map(({ title }) => [title, 'done', null]),
  )
  const ledger = await ennick.call('listPairs', { params: { productionId } })
  expect(ledger.map(({ name, pairs }) => [name, pairs.map(({ verdict }) => verdict)])).toEqual(
    clips.map(({ name }) => [name, ['proven', 'proven']]),
  )
})
