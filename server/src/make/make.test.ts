import { open, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { keepDecoded } from '../pairs/decode-pairs.ts'
import { connect } from '../store/database.ts'
import type { KnownPair } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'
import { unhurried } from '../testing/unhurried.ts'

let ennick: Harness
let productionId: string
let drive: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Makes')
  drive = join(ennick.media, 'drive')
  await makePicture(join(drive, 'A/plain.mov'), { channels: 4, frames: 12 })
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
  const { jobs, skipped } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [(await clipAt(path)).id], recipeId },
  })
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

test('two originals of one name have two proxies', async () => {
  for (const path of ['A/plain.mov', 'B/plain.mov'])
    expect(await make(path, 'half-h264-intra')).toMatchObject({ state: 'done', error: null })
  const [a, b] = await Promise.all([filesOf('A/plain.mov', 'Half size'), filesOf('B/plain.mov', 'Half size')])
  expect(a[0]).not.toBe(b[0])
  expect((await readFile(a[0] as string)).equals(await readFile(b[0] as string))).toBe(false)
})

test('sound alone, and what is sound already, are passed over with the reason', async () => {
  expect((await make('take.wav', 'half-h264-intra')).error).toContain('sound alone')
  expect((await make('A/plain.mov', 'half-h264-intra')).error).toContain(
    'what this recipe makes of it is there already, and agrees with it',
  )
})

