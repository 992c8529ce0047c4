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
  // The same within a picture, of which the decoder drops all.
  const intra = join(ennick.media, 'intra.mov')
  await record(intra, [...both, '-c:v', 'mjpeg', '-c:a', 'pcm_s16le', '-timecode', '10:00:00:00'])
  await record(join(card, 'within.mov'), ['-ss', '1.31', '-i', intra, '-map', '0', '-c', 'copy', '-copy_unknown'])
  // Cut between pictures that stand alone, nothing is left out, and the timecode alone has a list.
  await record(join(card, 'between.mov'), ['-ss', '1.32', '-i', intra, '-map', '0', '-c', 'copy', '-copy_unknown'])
  await ennick.addVolume(productionId, 'CARD', card)
})
afterAll(() => ennick.stop())

test('what an edit list leaves out is no part of the clip, and its timecode is that of the first frame shown', async () => {
  const trimmed = (await ennick.clips(productionId)).filter(({ name }) => /^(trimmed|within|between)/.test(name))
  const told = { frames: 67, startTimecode: '10:00:01:08' }
  expect(trimmed.sort((a, b) => (a.name < b.name ? -1 : 1))).toMatchObject([
    { ...told, name: 'between.mov', notice: '' },
    ...['trimmed.mov', 'within.mov'].map((name) => ({ ...told, name, notice: 'edit list' })),
  ])
})

test('each is whole, and its proxies show its frames from the first to the last', async () => {
  const clips = await ennick.clips(productionId)
  expect(clips.map(({ name, frames }) => [name, frames]).sort()).toEqual([
    ['between.mov', 67],
    ...['leaning.avi', 'matroska.mkv', 'movie.mov', 'stream.mts'].map((name) => [name, 100]),
    ...['trimmed.mov', 'within.mov'].map((name) => [name, 67]),
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

test('interlaced originals: fields are kept where lines are, and joined frame for frame where they are moved', async () => {
  const folder = join(ennick.media, 'fields')
  await mkdir(folder, { recursive: true })
  await record(join(folder, 'FIELDS.mxf'), [
    ...['-f', 'lavfi', '-i', 'testsrc2=s=720x576:r=50:d=2', '-vf', 'tinterlace=interleave_top,setfield=tff'],
    ...['-c:v', 'mpeg2video', '-b:v', '20M', '-pix_fmt', 'yuv422p', '-flags', '+ildct+ilme', '-top', '1'],
    ...['-timecode', '10:00:00:00', '-f', 'mxf'],
  ])
  await ennick.addVolume(productionId, 'FIELDS', folder)
  const clip = (await ennick.clips(productionId)).find(({ name }) => name === 'FIELDS.mxf')
  const body = { clipIds: [clip?.id], recipeId: 'half-h264-intra', alsoRecipeIds: ['source-prores-422'] }
  const plan = await ennick.call('planMake', { params: { productionId }, body })
  expect(plan.items[0]).toMatchObject({ fields: 'joined', skipped: null })
  expect(plan.warnings).toContainEqual(expect.stringContaining('FIELDS is interlaced: in what “Half size'))
  expect(plan.warnings.join()).not.toContain('ProRes')
  const asked = await ennick.call('make', { params: { productionId }, body })
  for (const { id } of asked.jobs) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done', error: null })
  const [row] = (await ennick.call('listPairs', { params: { productionId } })).filter(
    ({ name }) => name === 'FIELDS.mxf',
  )
  expect(row?.pairs.map(({ verdict }) => verdict)).toEqual(['proven', 'proven'])
  const { path: made } = await ennick.madePlace(productionId)
  const scans = new Map<string, string>()
  for (const { name } of row?.pairs ?? []) {
    const [path = ''] = (await run('find', [made, '-name', name])).stdout.trim().split('\n')
    const shown = await run('ffprobe', [
      '-v',
      'error',
      '-show_entries',
      'frame=interlaced_frame',
      '-of',
      'csv=p=0',
      path,
    ])
    scans.set(name, [...new Set(shown.stdout.match(/[01]/g))].join())
  }
  expect(Object.fromEntries(scans)).toEqual({ 'FIELDS_proxy.mov': '0', 'FIELDS_opt.mov': '1' })
})

test('of two pictures in a file the first is the clip, and that is said', async () => {
  const folder = join(ennick.media, 'two')
  await mkdir(folder, { recursive: true })
  const second = ['-f', 'lavfi', '-i', 'testsrc=s=160x90:r=25:d=1', '-map', '0:v', '-map', '1:v']
  await record(join(folder, 'TWO.mov'), ['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25:d=1', ...second, ...h264])
  await ennick.addVolume(productionId, 'TWO', folder)
  const two = (await ennick.clips(productionId)).find(({ name }) => name === 'TWO.mov')
  expect(two).toMatchObject({ width: 320, notice: 'several pictures' })
})
