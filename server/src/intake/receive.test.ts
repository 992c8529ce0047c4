import {
  appendFile,
  copyFile,
  mkdir,
  readdir,
  readFile,
  rename,
  rm,
  stat,
  truncate,
  utimes,
  writeFile,
} from 'node:fs/promises'
import { join } from 'node:path'
import { parseHashList } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let storage: string
let storageId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Receive')
  storage = join(ennick.media, 'storage')
  await mkdir(storage)
  storageId = await ennick.addVolume(productionId, 'RAID', storage)
})
afterAll(() => ennick.stop())

const clips = () => ennick.clips(productionId)
const clip = async (name: string) => (await clips()).find((candidate) => candidate.name === name)
const detail = async (name: string) => ennick.call('readClip', { params: { clipId: (await clip(name))?.id ?? '' } })
const volume = (label: string) => ennick.volume(productionId, label)
const offload = async (volumeId: string, folder: string, hash = 'xxh64') =>
  ennick.waitForJob(
    (await ennick.call('offloadVolume', { params: { volumeId }, body: { destinationId: storageId, folder, hash } })).id,
  )
/** A file of so many bytes that takes no space. */
const truncateTo = async (path: string, bytes: number): Promise<void> => {
  await writeFile(path, '')
  await truncate(path, bytes)
}
const small = { frames: 25, size: '64x36' }

