import { cp, mkdir, rename, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeStills } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let storage: string
let storageId: string
let cutId: string
let number = 0
beforeAll(async () => {
  ennick = await startHarness()
})
afterAll(() => ennick.stop())

/** A card that was offloaded into a folder, a proxy of its clip, and a cut that uses it. */
beforeEach(async () => {
  productionId = await ennick.addProduction(`Moved ${++number}`)
  const root = join(ennick.media, String(number))
  storage = join(root, 'storage')
  await mkdir(storage, { recursive: true })
  await makePicture(join(root, 'card/B001C001.mov'), { seed: 3, reel: 'B001' })
  await makeStills(join(root, 'card/B001S'), 'B001S')
  const cardId = await ennick.addVolume(productionId, 'B001', join(root, 'card'), 'card')
  storageId = await ennick.addVolume(productionId, 'STORAGE', storage)
  const body = { destinationId: storageId, folder: 'day 1', hash: 'xxh64' as const }
  const { id } = await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })
  expect((await ennick.waitForJob(id)).state).toBe('done')
  const clipIds = (await ennick.clips(productionId)).filter(({ name }) => name === 'B001C001.mov').map(({ id }) => id)
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds, recipeId: 'half-h264-intra' },
  })
  for (const job of jobs) expect((await ennick.waitForJob(job.id)).state).toBe('done')
  const text =
    'TITLE: M\n001  B001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: B001C001.mov\n'
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'm.edl', text } })).id
})

const check = async () => ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
const places = async () =>
  (await ennick.clips(productionId)).map(({ volumeLabel, path, presence }) => `${volumeLabel}/${path} ${presence}`)
const verdicts = async () =>
  (await ennick.call('listPairs', { params: { productionId } })).flatMap((row) => row.pairs.map((pair) => pair.verdict))
const findings = async () =>
  (await ennick.call('listFindings', { params: { cutId } })).map(({ kind, message }) => `${kind}: ${message}`)
const movedOf = async (volumeId: string) => ennick.call('listMoved', { params: { volumeId } })
const copiesOf = async (label: string) => {
  const clip = (await ennick.clips(productionId)).find(({ name }) => name === 'B001C001.mov')
  const { copies } = await ennick.call('readClip', { params: { clipId: clip?.id ?? '' } })
  return copies.filter(({ volumeLabel }) => volumeLabel === label).map(({ isVerified }) => isVerified)
}

describe('a folder that was renamed on a drive', () => {
  test.each([true, false])(
    'is pointed at in one step, and taken back; checked before its scan: %s',
    async (checked) => {
      await rename(join(storage, 'day 1'), join(storage, 'D01'))
      if (checked) await check()
      await ennick.scan(storageId)
      expect(await places()).toEqual(['STORAGE/day 1/B001C001.mov gone', expect.stringMatching(/day 1\/B001S.* gone$/)])
      // Where it lies is said, not the card that has it too.
      expect(await findings()).toContainEqual(
        expect.stringContaining(
          'moved: B001C001.mov is no longer at its place, but the same content is at D01/B001C001',
        ),
      )
      expect(await ennick.volume(productionId, 'STORAGE')).toMatchObject({ moved: 2 })
      expect(await ennick.volume(productionId, 'B001')).toMatchObject({ moved: 0 })
      expect(await movedOf(storageId)).toMatchObject([
        {
          name: 'B001C001',
          was: { path: 'day 1/B001C001.mov', volumeLabel: 'STORAGE' },
          is: { path: 'D01/B001C001.mov' },
        },
        { was: { path: expect.stringMatching(/^day 1/) }, is: { path: expect.stringMatching(/^D01/) } },
      ])
      const mend = await ennick.call('repointMoved', { params: { volumeId: storageId } })
      expect(mend).toMatchObject({ kind: 'repoint', title: 'Repoint 2 originals on STORAGE', changeCount: 2 })
      expect(await places()).toEqual(['STORAGE/D01/B001C001.mov here', expect.stringMatching(/D01\/B001S.* here$/)])
      expect([await verdicts(), await findings()]).toEqual([['proven'], []])
      expect([await copiesOf('B001'), await copiesOf('STORAGE'), await movedOf(storageId)]).toEqual([[true], [], []])
      await ennick.call('undoMend', { params: { mendId: mend.id } })
      expect(await places()).toEqual(['STORAGE/day 1/B001C001.mov gone', expect.stringMatching(/gone$/)])
      expect(await movedOf(storageId)).toHaveLength(2)
    },
  )

  test('or moved to another drive is gone from the first, as soon as that is scanned', async () => {
    const other = join(ennick.media, String(number), 'other')
    await mkdir(other)
    await rename(join(storage, 'day 1'), join(other, 'day 1'))
    const otherId = await ennick.addVolume(productionId, 'OTHER', other)
    expect(await ennick.volume(productionId, 'OTHER')).toMatchObject({ moved: 2, clips: 0 })
    const mend = await ennick.call('repointMoved', { params: { volumeId: otherId } })
    expect(mend.title).toBe('Repoint 2 originals on OTHER')
    expect(await places()).toEqual(['OTHER/day 1/B001C001.mov here', expect.stringMatching(/^OTHER.* here$/)])
    expect([await verdicts(), await findings()]).toEqual([['proven'], []])
  })

  test('is not pointed at where something else has its place meanwhile', async () => {
    await rename(join(storage, 'day 1'), join(storage, 'D01'))
    await ennick.scan(storageId)
    await writeFile(join(storage, 'D01/B001C001.mov'), 'something else')
    await rename(join(storage, 'D01/B001S'), join(storage, 'stills'))
    await expect(ennick.call('repointMoved', { params: { volumeId: storageId } })).rejects.toThrow(
      /has changed or left/,
    )
    expect(await places()).toEqual(['STORAGE/day 1/B001C001.mov gone', expect.stringMatching(/gone$/)])
  })
})

