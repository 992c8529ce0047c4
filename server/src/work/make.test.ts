import { execFile } from 'node:child_process'
import { open, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { promisify } from 'node:util'
import { builtInRecipes } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { madeFolder } from '../config.ts'
import { probe } from '../engine/probe.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

const execute = promisify(execFile)
let ennick: Harness
let productionId: string
let drive: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Makes')
  drive = join(ennick.media, 'drive')
  await makePicture(join(drive, 'A/plain.mov'), { channels: 4, frames: 12 })
  await makePicture(join(drive, 'A/drone.mov'), { rate: '30000/1001', frames: 31, timecode: '12:59:58;00', reel: 'DR01', channels: 0 })
  await makePicture(join(drive, 'A/squeezed.mov'), { size: '240x270', pixelAspect: '2', frames: 12, channels: 1, reel: 'R07' })
  await makePicture(join(drive, 'A/log.mov'), { size: '640x360', frames: 12, transfer: 'log100' })
  await makePicture(join(drive, 'A/no timecode.mov'), { frames: 12, timecode: null, reel: null })
  await makePicture(join(drive, 'B/plain.mov'), { frames: 12, seed: 2 })
  await makeSound(join(drive, 'take.wav'), 48_000, 0)
  await ennick.addVolume(productionId, 'drive', drive)
})
afterAll(() => ennick.stop())

const clipAt = async (path: string) => {
  const clip = (await ennick.clips(productionId)).find((candidate) => candidate.path === path)
  if (!clip) throw new Error(`There is no clip at ${path}.`)
  return clip
}
const make = async (path: string, recipeId: string) => {
  const { jobs, skipped } = await ennick.call('make', { params: { productionId }, body: { clipIds: [(await clipAt(path)).id], recipeId } })
  return jobs[0] ? ennick.waitForJob(jobs[0].id) : { state: 'skipped', error: skipped[0] ?? null, checks: [], id: '' }
}
const pairsOf = async (path: string) => {
  const clip = await clipAt(path)
  const ledger = await ennick.call('listPairs', { params: { productionId } })
  return ledger.find((row) => row.clipId === clip.id)?.pairs ?? []
}
const filesOf = async (path: string, recipe: string) => {
  const pair = (await pairsOf(path)).find((candidate) => candidate.recipe?.startsWith(recipe))
  return (await ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })).madeFiles.map((file) => file.path)
}
const everyFile = async (folder: string): Promise<string[]> =>
  (await readdir(folder, { recursive: true, withFileTypes: true }))
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name))
const debris = async () => (await everyFile(madeFolder(ennick.config.dataFolder))).filter((path) => path.endsWith('.ennick-part'))

/** A second, independent reader. */
async function mediainfo(path: string): Promise<(Record<string, string> & { extra?: Record<string, string> })[]> {
  const { stdout } = await execute('mediainfo', ['--Output=JSON', path])
  return JSON.parse(stdout).media.track
}

const originals = [
  { path: 'A/plain.mov', reel: 'A001', timecode: '10:00:00:00', rate: '25.000', frames: 12, channels: 4 },
  { path: 'A/drone.mov', reel: 'DR01', timecode: '12:59:58;00', rate: '29.970', frames: 31, channels: 0 },
  { path: 'A/squeezed.mov', reel: 'R07', timecode: '10:00:00:00', rate: '25.000', frames: 12, channels: 1 },
  { path: 'A/log.mov', reel: 'A001', timecode: '10:00:00:00', rate: '25.000', frames: 12, channels: 2 },
  { path: 'A/no timecode.mov', reel: null, timecode: null, rate: '25.000', frames: 12, channels: 2 },
]

