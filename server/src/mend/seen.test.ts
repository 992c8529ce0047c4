import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let shelf: string
const picture = (set: number, timecode: string) => ({
  ...{ size: '320x180', frames: 48, scene: { set, movement: set }, timecode, reel: 'A001' },
})

beforeAll(async () => {
  ennick = await startHarness({ looks: true })
  productionId = await ennick.addProduction('Seen')
  const card = join(ennick.media, 'card')
  shelf = join(ennick.media, 'shelf')
  await makePicture(join(card, 'L1.mov'), picture(1, '10:00:00:00'))
  await makePicture(join(card, 'L2.mov'), picture(2, '11:00:00:00'))
  await ennick.addVolume(productionId, 'CARD', card)
  await ennick.untilLooked(productionId)
  await mkdir(shelf)
  // The first was put into its container anew: other content, the same pictures. Under the name of the second, and with
  // all of its facts, lies something else.
  const words = ['-v', 'error', '-i', join(card, 'L1.mov'), '-map', '0:v', '-map', '0:a', '-c', 'copy']
  const kept = ['-timecode', '10:00:00:00', '-metadata:s:v:0', 'reel_name=A001', '-metadata', 'comment=again']
  expect((await run('ffmpeg', [...words, ...kept, join(shelf, 'L1.mov')])).exitCode).toBe(0)
  await makePicture(join(shelf, 'L2.mov'), picture(5, '11:00:00:00'))
  for (const name of ['L1.mov', 'L2.mov']) await rm(join(card, name))
  const check = await ennick.call('check', { params: { productionId } })
  await ennick.waitForJob(check.id)
  const text = `TITLE: Seen
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: L1.mov
002  A001 V C 11:00:00:10 11:00:01:10 01:00:01:00 01:00:02:00
* FROM CLIP NAME: L2.mov
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'seen.edl', text } })).id
})
afterAll(() => ennick.stop())

test('pictures decide where content differs: it in a new container is it, another of its name is not', async () => {
  const job = await ennick.call('search', { params: { cutId }, body: { folder: shelf, findingKeys: null } })
  expect((await ennick.waitForJob(job.id)).state).toBe('done')
  const { rows } = await ennick.call('readSearch', { params: { jobId: job.id } })
  const row = (label: string) => rows.find((each) => each.label === label)
  const pictures = (label: string) => row(label)?.rated[0]?.evidence.find(({ aspect }) => aspect === 'pictures')
  expect(pictures('L1.mov')).toMatchObject({ agrees: true })
  expect(row('L1.mov')).toMatchObject({ outcome: 'fits', candidateId: join(shelf, 'L1.mov') })
  expect(pictures('L2.mov')).toMatchObject({ agrees: false, difference: 'it shows something else' })
  expect(row('L2.mov')?.outcome).not.toBe('fits')
  expect(row('L2.mov')?.candidateId).toBeNull()
})
