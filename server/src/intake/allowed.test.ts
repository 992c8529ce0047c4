import { mkdir, rename, symlink, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { allowFolder } from '../config.ts'
import { AllowedFolders } from '../http/folders.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let shelf: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Allowed')
  shelf = join(dirname(ennick.media), 'shelf')
  await makePicture(join(shelf, 'A001C001.mov'), { frames: 10, size: '64x36' })
})
afterAll(() => ennick.stop())

const volume = () => ennick.volume(productionId, 'SHELF')
const until = async (isAllowed: boolean) => {
  while ((await volume())?.isAllowed !== isAllowed) await new Promise((resolve) => setTimeout(resolve, 100))
}

test('a folder that may be used no more is not: what lies there is away until it is allowed again', async () => {
  allowFolder(ennick.config.dataFolder, shelf)
  const volumeId = await ennick.addVolume(productionId, 'SHELF', shelf)
  const [clip] = await ennick.clips(productionId)
  const frame = async () => (await fetch(`${ennick.url}/api/clips/${clip?.id}/thumbnail.jpg?frame=3`)).status
  expect(await volume()).toMatchObject({ isHere: true, isAllowed: true, clips: 1 })

  await writeFile(join(ennick.config.dataFolder, 'settings.json'), '{}')
  await until(false)
  expect(await volume()).toMatchObject({ isHere: false, isAllowed: false, clips: 1 })
  expect((await ennick.clips(productionId))[0]?.presence).toBe('away')
  expect(await ennick.scan(volumeId)).toMatchObject({
    state: 'failed',
    error: expect.stringMatching(/^Volume “SHELF” is away: .*shelf lies outside the folders that Ennick may use\./),
  })
  await expect(ennick.call('markVolume', { params: { volumeId } })).rejects.toThrow(/outside the folders/)
  expect(await frame()).not.toBe(200)

  allowFolder(ennick.config.dataFolder, shelf)
  await until(true)
  while (!(await volume())?.isHere) await new Promise((resolve) => setTimeout(resolve, 100))
  // What was asked for meanwhile is done.
  const jobs = await ennick.call('listJobs', { params: { productionId } })
  expect((await ennick.waitForJob(jobs[0]?.id ?? '')).state).toBe('done')
})

test('a place that is not there is judged by its name, one that is there by where it really lies', async () => {
  const root = join(ennick.media, 'root')
  await mkdir(join(root, 'in'), { recursive: true })
  await symlink(shelf, join(root, 'out'))
  const folders = new AllowedFolders([root])
  const allowed = (...paths: string[]) => Promise.all(paths.map((path) => folders.allows(path)))
  expect(await allowed(root, join(root, 'in'), join(root, 'gone'), `${root}er`, join(root, 'out'), shelf, '/')).toEqual(
    [true, true, true, false, false, false, false],
  )
  // A disk that is taken out takes its root along.
  await rename(root, `${root} away`)
  expect(await allowed(join(root, 'in'), shelf)).toEqual([true, false])
})