describe.each(builtInRecipes.map((recipe) => [recipe.id, recipe] as const))('%s', (recipeId, recipe) => {
  test('makes twins of plain, drop-frame and silent, squeezed, log and unlabelled pictures', async () => {
    const paths = originals.map(({ path }) => path)
    const clipIds = await Promise.all(paths.map(async (path) => (await clipAt(path)).id))
    const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId } })
    for (const { id } of jobs) {
      const job = await ennick.waitForJob(id)
      expect([job.title, job.state, job.error]).toEqual([job.title, 'done', null])
      expect(job.checks.every((row) => row.agrees)).toBe(true)
    }
    for (const path of paths) {
      const pair = (await pairsOf(path)).find((candidate) => candidate.recipe?.startsWith(recipe.name))
      expect([path, pair?.verdict]).toEqual([path, 'sound'])
    }
  })

  test('a second reader finds the same timecode, reel, raster, rate, frames and channels in all of them', async () => {
    for (const { path, reel, timecode, rate, frames, channels } of originals) {
      const tracks = (await Promise.all((await filesOf(path, recipe.name)).map(mediainfo))).flat()
      const picture = tracks.find((track) => track['@type'] === 'Video')
      const pair = (await pairsOf(path)).find((candidate) => candidate.recipe?.startsWith(recipe.name))
      expect([path, picture?.FrameRate]).toEqual([path, rate])
      expect([path, `${picture?.Width} × ${picture?.Height}`]).toEqual([path, pair?.raster])
      expect([path, Number(picture?.FrameCount ?? tracks[0]?.FrameCount)]).toEqual([path, frames])
      // MXF has no place for a reel that this reader shows.
      if (reel !== null && !recipe.container.startsWith('mxf')) expect(JSON.stringify(tracks)).toContain(reel)
      // Matroska keeps it as a tag of the file; MXF cannot say that there is none.
      const told = tracks.flatMap((track) => [track.TimeCode_FirstFrame, track.TimeCode_First, ...Object.values(track.extra ?? {})])
      if (timecode !== null) expect(told).toContain(timecode)
      else if (!recipe.container.startsWith('mxf')) expect(told.filter((text) => /^\d\d:\d\d:\d\d[:;]\d\d$/.test(text ?? ''))).toEqual([])
      const sounds = tracks.filter((track) => track['@type'] === 'Audio')
      expect([path, sounds.reduce((sum, track) => sum + Number(track.Channels), 0)]).toEqual([path, channels])
    }
  })
})

test('one file per essence, shapes kept, squeezed pixels made square', async () => {
  const files = await filesOf('A/plain.mov', 'Source size, VC-3')
  expect(files.map((path) => path.split('/').at(-1))).toEqual([
    'plain_V1.mxf',
    'plain_A1.mxf',
    'plain_A2.mxf',
    'plain_A3.mxf',
    'plain_A4.mxf',
  ])
  const [squeezed] = await filesOf('A/squeezed.mov', 'Source size, VC-3')
  const facts = await probe(squeezed as string, (await stat(squeezed as string)).size)
  expect(facts.picture).toMatchObject({ width: 480, height: 270, pixelAspect: { numerator: 1, denominator: 1 } })
})

test('every container and codec says the colour of the original, or nothing', async () => {
  const said = async (recipe: string) => {
    const path = (await filesOf('A/plain.mov', recipe))[0] as string
    return (await probe(path, (await stat(path)).size)).picture?.colour.matrix
  }
  expect(await said('Production raster, ProRes Proxy')).toBe('smpte170m')
  expect(await said('Half size')).toBe('bt470bg')
})

test('only the log picture passed the viewing LUT, and the pair says so', async () => {
  const lut = async (path: string) => (await ennick.call('readPair', { params: { pairId: (await pairsOf(path))[0]?.id ?? '' } })).viewingLut
  expect(await lut('A/log.mov')).toBe('estuary-log-to-display')
  expect(await lut('A/plain.mov')).toBeNull()
})

test('two originals of one name have two proxies', async () => {
  await make('B/plain.mov', 'half-h264-intra')
  const [a, b] = await Promise.all([filesOf('A/plain.mov', 'Half size'), filesOf('B/plain.mov', 'Half size')])
  expect(a[0]).not.toBe(b[0])
  expect(await readFile(a[0] as string)).not.toEqual(await readFile(b[0] as string))
})

test('sound alone, and what is sound already, are passed over with the reason', async () => {
  expect((await make('take.wav', 'half-h264-intra')).error).toContain('sound alone')
  expect((await make('A/plain.mov', 'half-h264-intra')).error).toContain('a sound one of this recipe is there already')
})

test('a reel that is set after the proxy was made counts at once: the proxy does not carry it', async () => {
  const clip = await clipAt('A/no timecode.mov')
  await ennick.call('editClips', {
    params: { productionId },
    body: { action: { kind: 'reel', clipIds: [clip.id], source: { kind: 'first-characters', count: 2 } }, apply: true },
  })
  const pairs = await pairsOf('A/no timecode.mov')
  expect(pairs.map((pair) => pair.verdict)).toEqual(builtInRecipes.map(() => 'mismatched'))
  expect(pairs[0]?.why).toContain('reel')
  const again = await make('A/no timecode.mov', 'half-h264-intra')
  expect(again.state).toBe('done')
  const after = (await pairsOf('A/no timecode.mov')).find((pair) => pair.recipe?.startsWith('Half size'))
  expect(after?.verdict).toBe('sound')
  const mends = await ennick.call('listMends', { params: { productionId } })
  expect(mends[0]).toMatchObject({ kind: 'make again', state: 'done' })
})