describe('offload', () => {
  let card: string
  let cardId: string
  beforeAll(async () => {
    card = join(ennick.media, 'A001')
    await makePicture(join(card, 'CLIPS/A001C001.mov'), { ...small, seed: 1 })
    await makePicture(join(card, 'CLIPS/A001C002.mov'), { ...small, seed: 2, timecode: '10:01:00:00' })
    await writeFile(join(card, 'report.txt'), 'Clock was reset after lunch.\n')
    cardId = await ennick.addVolume(productionId, 'A001', card, 'card')
  })

  test('what is only on a card is told before anything is made of it', async () => {
    expect((await clip('A001C001.mov'))?.notice).toBe('only on a card')
    expect((await volume('A001'))?.onlyHere).toBe(2)
    const plan = await ennick.call('planMake', {
      params: { productionId },
      body: { clipIds: [(await clip('A001C001.mov'))?.id], recipeId: 'half-h264-intra' },
    })
    expect(plan.warnings[0]).toContain('only on a card (A001)')
  })

  test('a plan says what is copied and what will be left', async () => {
    const plan = await ennick.call('planOffload', {
      params: { volumeId: cardId },
      body: { destinationId: storageId, folder: 'A001', hash: 'md5' },
    })
    expect(plan).toMatchObject({ files: 3, already: 0, target: join(storage, 'A001'), blocked: null })
    expect(plan.leftBytes).toBe(plan.freeBytes - plan.bytes)
  })

  test('copies everything, reads it back, writes a manifest, and clips move to the copy', async () => {
    const before = await stat(join(card, 'CLIPS/A001C001.mov'))
    const job = await offload(cardId, 'A001')
    expect(job).toMatchObject({ state: 'done', summary: '3 files copied and read back' })
    const copy = await stat(join(storage, 'A001/CLIPS/A001C001.mov'))
    expect([copy.size, Math.floor(copy.mtimeMs)]).toEqual([before.size, Math.floor(before.mtimeMs)])
    expect((await readdir(join(storage, 'A001'))).sort()).toEqual(['CLIPS', 'ascmhl', 'report.txt'])
    const [manifestName] = (await readdir(join(storage, 'A001/ascmhl'))).filter((name) => name.endsWith('.mhl'))
    const list = parseHashList(await readFile(join(storage, 'A001/ascmhl', manifestName ?? ''), 'utf8'))
    expect(list.files.map((file) => file.path).sort()).toEqual([
      'CLIPS/A001C001.mov',
      'CLIPS/A001C002.mov',
      'report.txt',
    ])
    expect(await readFile(join(storage, 'A001/ascmhl/ascmhl_chain.xml'), 'utf8')).toContain(manifestName)

    expect(await clip('A001C001.mov')).toMatchObject({
      volumeLabel: 'RAID',
      path: 'A001/CLIPS/A001C001.mov',
      notice: '',
    })
    expect((await detail('A001C001.mov')).copies).toMatchObject([{ volumeLabel: 'A001', isVerified: true }])
    expect((await clips()).filter((each) => each.name === 'A001C001.mov')).toHaveLength(1)
    await ennick.scan(storageId)
    await ennick.scan(cardId)
    expect((await clips()).filter((each) => each.name.startsWith('A001C'))).toHaveLength(2)
    expect((await volume('A001'))?.onlyHere).toBe(0)
  })

  test('again: everything is there already, nothing is written twice', async () => {
    expect((await offload(cardId, 'A001')).summary).toBe('0 files copied and read back · 3 were there already')
  })

  test('a file of the same name and other content is never overwritten', async () => {
    await mkdir(join(storage, 'second/CLIPS'), { recursive: true })
    await writeFile(join(storage, 'second/CLIPS/A001C001.mov'), 'somebody else')
    const job = await offload(cardId, 'second', 'sha1')
    expect(job.summary).toContain('1 not copied')
    const { lines } = await ennick.call('readJobDetails', { params: { jobId: job.id } })
    expect(lines).toMatchObject([
      { path: 'CLIPS/A001C001.mov', state: 'not copied', detail: expect.stringContaining('Nothing is overwritten') },
    ])
    expect(await readFile(join(storage, 'second/CLIPS/A001C001.mov'), 'utf8')).toBe('somebody else')
  })

  test('a stopped run goes on where it was; what it noted is not read again', async () => {
    await mkdir(join(storage, 'third'), { recursive: true })
    const source = join(card, 'report.txt')
    await copyFile(source, join(storage, 'third/report.txt'))
    const { size, mtimeNs } = await stat(source, { bigint: true })
    const noted = {
      path: 'report.txt',
      sizeBytes: Number(size),
      mtimeMicros: Number(mtimeNs / 1000n),
      hash: 'feedfeedfeedfeed',
      kind: 'xxh64',
    }
    await writeFile(join(storage, 'third/.ennick-offload.jsonl'), `${JSON.stringify(noted)}\n{"path":"CLIPS/A0`)
    expect((await offload(cardId, 'third')).summary).toBe('2 files copied and read back · 1 were there already')
    const [name] = (await readdir(join(storage, 'third/ascmhl'))).filter((each) => each.endsWith('.mhl'))
    expect(await readFile(join(storage, 'third/ascmhl', name ?? ''), 'utf8')).toContain('feedfeedfeedfeed')
  })

  test.each([
    ['onto itself', () => ({ destinationId: cardId, folder: 'x', hash: 'xxh64' }), 'onto itself'],
    ['into a path', () => ({ destinationId: storageId, folder: 'a/../../b', hash: 'xxh64' }), 'begins with a dot'],
    ['under a hidden name', () => ({ destinationId: storageId, folder: '.x', hash: 'xxh64' }), 'hidden'],
  ])('%s is refused', async (_, body, message) => {
    await expect(ennick.call('offloadVolume', { params: { volumeId: cardId }, body: body() })).rejects.toThrow(message)
  })

  test('a card that leaves while its offload waits is offloaded when it comes back', async () => {
    const other = join(ennick.media, 'A009')
    await makePicture(join(other, 'A009C001.mov'), { ...small, seed: 5, reel: 'A009' })
    const otherId = await ennick.addVolume(productionId, 'A009', other, 'card')
    await rename(other, `${other} out`)
    const input = { kind: 'offload', volumeId: otherId, destinationId: storageId, folder: 'A009', hash: 'xxh64' }
    // The plan refuses a card that is away; this is one that left after the job was queued.
    const queue = async (asked: object): Promise<string> => {
      const [row] = await ennick.query<{ id: string }>(
        'insert into jobs (production_id, title, input) values ($1, $2, $3) returning id',
        [productionId, 'Offload A009', asked],
      )
      await ennick.query(
        `select graphile_worker.add_job('light', payload => json_build_object('jobId', $1::text), job_key => $1, max_attempts => 100)`,
        [row?.id],
      )
      return row?.id ?? ''
    }
    const job = await queue(input)
    const failed = { state: 'failed', error: expect.stringContaining('goes on when it is back'), goesOnByItself: true }
    expect(await ennick.waitForJob(job)).toMatchObject(failed)
    // Another that somebody thought better of: it waits no more, and does not go on with the first.
    const called = await queue({ ...input, folder: 'A009 no more' })
    expect(await ennick.waitForJob(called)).toMatchObject(failed)
    const stop = () => ennick.call('cancelJob', { params: { jobId: called } })
    expect(await stop()).toMatchObject({ state: 'cancelled', goesOnByItself: false, error: null })
    await expect(stop()).rejects.toThrow('has already ended: there is nothing to stop.')
    await rename(`${other} out`, other)
    while ((await clip('A009C001.mov'))?.volumeLabel !== 'RAID')
      await new Promise((resolve) => setTimeout(resolve, 100))
    expect(await ennick.waitForJob(job)).toMatchObject({ state: 'done', error: null })
    expect((await ennick.call('readJob', { params: { jobId: called } })).state).toBe('cancelled')
    expect(await readdir(storage)).not.toContain('A009 no more')
  })

  test('a card pulled out in the middle of its scan: what was read is kept, and the rest is read when it is back', async () => {
    const card = join(ennick.media, 'A010')
    const picture = join(card, 'A010C001.mov')
    await makePicture(picture, { ...small, seed: 6, reel: 'A010' })
    // Each is content of its own, and none numbers on from another.
    for (const letter of 'ABCDEFGHIJKLMNOPQRSTUVWXYZ') {
      const path = join(card, letter, `${letter}.mov`)
      await mkdir(join(card, letter))
      await copyFile(picture, path)
      await appendFile(path, letter)
    }
    const { id } = await ennick.call('addVolume', {
      params: { productionId },
      body: { label: 'A010', kind: 'card', rootPath: card },
    })
    const job = await ennick.call('scanVolume', { params: { volumeId: id } })
    const progress = async () =>
      (await ennick.call('listJobs', { params: { productionId } })).find((each) => each.id === job.id)?.progress
        ?.done ?? 0
    while ((await progress()) === 0) await new Promise((resolve) => setTimeout(resolve, 20))
    await rename(card, `${card} out`)
    const stopped = await ennick.waitForJob(job.id)
    expect(stopped).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/left after \d+ of 27 files were read\. What was read is kept/),
    })
    await rename(`${card} out`, card)
    while ((await volume('A010'))?.clips !== 27) await new Promise((resolve) => setTimeout(resolve, 100))
    expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done', error: null })
  })

  test('a card pulled out in the middle of a copy leaves nothing unfinished, and goes on when it is back', async () => {
    const card = join(ennick.media, 'A011')
    await makePicture(join(card, 'A011C001.mov'), { ...small, seed: 7, reel: 'A011' })
    await truncateTo(join(card, 'long.bin'), 3_000_000_000)
    const cardId = await ennick.addVolume(productionId, 'A011', card, 'card')
    const job = await ennick.call('offloadVolume', {
      params: { volumeId: cardId },
      body: { destinationId: storageId, folder: 'A011', hash: 'md5' },
    })
    const target = join(storage, 'A011')
    while (!(await readdir(target).catch(() => [])).some((name) => name.startsWith('.long.bin')))
      await new Promise((resolve) => setTimeout(resolve, 5))
    await rename(card, `${card} out`)
    // Whoever reads on from a card that was pulled out comes to an end that is none.
    await truncate(join(`${card} out`, 'long.bin'), 0)
    expect(await ennick.waitForJob(job.id)).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/“A011” left after \d of 2 files/),
    })
    expect((await readdir(target)).filter((name) => name.endsWith('.ennick-part') || name === 'long.bin')).toEqual([])
    await rename(`${card} out`, card)
    while ((await clip('A011C001.mov'))?.volumeLabel !== 'RAID')
      await new Promise((resolve) => setTimeout(resolve, 100))
    expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done', error: null })
  })

  test('a file that changes while it is copied is refused, and the others go on', async () => {
    const card = join(ennick.media, 'A012')
    await makePicture(join(card, 'A012C001.mov'), { ...small, seed: 8, reel: 'A012' })
    await truncateTo(join(card, 'long.bin'), 3_000_000_000)
    const cardId = await ennick.addVolume(productionId, 'A012', card, 'card')
    const job = await ennick.call('offloadVolume', {
      params: { volumeId: cardId },
      body: { destinationId: storageId, folder: 'A012', hash: 'md5' },
    })
    const target = join(storage, 'A012')
    while (!(await readdir(target).catch(() => [])).some((name) => name.startsWith('.long.bin')))
      await new Promise((resolve) => setTimeout(resolve, 5))
    await truncate(join(card, 'long.bin'), 1000)
    const ended = await ennick.waitForJob(job.id)
    expect(ended).toMatchObject({ state: 'failed', summary: '1 file copied and read back · 1 not copied' })
    expect((await ennick.call('readJobDetails', { params: { jobId: job.id } })).lines[0]).toMatchObject({
      path: 'long.bin',
      detail: expect.stringContaining('changed while it was copied'),
    })
    // The journal stays until everything is copied, so that a retry goes on from there.
    expect((await readdir(target)).sort()).toEqual(['.ennick-offload.jsonl', 'A012C001.mov', 'ascmhl'])
    expect(await ennick.waitForJob((await ennick.call('retryJob', { params: { jobId: job.id } })).id)).toMatchObject({
      state: 'done',
      summary: '1 file copied and read back · 1 were there already',
    })
    expect((await readdir(target)).sort()).toEqual(['A012C001.mov', 'ascmhl', 'long.bin'])
  })
})

