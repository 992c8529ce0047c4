import { execFile } from 'node:child_process'
import { readFile, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import type { Answer, Job, routes } from '@ennick/contract'
import { builtInRecipes, type Recipe } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { probe } from '../engine/probe.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

const originals = [
  { name: 'plain.mov', reel: 'A001', timecode: '10:00:00:00', rate: '25.000', frames: 12, channels: 4 },
  { name: 'drone.mov', reel: 'DR01', timecode: '12:59:58;00', rate: '29.970', frames: 13, channels: 0 },
  { name: 'squeezed.mov', reel: 'R07', timecode: '10:00:00:00', rate: '25.000', frames: 12, channels: 1 },
  // Its frames are no whole milliseconds.
  { name: 'log.mov', reel: 'A001', timecode: '10:00:00:00', rate: '23.976', frames: 13, channels: 2 },
  { name: 'no timecode.mov', reel: null, timecode: null, rate: '25.000', frames: 12, channels: 2 },
] as const
type Name = (typeof originals)[number]['name']

let ennick: Harness
let jobs: Job[]
let ledger: Answer<(typeof routes)['listPairs']>
const clipIds = new Map<string, string>()
/** Every original with every recipe that Ennick brings, all eight from one reading of it. */
beforeAll(async () => {
  ennick = await startHarness()
  const productionId = await ennick.addProduction('Twins')
  const drive = join(ennick.media, 'drive')
  await makePicture(join(drive, 'plain.mov'), { channels: 4, frames: 12 })
  await makePicture(join(drive, 'drone.mov'), {
    rate: '30000/1001',
    frames: 13,
    timecode: '12:59:58;00',
    reel: 'DR01',
    channels: 0,
  })
  await makePicture(join(drive, 'squeezed.mov'), {
    size: '240x270',
    pixelAspect: '2',
    frames: 12,
    channels: 1,
    reel: 'R07',
  })
  await makePicture(join(drive, 'log.mov'), {
    ...{ size: '640x360', rate: '24000/1001', frames: 13, transfer: 'log100' },
  })
  await makePicture(join(drive, 'no timecode.mov'), { frames: 12, timecode: null, reel: null })
  await ennick.addVolume(productionId, 'drive', drive)
  for (const clip of await ennick.clips(productionId)) clipIds.set(clip.name, clip.id)
  const [recipeId, ...alsoRecipeIds] = builtInRecipes.map((recipe) => recipe.id)
  const body = { clipIds: originals.map(({ name }) => clipIds.get(name)), recipeId, alsoRecipeIds }
  const asked = await ennick.call('make', { params: { productionId }, body })
  jobs = await Promise.all(asked.jobs.map(({ id }) => ennick.waitForJob(id)))
  ledger = await ennick.call('listPairs', { params: { productionId } })
})
afterAll(() => ennick.stop())

const pairOf = (name: Name, { name: recipeName }: Pick<Recipe, 'name'>) =>
  ledger.find((row) => row.clipId === clipIds.get(name))?.pairs.find((pair) => pair.recipe?.startsWith(recipeName))
const readPair = async (name: Name, recipe: Pick<Recipe, 'name'>) =>
  ennick.call('readPair', { params: { pairId: pairOf(name, recipe)?.id ?? '' } })
const filesOf = async (name: Name, recipe: Pick<Recipe, 'name'>) =>
  (await readPair(name, recipe)).madeFiles.map((file) => file.path)
const recipe = (id: string): Recipe => builtInRecipes.find((candidate) => candidate.id === id) as Recipe

/** A second, independent reader. */
async function mediainfo(path: string): Promise<(Record<string, string> & { extra?: Record<string, string> })[]> {
  const { stdout } = await promisify(execFile)('mediainfo', ['--Output=JSON', path])
  return JSON.parse(stdout).media.track
}

test('one job for each original makes all of its items, and every check of every item agrees', () => {
  expect(jobs.map((job) => [job.state, job.error])).toEqual(originals.map(() => ['done', null]))
  for (const job of jobs) {
    expect(job.files?.outputs.length).toBeGreaterThanOrEqual(builtInRecipes.length)
    expect(job.checks.filter((row) => !row.agrees)).toEqual([])
  }
})

describe.each(builtInRecipes.map((each) => [each.id, each] as const))('%s', (_, made) => {
  test('makes twins of plain, drop-frame and silent, squeezed, log and unlabelled pictures', () => {
    expect(originals.map(({ name }) => [name, pairOf(name, made)?.verdict])).toEqual(
      originals.map(({ name }) => [name, 'proven']),
    )
  })

  test('a second reader finds the same timecode, reel, raster, rate, frames and channels in all of them', async () => {
    for (const { name, reel, timecode, rate, frames, channels } of originals) {
      const tracks = (await Promise.all((await filesOf(name, made)).map(mediainfo))).flat()
      const picture = tracks.find((track) => track['@type'] === 'Video')
      expect([name, picture?.FrameRate]).toEqual([name, rate])
      expect([name, `${picture?.Width} × ${picture?.Height}`]).toEqual([name, pairOf(name, made)?.raster])
      expect([name, Number(picture?.FrameCount ?? tracks[0]?.FrameCount)]).toEqual([name, frames])
      // MXF has no place for a reel that this reader shows.
      if (reel !== null && !made.container.startsWith('mxf')) expect(JSON.stringify(tracks)).toContain(reel)
      // Matroska keeps it as a tag of the file; MXF cannot say that there is none.
      const told = tracks.flatMap((track) => [
        track.TimeCode_FirstFrame,
        track.TimeCode_First,
        ...Object.values(track.extra ?? {}),
      ])
      if (timecode !== null) expect(told).toContain(timecode)
      else if (!made.container.startsWith('mxf'))
        expect(told.filter((text) => /^\d\d:\d\d:\d\d[:;]\d\d$/.test(text ?? ''))).toEqual([])
      const sounds = tracks.filter((track) => track['@type'] === 'Audio')
      expect([name, sounds.reduce((sum, track) => sum + Number(track.Channels), 0)]).toEqual([name, channels])
    }
  })
})

test('OP-Atom, one file per track, shapes kept, squeezed pixels made square', async () => {
  const files = await filesOf('plain.mov', recipe('vc3-lb-op-atom'))
  expect(files.map((path) => path.split('/').at(-1))).toEqual([
    'plain_V1.mxf',
    'plain_A1.mxf',
    'plain_A2.mxf',
    'plain_A3.mxf',
    'plain_A4.mxf',
  ])
  const [squeezed] = await filesOf('squeezed.mov', recipe('vc3-lb-op-atom'))
  const facts = await probe(squeezed as string, (await stat(squeezed as string)).size)
  expect(facts.picture).toMatchObject({ width: 480, height: 270, pixelAspect: { numerator: 1, denominator: 1 } })
})

describe('a set of OP-Atom files is one clip', () => {
  /** Every value of an item in the sets of a header, read by nothing of ours: keys, lengths and tags as they come. */
  async function itemsOf(path: string, tag: number): Promise<string[]> {
    const bytes = (await readFile(path)).subarray(0, 65_536)
    const found: string[] = []
    const set = Buffer.from('060e2b34025301010d01010101', 'hex')
    for (let at = bytes.indexOf(set); at >= 0; at = bytes.indexOf(set, at + 1)) {
      const count = (bytes[at + 16] as number) > 127 ? (bytes[at + 16] as number) - 128 : 0
      const length = count ? bytes.readUIntBE(at + 17, count) : (bytes[at + 16] as number)
      for (let item = at + 17 + count; item < at + 17 + count + length; item += 4 + bytes.readUInt16BE(item + 2))
        if (bytes.readUInt16BE(item) === tag)
          found.push(bytes.subarray(item + 4, item + 4 + bytes.readUInt16BE(item + 2)).toString('hex'))
    }
    return found
  }
  const wide = (text: string) => Buffer.from(text, 'utf16le').swap16().toString('hex')
  async function tagsOf(path: string): Promise<{ of: Record<string, string>; streams: Record<string, string>[] }> {
    const words = ['-v', 'error', '-show_format', '-show_streams', '-of', 'json', path]
    const { stdout, stderr } = await promisify(execFile)('ffprobe', words)
    expect(stderr).toBe('')
    const { format, streams } = JSON.parse(stdout)
    return { of: format.tags, streams: streams.map(({ tags = {} }) => tags) }
  }

  test.each(['plain.mov', 'log.mov'] as const)('%s', async (name) => {
    const files = await filesOf(name, recipe('vc3-lb-op-atom'))
    const read = await Promise.all(files.map(tagsOf))
    const ids = read.map(({ streams }) => streams.map((tags) => tags.file_package_umid))
    // Each file leads to the essence of all, in one order, and no two of those are the same.
    expect(new Set(ids.map(String)).size).toBe(1)
    expect(new Set(ids[0]).size).toBe(files.length)
    expect(read[0]?.streams.map(({ track_name }) => track_name)).toEqual(
      files.map((_, index) => (index ? `A${index}` : 'V1')),
    )
    expect(new Set(read.map(({ of }) => of.material_package_umid)).size).toBe(1)
    // From whichever file of the set one comes to the card.
    for (const { of } of read)
      expect([of.comment_source, of.comment_source_volume, of.comment_recipe]).toEqual([
        ...[name, 'drive', 'Source size, VC-3 LB, OP-Atom, version 1'],
      ])
    const own = read.map(({ streams }, index) => streams[index])
    expect(new Set(own.map((tags) => tags?.reel_umid)).size).toBe(1)
    for (const [index, { of, streams }] of read.entries()) {
      expect(of).toMatchObject({ material_package_name: name.replace('.mov', ''), timecode: '10:00:00:00' })
      expect(streams[index]).toMatchObject({ reel_name: 'A001', timecode: '10:00:00:00' })
      expect(of).not.toHaveProperty('comment_reserve')
    }
    for (const path of files) {
      // Packages, tracks and clips by their bytes: material, file and reel; in the file two tracks and a timecode.
      const packages = await itemsOf(path, 0x4401)
      const sources = await itemsOf(path, 0x1101)
      expect([packages.length, new Set(packages).size]).toEqual([3, 3])
      expect(sources).toHaveLength(2 * files.length + 1)
      expect((await itemsOf(path, 0x4402)).includes(wide('A001\0'))).toBe(true)
      const instances = await itemsOf(path, 0x3c0a)
      expect(new Set(instances).size).toBe(instances.length)
      // No reference leads nowhere.
      for (const id of [...(await itemsOf(path, 0x4803)), ...(await itemsOf(path, 0x4403)).flatMap(arrayOf)])
        expect(instances).toContain(id)
    }
  })
  const arrayOf = (hex: string): string[] => hex.slice(16).match(/.{32}/g) ?? []

  test('one silent picture is a set of its own', async () => {
    const [only, ...others] = await filesOf('drone.mov', recipe('vc3-lb-op-atom'))
    expect(others).toEqual([])
    expect((await tagsOf(only as string)).of.material_package_name).toBe('drone')
  })
})

test('every container and codec says the colour of the original, or nothing', async () => {
  const said = async (recipeId: string) => {
    const path = (await filesOf('plain.mov', recipe(recipeId)))[0] as string
    return (await probe(path, (await stat(path)).size)).picture?.colour.matrix
  }
  expect(await said('production-prores-proxy')).toBe('smpte170m')
  expect(await said('half-h264-intra')).toBe('bt470bg')
})

test('only the log picture passed the viewing LUT, and the pair says so', async () => {
  const lut = async (name: Name) => (await readPair(name, recipe('half-h264-intra'))).viewingLut
  expect(await lut('log.mov')).toBe('estuary-log-to-display')
  expect(await lut('plain.mov')).toBeNull()
})
