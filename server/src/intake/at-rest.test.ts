import { appendFile, copyFile, mkdir, readdir, readFile, rm, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound, makeStills } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let shelf: string
beforeAll(async () => {
  ennick = await startHarness({ restSeconds: 3 })
  productionId = await ennick.addProduction('At rest')
  shelf = join(ennick.media, 'shelf')
  await makePicture(join(shelf, 'A001C001.mov'), { frames: 25, extra: ['-movflags', '+faststart'] })
  for (const [index, name] of ['T01.wav', 'T02.wav', 'T03.wav', 'T04.wav'].entries())
    await makeSound(join(shelf, name), 48_000, index * 48_000, 1)
  await makeStills(join(shelf, 'stills'), 'mist')
})
afterAll(() => ennick.stop())

const volume = (label: string) => ennick.volume(productionId, label)
const clipsOf = async (label: string) => (await ennick.clips(productionId)).filter((each) => each.volumeLabel === label)
const long = new Date('2026-11-04T12:00:00')

/** A folder that becomes a volume; what is in it was written long ago. */
async function folderWith(label: string, names: readonly string[]): Promise<string> {
  const folder = join(ennick.media, label)
  await mkdir(folder)
  for (const name of names) await putWhole(folder, name)
  return folder
}

/** As a copy ends: whole, with the time of what was copied. */
async function putWhole(folder: string, name: string): Promise<void> {
  await copyFile(join(shelf, name), join(folder, name))
  await utimes(join(folder, name), long, long)
}

/** As most systems begin a copy: all of its room is there at once, and only the first part of its content. */
async function putHalf(folder: string, name: string): Promise<void> {
  const bytes = await readFile(join(shelf, name))
  await writeFile(join(folder, name), Buffer.concat([bytes.subarray(0, bytes.length / 2)], bytes.length))
}

async function untilNothingGrows(label: string): Promise<void> {
  while ((await volume(label))?.growingFiles !== 0 || (await volume(label))?.scanJobId)
    await new Promise((resolve) => setTimeout(resolve, 100))
}

test('what is being copied onto a drive is left by its scan, and comes in by itself when it is whole', async () => {
  const drive = await folderWith('DRIVE', ['T01.wav'])
  await putHalf(drive, 'A001C001.mov')
  const volumeId = await ennick.addVolume(productionId, 'DRIVE', drive)
  expect(await volume('DRIVE')).toMatchObject({ growingFiles: 1, clips: 1, problems: 0 })
  expect(await ennick.call('today', { params: { productionId } })).toMatchObject({
    growing: [{ label: 'DRIVE', files: 1 }],
  })
  // It goes on growing, and a scan leaves it again.
  await putHalf(drive, 'A001C001.mov')
  expect((await ennick.scan(volumeId)).summary).toBe('2 media files · 0 read · 1 unchanged · 1 still being written')
  await putWhole(drive, 'A001C001.mov')
  await untilNothingGrows('DRIVE')
  expect((await clipsOf('DRIVE')).map(({ name, notice }) => [name, notice])).toEqual([
    ['A001C001.mov', ''],
    ['T01.wav', ''],
  ])
})

test('what was being written and is taken away again is not waited for', async () => {
  const drive = await folderWith('AWAY', ['T02.wav'])
  await putHalf(drive, 'A001C001.mov')
  await ennick.addVolume(productionId, 'AWAY', drive)
  expect(await volume('AWAY')).toMatchObject({ growingFiles: 1 })
  await rm(join(drive, 'A001C001.mov'))
  await untilNothingGrows('AWAY')
  expect(await clipsOf('AWAY')).toHaveLength(1)
})