describe('a manifest', () => {
  const manifestOf = async () => (await volume('RAID'))?.manifests.find((each) => each.path.startsWith('A001/'))
  const verify = async () => {
    const job = await ennick.waitForJob(
      (await ennick.call('verifyManifest', { params: { manifestId: (await manifestOf())?.id ?? '' } })).id,
    )
    return { job, lines: (await ennick.call('readJobDetails', { params: { jobId: job.id } })).lines }
  }
  test('says that all is well, and what is missing, changed or extra', async () => {
    expect((await verify()).job.summary).toBe('All 3 files match')
    const path = join(storage, 'A001/CLIPS/A001C002.mov')
    const bytes = await readFile(path)
    const { atime, mtime } = await stat(path)
    bytes[100] = (bytes[100] as number) ^ 1
    await writeFile(path, bytes)
    await utimes(path, atime, mtime)
    await rm(join(storage, 'A001/report.txt'))
    await writeFile(join(storage, 'A001/new.txt'), 'x')
    const { job, lines } = await verify()
    expect(job.summary).toBe('1 file matches · 3 not')
    expect(lines.map((line) => [line.path, line.state]).sort()).toEqual([
      ['CLIPS/A001C002.mov', 'changed'],
      ['new.txt', 'extra'],
      ['report.txt', 'missing'],
    ])
  })
  test('that was cut off is told with its path', async () => {
    const path = join(storage, (await manifestOf())?.path ?? '')
    await writeFile(path, (await readFile(path, 'utf8')).slice(0, 300))
    const { job } = await verify()
    expect(job).toMatchObject({ state: 'failed', error: expect.stringContaining('no media hash list') })
    expect(job.error).toContain(path)
  })
  test('that came with a volume is found', async () => {
    const drive = join(ennick.media, 'from a friend')
    await mkdir(join(drive, 'B/ascmhl'), { recursive: true })
    await writeFile(join(drive, 'B/a.txt'), 'x')
    await writeFile(
      join(drive, 'B/ascmhl/0001_B_2026-11-04_180512Z.mhl'),
      '<hashlist version="2.0"><hashes><hash><path size="1">a.txt</path><md5>9dd4e461268c8034f5c8564e155c67a6</md5></hash></hashes></hashlist>',
    )
    const driveId = await ennick.addVolume(productionId, 'FRIEND', drive)
    const { manifests } = await ennick.call('findManifests', { params: { volumeId: driveId } })
    expect(manifests).toMatchObject([{ path: 'B/ascmhl/0001_B_2026-11-04_180512Z.mhl', files: 1 }])
    const job = await ennick.waitForJob(
      (await ennick.call('verifyManifest', { params: { manifestId: manifests[0]?.id ?? '' } })).id,
    )
    expect(job.summary).toBe('The one file matches')
  })
})