test('a reel that is set after the proxy was made counts at once: the proxy does not carry it', async () => {
  const clip = await clipAt('A/no timecode.mov')
  await make('A/no timecode.mov', 'half-h264-intra')
  const told = (await ennick.call('history', { params: { productionId } })).map(({ what }) => what)
  expect(told.filter((line) => line.startsWith('Made ') && line.includes('Half size')).slice(0, 1)).toEqual([
    expect.stringMatching(
      /^Made no timecode_proxy\.mov from no timecode with “Half size, .*”, version 1; \d+ facts agree\.$/,
    ),
  ])
  expect(told.filter((line) => line.startsWith('Made with'))).toEqual([])
  await ennick.call('editClips', {
    params: { productionId },
    body: { action: { kind: 'reel', clipIds: [clip.id], source: { kind: 'first-characters', count: 2 } }, apply: true },
  })
  const pairs = await pairsOf('A/no timecode.mov')
  expect(pairs.map((pair) => pair.verdict)).toEqual(['mismatched'])
  expect(pairs[0]?.why).toContain('reel')
  const again = await make('A/no timecode.mov', 'half-h264-intra')
  expect(again.state).toBe('done')
  const after = (await pairsOf('A/no timecode.mov')).find((pair) => pair.recipe?.startsWith('Half size'))
  expect(after?.verdict).toBe('proven')
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
    expect(await verdict()).toBe('proven')
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

test('every frame is decoded when a person asks, and one that does not decode makes its pair mismatched', async () => {
  const pairOf = async () => (await pairsOf('A/plain.mov')).find((pair) => pair.recipe?.startsWith('Half size'))
  const decode = async () => {
    const pairIds = [(await pairOf())?.id, '00000000-0000-4000-8000-000000000000']
    return ennick.waitForJob((await ennick.call('decodePairs', { params: { productionId }, body: { pairIds } })).id)
  }
  expect(await pairOf()).toMatchObject({ verdict: 'proven', isDecodedWhole: false })
  expect(await decode()).toMatchObject({ state: 'done', summary: '1 decoded from first frame to last · 1 not here' })
  expect(await pairOf()).toMatchObject({
    verdict: 'proven',
    isDecodedWhole: true,
    why: expect.stringContaining('and every frame decodes'),
  })

  const [path] = await filesOf('A/plain.mov', 'Half size')
  const file = await open(path as string, 'r+')
  const { size, atime, mtime } = await file.stat()
  const [start, length] = [Math.floor(size / 5), size >> 1]
  const middle = Buffer.alloc(length)
  await file.read(middle, 0, length, start)
  await file.write(Buffer.alloc(length, 0xff), 0, length, start)
  expect((await decode()).summary).toBe('0 decoded from first frame to last · 1 broken · 1 not here')
  expect(await pairOf()).toMatchObject({ verdict: 'mismatched', why: expect.stringMatching(/^decode: /) })

  await file.write(middle, 0, length, start)
  await file.utimes(atime, mtime)
  await file.close()
  await decode()
  expect((await pairOf())?.verdict).toBe('proven')
})

test('what was taken away since the last look is not here, and not broken', async () => {
  const [path] = (await filesOf('A/plain.mov', 'Half size')) as [string]
  const { id } = (await pairsOf('A/plain.mov')).find((pair) => pair.recipe?.startsWith('Half size')) as { id: string }
  await rename(path, `${path}.aside`)
  const job = await ennick.call('decodePairs', { params: { productionId }, body: { pairIds: [id] } })
  expect((await ennick.waitForJob(job.id)).summary).toBe('0 decoded from first frame to last · 1 not here')
  expect((await pairsOf('A/plain.mov')).find((pair) => pair.id === id)?.verdict).toBe('proven')
  await rename(`${path}.aside`, path)
})

test('a decode that ends after its file was exchanged for another says nothing of the pair', async () => {
  const connection = connect(ennick.config.databaseUrl, { maximum: 2 })
  const id = (await pairsOf('A/plain.mov')).find((pair) => pair.recipe?.startsWith('Half size'))?.id as string
  const pair = (await readMaterial(connection.database, productionId)).pairs.get(id) as KnownPair
  const proof = async () => (await ennick.query('select proof from pairs where id = $1', [id]))[0]?.proof
  await ennick.query(`update pairs set proof = null, made_fingerprints = '["another"]' where id = $1`, [id])
  await keepDecoded(connection.database, pair, null)
  expect(await proof()).toBeNull()
  await ennick.query('update pairs set made_fingerprints = $2 where id = $1', [
    id,
    JSON.stringify(pair.madeFingerprints),
  ])
  await keepDecoded(connection.database, pair, null)
  expect(await proof()).toEqual([expect.objectContaining({ aspect: 'decode', agrees: true })])
  await connection.close()
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
    expect(await ennick.unfinished()).toEqual([])
  })

  test('a file that is there already is never overwritten', async () => {
    const folder = join(ennick.media, 'D')
    await makePicture(join(folder, 'x.mov'), { frames: 10 })
    await ennick.addVolume(productionId, 'occupied', folder)
    const plan = await ennick.call('planMake', {
      params: { productionId },
      body: { clipIds: [(await clipAt('x.mov')).id], recipeId: 'half-h264-intra' },
    })
    const target = join((await ennick.madePlace(productionId)).path, plan.items[0]?.outputs[0] ?? '')
    await import('node:fs/promises').then(({ mkdir }) => mkdir(dirname(target), { recursive: true }))
    await writeFile(target, 'mine')
    const job = await make('x.mov', 'half-h264-intra')
    expect(job).toMatchObject({ state: 'failed', error: expect.stringContaining('nothing is ever overwritten') })
    expect(await readFile(target, 'utf8')).toBe('mine')
    await rm(target)
    const again = await ennick.call('retryJob', { params: { jobId: job.id } })
    expect((await ennick.waitForJob(again.id)).state).toBe('done')
    // A clip that has its proxy already weighs nothing in the plan, and nothing in what recipes are compared by.
    const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
    const body = { clipIds, recipeId: 'half-h264-intra' }
    const all = await ennick.call('planMake', { params: { productionId }, body })
    expect(all.items.filter(({ skipped }) => skipped !== null).length).toBeGreaterThan(1)
    const own = all.comparison.find(({ recipeId }) => recipeId === body.recipeId)
    expect(own).toMatchObject({ bytes: all.bytes, basis: all.basis })
  })

  test('a destination that cannot be written', async () => {
    const folder = join(ennick.media, 'E')
    await makePicture(join(folder, 'y.mov'), { frames: 10 })
    await ennick.addVolume(productionId, 'blocked', folder)
    const plan = await ennick.call('planMake', {
      params: { productionId },
      body: { clipIds: [(await clipAt('y.mov')).id], recipeId: 'half-h264-intra' },
    })
    const inTheWay = dirname(join((await ennick.madePlace(productionId)).path, plan.items[0]?.outputs[0] ?? ''))
    await writeFile(inTheWay, 'a file where the folder should be')
    const job = await make('y.mov', 'half-h264-intra')
    expect(job.state).toBe('failed')
    expect(job.error).toMatch(/not a folder|exist/)
    expect(await ennick.unfinished()).toEqual([])
    await rm(inTheWay)
  })

  test('a job that is stopped leaves nothing, and can be run again', async () => {
    const folder = join(ennick.media, 'F')
    await makePicture(join(folder, 'long.mov'), { size: '960x540', frames: 120, channels: 0 })
    await ennick.addVolume(productionId, 'long', folder)
    const jobId = await unhurried(0.5, async () => {
      const { jobs } = await ennick.call('make', {
        params: { productionId },
        body: { clipIds: [(await clipAt('long.mov')).id], recipeId: 'half-h264-intra' },
      })
      await ennick.untilWriting()
      return jobs[0]?.id as string
    })
    await ennick.call('cancelJob', { params: { jobId } })
    expect((await ennick.waitForJob(jobId)).state).toBe('cancelled')
    expect(await ennick.unfinished()).toEqual([])
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
    const { skipped } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [clip.id], recipeId: 'half-h264-intra' },
    })
    expect(skipped[0]).toContain('“box 7” is away')
  })
})