test('what is written over keeps what is known of it until it is whole', async () => {
  const drive = await folderWith('OVER', ['T03.wav'])
  const volumeId = await ennick.addVolume(productionId, 'OVER', drive)
  await writeFile(join(drive, 'T03.wav'), 'RIFF')
  expect((await ennick.scan(volumeId)).summary).toContain('1 still being written')
  const known = async () => (await clipsOf('OVER')).map(({ frames, notice }) => [frames, notice])
  expect(await known()).toEqual([[25, '']])
  await putWhole(drive, 'T03.wav')
  await untilNothingGrows('OVER')
  // A check of every file leaves it as well, and it is looked at again without another.
  await writeFile(join(drive, 'T03.wav'), 'RIFF')
  const check = await ennick.call('check', { params: { productionId } })
  expect((await ennick.waitForJob(check.id)).summary).toContain('0 files changed · 1 still being written')
  expect([await known(), (await volume('OVER'))?.growingFiles]).toEqual([[[25, '']], 1])
  await putWhole(drive, 'T03.wav')
  await untilNothingGrows('OVER')
  expect(await known()).toEqual([[25, '']])
})

test('a time in the future is that of a camera whose clock is wrong, and keeps nothing waiting', async () => {
  const card = await folderWith('CLOCK', ['T04.wav'])
  const later = new Date(Date.now() + 36_000_000)
  await utimes(join(card, 'T04.wav'), later, later)
  await ennick.addVolume(productionId, 'CLOCK', card)
  expect(await volume('CLOCK')).toMatchObject({ growingFiles: 0, files: 1 })
})

test('stills that come one by one are no other content; one of them that is another is', async () => {
  const folder = await folderWith('STILLS', [])
  const names = (await readdir(join(shelf, 'stills'))).sort()
  const put = async (some: readonly string[]) => {
    for (const name of some) {
      await copyFile(join(shelf, 'stills', name), join(folder, name))
      await utimes(join(folder, name), long, long)
    }
  }
  const told = async () => (await clipsOf('STILLS')).map(({ frames, notice }) => [frames, notice])
  await put(names.slice(2, 7))
  const volumeId = await ennick.addVolume(productionId, 'STILLS', folder)
  await put(names.slice(7, 10))
  await ennick.scan(volumeId)
  expect(await told()).toEqual([[8, '']])
  await put(names.slice(0, 2))
  await ennick.scan(volumeId)
  expect(await told()).toEqual([[10, '']])
  await copyFile(join(shelf, 'stills', names[11] as string), join(folder, names[0] as string))
  await put(names.slice(10))
  await utimes(join(folder, names[0] as string), long, long)
  await ennick.scan(volumeId)
  expect(await told()).toEqual([[12, 'original changed']])
})

test('proxies that are uploaded first wait until they are whole, then for their originals', async () => {
  const uploads = join(ennick.media, 'uploads')
  await mkdir(uploads)
  await ennick.addVolume(productionId, 'UPLINK', uploads, 'upload')
  await makePicture(join(ennick.media, 'aside/B006C001_proxy.mov'), { frames: 25, size: '160x90', reel: 'B006' })
  const bytes = await readFile(join(ennick.media, 'aside/B006C001_proxy.mov'))
  // It grows for a while: half of it is no movie, and must not be read as one.
  const growing = join(uploads, 'B006C001_proxy.mov')
  await writeFile(growing, bytes.subarray(0, bytes.length / 2))
  await new Promise((resolve) => setTimeout(resolve, 1500))
  await appendFile(growing, bytes.subarray(bytes.length / 2))
  while (((await volume('UPLINK'))?.waitingProxies ?? 0) === 0) await new Promise((resolve) => setTimeout(resolve, 200))
  expect(await volume('UPLINK')).toMatchObject({ problems: 0, clips: 0, isWatched: true })
  const card = join(ennick.media, 'B006')
  await makePicture(join(card, 'B006C001.mov'), { frames: 25, size: '320x180', reel: 'B006' })
  await utimes(join(card, 'B006C001.mov'), long, long)
  await ennick.addVolume(productionId, 'B006', card, 'card')
  expect((await volume('UPLINK'))?.waitingProxies).toBe(0)
  const [offer] = await ennick.call('listOffers', { params: { productionId } })
  expect(offer).toMatchObject({ volumeLabel: 'UPLINK', clipName: 'B006C001', agrees: true })
})
