import { readFile, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

/** A curve that makes everything as bright as the last level. */
const flat = (level: number): string => `TITLE "Flat"\nLUT_1D_SIZE 2\n${`${level} ${level} ${level}\n`.repeat(2)}`
/** A table of two points an edge that turns light and dark around. */
const negative = (() => {
  const ends = [1, 0]
  return `LUT_3D_SIZE 2\n${ends.flatMap((blue) => ends.flatMap((green) => ends.map((red) => `${red} ${green} ${blue}`))).join('\n')}\n`
})()

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Looks')
  const drive = join(ennick.media, 'drive')
  await makePicture(join(drive, 'A001C001.mov'), { frames: 12, transfer: 'log100' })
  await makePicture(join(drive, 'A001C002.mov'), { frames: 12, transfer: 'log100', seed: 1, timecode: '11:00:00:00' })
  await makePicture(join(drive, 'B001C001.mov'), { frames: 12, reel: 'B001', seed: 2, timecode: '12:00:00:00' })
  await ennick.addVolume(productionId, 'drive', drive)
})
afterAll(() => ennick.stop())

const clip = async (name: string) => {
  const found = (await ennick.clips(productionId)).find((candidate) => candidate.name === name)
  if (!found) throw new Error(`There is no ${name}.`)
  return found
}
const lutsOfPlan = async (recipeId = 'half-h264-intra') => {
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const { items } = await ennick.call('planMake', { params: { productionId }, body: { clipIds, recipeId } })
  return new Map(items.map((item) => [item.name, item.viewingLut]))
}
const assign = (body: { cameras?: string[]; clipIds?: string[]; choice: 'remove' | { lutId: string | null } }) =>
  ennick.call('assignLuts', { params: { productionId }, body })
const add = (name: string, text: string) => ennick.call('addLut', { body: { name, group: 'Mill scenes', text } })

describe('the library', () => {
  test('a file is checked and tried on a frame, and nothing is kept of that', async () => {
    const tried = await ennick.call('tryLut', { body: { text: flat(1), clipId: (await clip('A001C001.mov')).id } })
    expect(tried).toMatchObject({ title: 'Flat', kind: '1D', size: 2 })
    expect(tried.after).toMatch(/^data:image\/jpeg/)
    expect(tried.after).not.toBe(tried.before)
    expect(await ennick.call('listLuts', {})).toHaveLength(1)
  })

  test('what cannot be used is refused with its line', async () => {
    const text = 'LUT_1D_SIZE 2\n0 0 0\nnan 1 1\n'
    await expect(ennick.call('tryLut', { body: { text, clipId: null } })).rejects.toThrow('Line 3: “nan” is no number')
    await expect(add('Broken', text)).rejects.toThrow('This LUT cannot be used. Line 3')
  })

  test('one that is added is listed by its group, and no name is given twice', async () => {
    const lut = await add('White', flat(1))
    expect(await ennick.call('listLuts', {})).toContainEqual({
      ...lut,
      group: 'Mill scenes',
      kind: '1D',
      isBuiltIn: false,
    })
    await expect(add('WHITE', flat(1))).rejects.toThrow('already')
  })

  test('one that is used stays until nothing passes through it', async () => {
    const lut = await add('Passing', flat(0.5))
    await assign({ cameras: ['Z'], choice: { lutId: lut.id } })
    const retire = () => ennick.call('retireLut', { params: { lutId: lut.id } })
    await expect(retire()).rejects.toThrow('still used by cameras or clips')
    await assign({ cameras: ['Z'], choice: 'remove' })
    await retire()
    expect((await ennick.call('listLuts', {})).map(({ name }) => name)).not.toContain('Passing')
    await expect(assign({ cameras: ['Z'], choice: { lutId: lut.id } })).rejects.toThrow('not in the library')
    await expect(ennick.call('retireLut', { params: { lutId: 'estuary-log-to-display' } })).rejects.toThrow('built-in')
  })
})

describe('what a clip passes through', () => {
  test('its own, its camera’s, the recipe’s, in this order; what a person gave holds against a tag, with a warning', async () => {
    const [one, two] = [await clip('A001C001.mov'), await clip('A001C002.mov')]
    const turned = await add('Turned', negative)
    const black = await add('Black', flat(0))
    expect([...(await lutsOfPlan())]).toEqual([
      ['A001C001', 'estuary-log-to-display'],
      ['A001C002', 'estuary-log-to-display'],
      ['B001C001', null],
    ])
    await assign({ cameras: ['A', 'B'], choice: { lutId: turned.id } })
    await assign({ clipIds: [two.id], choice: { lutId: black.id } })
    expect([...(await lutsOfPlan()).values()]).toEqual([turned.id, black.id, turned.id])
    const body = { clipIds: [(await clip('B001C001.mov')).id], recipeId: 'half-h264-intra' }
    expect((await ennick.call('planMake', { params: { productionId }, body })).warnings.join()).toContain(
      'B001C001 says that it is made for a display (bt709), and was given a LUT',
    )
    expect(await ennick.call('listLutAssignments', { params: { productionId } })).toEqual({
      cameras: [
        { camera: 'A', lutId: turned.id, clips: 2 },
        { camera: 'B', lutId: turned.id, clips: 1 },
      ],
      open: [],
      clips: [{ clipId: two.id, name: 'A001C002', lutId: black.id }],
    })
    await assign({ clipIds: [one.id], choice: { lutId: null } })
    expect((await lutsOfPlan()).get('A001C001')).toBeNull()
    // A recipe without a LUT is for finishing: no look comes in by another door.
    expect([...(await lutsOfPlan('source-prores-422')).values()]).toEqual([null, null, null])
  })

  test('it is burnt in, and the pair says which', async () => {
    const two = await clip('A001C002.mov')
    const { jobs } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [two.id], recipeId: 'half-h264-intra' },
    })
    expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({ state: 'done', error: null })
    const [row] = (await ennick.call('listPairs', { params: { productionId } })).filter(
      (each) => each.clipId === two.id,
    )
    const pair = await ennick.call('readPair', { params: { pairId: row?.pairs[0]?.id ?? '' } })
    expect(pair.viewingLut).toMatch(/^black-/)
    const grey = join(ennick.media, 'frame.gray')
    const path = pair.madeFiles[0]?.path as string
    expect((await stat(path)).size).toBeGreaterThan(0)
    await run('ffmpeg', [
      '-v',
      'error',
      '-i',
      path,
      '-frames:v',
      '1',
      '-vf',
      'scale=8:8,format=gray',
      '-f',
      'rawvideo',
      grey,
    ])
    expect(Math.max(...(await readFile(grey)))).toBeLessThan(24)
  })
})