describe('a drive that somebody copied by hand', () => {
  let clone: string
  let cloneId: string
  beforeEach(async () => {
    clone = join(ennick.media, String(number), 'clone')
    await cp(storage, clone, { recursive: true })
    cloneId = await ennick.addVolume(productionId, 'CLONE', clone)
  })

  test('is a copy of each clip, and no clip of its own', async () => {
    expect(await places()).toEqual(['STORAGE/day 1/B001C001.mov here', expect.stringMatching(/^STORAGE.* here$/)])
    expect([await copiesOf('CLONE'), await findings()]).toEqual([[false], []])
  })

  test('is that also where the same clip lies in two folders of both', async () => {
    const again = await ennick.addProduction(`Twice ${number}`)
    const [first, second] = ['first', 'second'].map((name) => join(ennick.media, String(number), name)) as [
      string,
      string,
    ]
    for (const folder of ['one', 'two']) await cp(join(storage, 'day 1'), join(first, folder), { recursive: true })
    await cp(first, second, { recursive: true })
    await ennick.addVolume(again, 'FIRST', first)
    const paths = async () =>
      (await ennick.clips(again)).map(({ volumeLabel, path }) => `${volumeLabel}/${path}`).sort()
    const before = await paths()
    expect(before).toHaveLength(4)
    await ennick.addVolume(again, 'SECOND', second)
    expect(await paths()).toEqual(before)
  })

  test('has the originals where the first one will not come back, and gives them back', async () => {
    expect([await movedOf(storageId), await movedOf(cloneId)]).toEqual([[], []])
    await rename(storage, `${storage} in a bag`)
    while ((await ennick.volume(productionId, 'STORAGE'))?.isHere !== false)
      await new Promise((resolve) => setTimeout(resolve, 5))
    expect(await ennick.volume(productionId, 'STORAGE')).toMatchObject({ moved: 2 })
    expect(await ennick.volume(productionId, 'CLONE')).toMatchObject({ moved: 0 })
    const mend = await ennick.call('repointMoved', { params: { volumeId: storageId } })
    expect(mend.title).toBe('Repoint 2 originals of STORAGE to copies')
    expect(await places()).toEqual(['CLONE/day 1/B001C001.mov here', expect.stringMatching(/^CLONE.* here$/)])
    expect([await verdicts(), await findings()]).toEqual([['proven'], []])
    // The card was read back beside the drive that is away, not beside its copy: that is to be compared.
    expect([await copiesOf('B001'), (await ennick.volume(productionId, 'B001'))?.notCompared.clips]).toEqual([
      [false],
      2,
    ])
    await rename(`${storage} in a bag`, storage)
    while ((await ennick.volume(productionId, 'STORAGE'))?.isHere !== true)
      await new Promise((resolve) => setTimeout(resolve, 5))
    // It is the copy now, scanned or not.
    for (const look of [async () => null, () => ennick.scan(storageId)]) {
      await look()
      expect([await copiesOf('STORAGE'), await copiesOf('CLONE')]).toEqual([[false], []])
      expect(await places()).toHaveLength(2)
    }
    await ennick.call('undoMend', { params: { mendId: mend.id } })
    expect(await places()).toEqual(['STORAGE/day 1/B001C001.mov here', expect.stringMatching(/^STORAGE.* here$/)])
    expect([await copiesOf('STORAGE'), await copiesOf('CLONE')]).toEqual([[], [false]])
  })
})
