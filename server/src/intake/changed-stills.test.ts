import { copyFile, cp, mkdir, readdir, rename, stat, utimes } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'

/** Numbered stills whose pictures are not compressed are all of one size, whatever they show. */
let ennick: Harness
let productionId: string
let drive: string
let volumeId: string
let plate: string
let fixed: string

async function makeStills(folder: string, hue: number): Promise<void> {
  await mkdir(folder, { recursive: true })
  const source = `testsrc2=s=320x180:r=25:d=0.36,hue=h=${hue}`
  const words = ['-f', 'lavfi', '-i', source, '-compression_algo', 'raw', join(folder, 'mill.%04d.tif')]
  expect(await run('ffmpeg', ['-v', 'error', ...words])).toMatchObject({ exitCode: 0 })
  // A render writes one after another.
  for (const [index, name] of (await readdir(folder)).sort().entries())
    await utimes(join(folder, name), new Date(2026, 1, 1), new Date(2026, 1, 1, 10, hue, index))
}

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Plates')
  drive = join(ennick.media, 'drive')
  plate = join(drive, 'plates/mill')
  fixed = join(ennick.media, 'fixed')
  await makeStills(plate, 0)
  await makeStills(fixed, 59)
  volumeId = await ennick.addVolume(productionId, 'DRIVE', drive)
})
afterAll(() => ennick.stop())

const still = (number: number): string => join(plate, `mill.000${number}.tif`)
const notices = async () => (await ennick.clips(productionId)).map(({ notice }) => notice)
const check = async () => ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)

describe.each([
  ['scan', () => ennick.scan(volumeId)],
  ['check', check],
])('at a %s', (_, look) => {
  test('one still in between that is another now is told, and so is that it came back', async () => {
    expect((await stat(still(3))).size).toBe((await stat(join(fixed, 'mill.0003.tif'))).size)
    const before = await stat(still(3))
    const kept = join(ennick.media, 'kept.tif')
    await cp(still(3), kept, { preserveTimestamps: true })
    await copyFile(join(fixed, 'mill.0003.tif'), still(3))
    await look()
    expect(await notices()).toEqual([expect.stringContaining('original changed')])
    await cp(kept, still(3), { preserveTimestamps: true })
    expect((await stat(still(3))).mtimeMs).toBe(before.mtimeMs)
    await look()
    expect(await notices()).toEqual([expect.not.stringContaining('original changed')])
  })

  test('one with a time that is older than the newest is told as well', async () => {
    const kept = join(ennick.media, 'kept.tif')
    await rename(still(4), kept)
    await cp(join(fixed, 'mill.0004.tif'), still(4))
    await utimes(still(4), new Date(2026, 0, 1), new Date(2026, 0, 1))
    await look()
    expect(await notices()).toEqual([expect.stringContaining('original changed')])
    await rename(kept, still(4))
    await look()
    expect(await notices()).toEqual([expect.not.stringContaining('original changed')])
  })

  test('two that changed places are told', async () => {
    const swap = async (): Promise<void> => {
      await rename(still(2), `${still(2)}.between`)
      await rename(still(7), still(2))
      await rename(`${still(2)}.between`, still(7))
    }
    await swap()
    await look()
    expect(await notices()).toEqual([expect.stringContaining('original changed')])
    await swap()
    await look()
    expect(await notices()).toEqual([expect.not.stringContaining('original changed')])
  })

  test('stills that were touched, and are what they were, have not changed', async () => {
    await utimes(still(5), new Date(2026, 2, 1), new Date(2026, 2, 1))
    await look()
    expect(await notices()).toEqual([expect.not.stringContaining('original changed')])
  })
})

test('stills of another drive of which one is another are no copy of them', async () => {
  const backup = join(ennick.media, 'backup')
  await cp(drive, backup, { recursive: true, preserveTimestamps: true })
  await copyFile(join(fixed, 'mill.0006.tif'), join(backup, 'plates/mill/mill.0006.tif'))
  await ennick.addVolume(productionId, 'BACKUP', backup)
  const details = await Promise.all(
    (await ennick.clips(productionId)).map(({ id }) => ennick.call('readClip', { params: { clipId: id } })),
  )
  expect(details.map(({ copies }) => copies)).toEqual([[], []])
})
