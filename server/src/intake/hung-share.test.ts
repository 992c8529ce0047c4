import { mkdir, rename } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { askHost } from '../testing/host.ts'
import { makePicture } from '../testing/media.ts'

/** A network share whose server is gone: whoever asks it waits, without an error and without an end. */
let ennick: Harness
let productionId: string
let [share, drive] = ['', '']
const hang = (below: string | null) => askHost({ kind: 'hang', below })
beforeAll(async () => {
  ennick = await startHarness({ patienceSeconds: 6 })
  productionId = await ennick.addProduction('Hung')
  for (const name of ['share', 'drive'])
    await makePicture(join(ennick.media, name, `${name}.mov`), { frames: 3, channels: 0 })
  share = await ennick.addVolume(productionId, 'SHARE', join(ennick.media, 'share'), 'share')
  drive = await ennick.addVolume(productionId, 'DRIVE', join(ennick.media, 'drive'))
})
afterAll(async () => {
  await hang(null)
  await ennick.stop()
})

const standing = async () =>
  Object.fromEntries(
    (await ennick.call('listVolumes', { params: { productionId } })).map(({ label, isHere, isAnswering }) => [
      label,
      isAnswering ? (isHere ? 'here' : 'away') : 'does not answer',
    ]),
  )
const until = async (isSo: () => Promise<boolean>): Promise<void> => {
  while (!(await isSo())) await new Promise((resolve) => setTimeout(resolve, 100))
}

test('a share that hangs is told, holds up nobody, and is taken up again when it answers', async () => {
  await hang(join(ennick.media, 'share'))
  const { id: scanId } = await ennick.call('scanVolume', { params: { volumeId: share } })
  // Before anybody knows: pages go without its space, and other volumes come and go as ever.
  expect((await ennick.volume(productionId, 'SHARE'))?.freeBytes).toBeNull()
  await rename(join(ennick.media, 'drive'), join(ennick.media, 'taken out'))
  await until(async () => (await standing()).DRIVE === 'away')
  expect((await standing()).SHARE).toBe('here')
  await rename(join(ennick.media, 'taken out'), join(ennick.media, 'drive'))
  await until(async () => (await standing()).DRIVE === 'here')
  expect(await ennick.scan(drive)).toMatchObject({ state: 'done' })

  await until(async () => (await standing()).SHARE === 'does not answer')
  expect(await ennick.waitForJob(scanId)).toMatchObject({
    state: 'failed',
    error: expect.stringContaining('Volume “SHARE” does not answer: its share or disk hangs.'),
  })
  const today = await ennick.call('today', { params: { productionId } })
  expect(today.volumesAway).toMatchObject([{ label: 'SHARE', isAnswering: false }])
  // What is known is known all the same, and what would have to ask it says why it cannot.
  const clips = await ennick.clips(productionId)
  expect(clips.map(({ name, presence }) => [name, presence]).sort()).toEqual([
    ['drive.mov', 'here'],
    ['share.mov', 'away'],
  ])
  const folder = { query: { path: join(ennick.media, 'share') } }
  await expect(ennick.call('browseFolder', folder)).rejects.toThrow('does not answer: its share or disk hangs.')
  await expect(ennick.call('listOtherFiles', { params: { volumeId: share } })).rejects.toThrow('does not answer')
  await mkdir(join(ennick.media, 'other'))
  expect((await ennick.call('browseFolder', { query: { path: ennick.media } })).folders).toHaveLength(3)
  const checked = await ennick.waitForJob((await ennick.call('check', { params: { productionId }, body: {} })).id)
  expect(checked).toMatchObject({ state: 'done' })
  expect((await ennick.volume(productionId, 'SHARE'))?.goneFiles).toBe(0)

  await hang(null)
  await until(async () => (await standing()).SHARE === 'here')
  await until(async () => (await ennick.call('readJob', { params: { jobId: scanId } })).state === 'done')
  const said = (await ennick.call('history', { params: { productionId } })).map(({ what }) => what)
  expect(said).toContain('Volume “SHARE” does not answer: its share or disk hangs.')
})