describe('verdicts follow the disk', () => {
  const check = async () => {
    const job = await ennick.call('check', { params: { productionId } })
    return ennick.waitForJob(job.id)
  }
  const verdict = async () => (await pairsOf('B/plain.mov'))[0]?.verdict

  test('a made file that is deleted, an original that changes, a volume that leaves', async () => {
    const [made] = await filesOf('B/plain.mov', 'Half size')
    await rename(made as string, `${made}.aside`)
    await check()
    expect(await verdict()).toBe('proxy gone')
    await rename(`${made}.aside`, made as string)
    await check()
    expect(await verdict()).toBe('sound')
    await makePicture(join(drive, 'B/plain.mov'), { seed: 5 })
    await check()
    expect(await verdict()).toBe('stale')
    await rm(join(drive, 'B/plain.mov'))
    await check()
    expect(await verdict()).toBe('original gone')
    await rm(made as string)
    await check()
    expect(await verdict()).toBe('both gone')
  })
})

describe('failures leave a plain sentence and nothing else', () => {
  test('a damaged frame in the middle', async () => {
    const path = join(ennick.media, 'C/damaged.mov')
    await makePicture(path, { frames: 30 })
    const file = await open(path, 'r+')
    await file.write(Buffer.alloc(3000, 0xff), 0, 3000, Math.floor((await stat(path)).size / 3))
    await file.close()
    await ennick.addVolume(productionId, 'damaged', dirname(path))
    const job = await make('damaged.mov', 'half-h264-intra')
    expect(job.state).toBe('failed')
    expect(job.error).toMatch(/damaged\.mov is damaged: frames? \d+ \(10:00:00:\d\d\).* cannot be decoded/)
    expect(await pairsOf('damaged.mov')).toEqual([])
    expect(await debris()).toEqual([])
  })

  test('a file that is there already is never overwritten', async () => {
    const folder = join(ennick.media, 'D')
    await makePicture(join(folder, 'x.mov'), { frames: 10 })
    await ennick.addVolume(productionId, 'occupied', folder)
    const plan = await ennick.call('planMake', {
      params: { productionId },
      body: { clipIds: [(await clipAt('x.mov')).id], recipeId: 'half-h264-intra' },
    })
    const target = join(plan.destination, plan.items[0]?.outputs[0] ?? '')
    await import('node:fs/promises').then(({ mkdir }) => mkdir(dirname(target), { recursive: true }))
    await writeFile(target, 'mine')
    const job = await make('x.mov', 'half-h264-intra')
    expect(job).toMatchObject({ state: 'failed', error: expect.stringContaining('nothing is ever overwritten') })
    expect(await readFile(target, 'utf8')).toBe('mine')
    await rm(target)
    const again = await ennick.call('retryJob', { params: { jobId: job.id } })
    expect((await ennick.waitForJob(again.id)).state).toBe('done')
  })

  test('a destination that cannot be written', async () => {
    const folder = join(ennick.media, 'E')
    await makePicture(join(folder, 'y.mov'), { frames: 10 })
    await ennick.addVolume(productionId, 'blocked', folder)
    const plan = await ennick.call('planMake', {
      params: { productionId },
      body: { clipIds: [(await clipAt('y.mov')).id], recipeId: 'half-h264-intra' },
    })
    const inTheWay = dirname(join(plan.destination, plan.items[0]?.outputs[0] ?? ''))
    await writeFile(inTheWay, 'a file where the folder should be')
    const job = await make('y.mov', 'half-h264-intra')
    expect(job.state).toBe('failed')
    expect(job.error).toMatch(/not a folder|exist/)
    expect(await debris()).toEqual([])
    await rm(inTheWay)
  })

  test('a job that is stopped leaves nothing, and can be run again', async () => {
    const folder = join(ennick.media, 'F')
    await makePicture(join(folder, 'long.mov'), { size: '960x540', frames: 200, channels: 0 })
    await ennick.addVolume(productionId, 'long', folder)
    const { jobs } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [(await clipAt('long.mov')).id], recipeId: 'half-h264-intra' },
    })
    const jobId = jobs[0]?.id as string
    while ((await ennick.call('readJob', { params: { jobId } })).progress === null) await new Promise((resolve) => setTimeout(resolve, 50))
    expect(await debris()).toHaveLength(1)
    await ennick.call('cancelJob', { params: { jobId } })
    expect((await ennick.waitForJob(jobId)).state).toBe('cancelled')
    expect(await debris()).toEqual([])
    expect(await pairsOf('long.mov')).toEqual([])
    await ennick.call('retryJob', { params: { jobId } })
    expect((await ennick.waitForJob(jobId)).state).toBe('done')
  })

  test('an original whose volume is away is passed over, and says which box', async () => {
    const folder = join(ennick.media, 'G')
    await makePicture(join(folder, 'z.mov'), { frames: 10 })
    await ennick.addVolume(productionId, 'box 7', folder)
    const clip = await clipAt('z.mov')
    await rename(folder, `${folder} out`)
    while ((await clipAt('z.mov')).presence === 'here') await new Promise((resolve) => setTimeout(resolve, 100))
    const { skipped } = await ennick.call('make', { params: { productionId }, body: { clipIds: [clip.id], recipeId: 'half-h264-intra' } })
    expect(skipped[0]).toContain('“box 7” is away')
  })
})
