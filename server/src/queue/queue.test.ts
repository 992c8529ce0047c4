import { rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let volumeId: string
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  productionId = await ennick.addProduction('Queue')
  await makePicture(join(ennick.media, 'card/a.mov'), { frames: 5 })
  volumeId = (
    await ennick.call('addVolume', {
      params: { productionId },
      body: { label: 'card', kind: 'card', rootPath: join(ennick.media, 'card') },
    })
  ).id
})
afterAll(() => ennick.stop())

const scan = () => ennick.call('scanVolume', { params: { volumeId } })
const entries = () => ennick.query('select id from graphile_worker._private_jobs')

describe('without a worker', () => {
  test('a job waits, and asking for the same scan again is the same job', async () => {
    const job = await scan()
    expect(job.state).toBe('waiting')
    expect((await scan()).id).toBe(job.id)
    expect(await entries()).toHaveLength(1)
    expect((await ennick.call('listVolumes', { params: { productionId } }))[0]?.scanJobId).toBe(job.id)
    expect((await ennick.call('today', { params: { productionId } })).counts.make).toBe(1)
  })

  test('a waiting job is stopped at once; stopping it twice is refused; retried twice it is queued once', async () => {
    const job = await scan()
    expect((await ennick.call('cancelJob', { params: { jobId: job.id } })).state).toBe('cancelled')
    await expect(ennick.call('cancelJob', { params: { jobId: job.id } })).rejects.toMatchObject({
      status: 409,
      code: 'job-ended',
    })
    expect((await ennick.call('retryJob', { params: { jobId: job.id } })).state).toBe('waiting')
    await expect(ennick.call('retryJob', { params: { jobId: job.id } })).rejects.toMatchObject({
      status: 409,
      code: 'job-not-ended',
    })
    expect(await entries()).toHaveLength(1)
  })

  test('a job that is not there', async () => {
    await expect(
      ennick.call('readJob', { params: { jobId: '00000000-0000-4000-8000-000000000000' } }),
    ).rejects.toMatchObject({
      status: 404,
    })
  })
})

test('a job whose end cannot be written is not left running: it is tried again', async () => {
  await ennick.query('create sequence ends')
  await ennick.query(
    `create function fail_once() returns trigger language plpgsql as $$ begin
       if new.state = 'failed' and nextval('ends') = 1 then raise exception 'could not extend file' using errcode = '53100'; end if; return new; end $$`,
  )
  await ennick.query('create trigger fail_once before update on jobs for each row execute function fail_once()')
  await rename(join(ennick.media, 'card'), join(ennick.media, 'card out'))
  const job = await scan()
  const worker = await ennick.startWorker()
  expect(await ennick.waitForJob(job.id)).toMatchObject({
    state: 'failed',
    attempts: 2,
    error: expect.stringContaining('is away'),
  })
  await worker.stop()
  await ennick.query('drop trigger fail_once on jobs')
  await rename(join(ennick.media, 'card out'), join(ennick.media, 'card'))
})

test('the list of jobs carries no findings of searches, and newest ended ones first', async () => {
  await ennick.query(
    `insert into jobs (production_id, title, input, state, result, summary, ended_at)
     select $1, 'old ' || n, '{"kind":"search"}', 'done', '{"kind":"search","candidates":[1,2,3]}', 'found ' || n, now() - n * interval '1 minute' from generate_series(1, 3) n`,
    [productionId],
  )
  const list = await ennick.call('listJobs', { params: { productionId } })
  expect(list.map((job) => job.summary).slice(1)).toEqual(['found 1', 'found 2', 'found 3'])
  expect(JSON.stringify(list)).not.toContain('candidates')
  await ennick.query(
    `update jobs set checks = '[{"aspect":"reel","expected":"A","found":"A","agrees":true,"difference":null}]' where title = 'old 1'`,
  )
  const [, newest] = await ennick.call('listJobs', { params: { productionId } })
  expect(newest).toMatchObject({ title: 'old 1', checks: [], log: null, hasDetails: true })
  expect((await ennick.call('readJob', { params: { jobId: newest?.id ?? '' } })).checks).toHaveLength(1)
})

test('a job that ends, or is retried, while the list is read is in it once', async () => {
  let isOver = false
  const changing = (async () => {
    for (let turn = 0; !isOver; turn++)
      await ennick.query(`update jobs set state = $1 where title = 'old 2'`, [turn % 2 ? 'done' : 'running'])
    await ennick.query(`update jobs set state = 'done' where title = 'old 2'`)
  })()
  const counts = new Set<number>()
  for (let tries = 0; tries < 150; tries++) {
    const list = await ennick.call('listJobs', { params: { productionId } })
    counts.add(list.filter(({ title }) => title === 'old 2').length)
  }
  isOver = true
  await changing
  expect([...counts]).toEqual([1])
})

test('changes are told to whoever listens, by topic and production', async () => {
  const stop = new AbortController()
  const response = await fetch(`${ennick.url}/api/changes`, { signal: stop.signal })
  const heard: string[] = []
  const listening = (async () => {
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>)
      heard.push(Buffer.from(chunk).toString())
  })().catch(() => undefined)
  await ennick.call('setPathMappings', { params: { productionId }, body: { mappings: [{ from: 'P:/', to: '/x' }] } })
  while (!heard.join('').includes('"topic":"cuts"')) await new Promise((resolve) => setTimeout(resolve, 20))
  expect(heard.join('')).toContain(`{"topic":"productions","productionId":"${productionId}"}`)
  stop.abort()
  await listening
})

describe('the order of what waits', () => {
  let clipIds: string[]
  beforeAll(async () => {
    for (const name of ['one', 'two', 'three', 'four'])
      await makePicture(join(ennick.media, `drive/${name}.mov`), {
        frames: 5,
        seed: name.length,
        timecode: `1${name.length}:00:00:00`,
      })
    const { id } = await ennick.call('addVolume', {
      params: { productionId },
      body: { label: 'drive', kind: 'drive', rootPath: join(ennick.media, 'drive') },
    })
    const worker = await ennick.startWorker()
    await ennick.waitForJob((await ennick.call('scanVolume', { params: { volumeId: id } })).id)
    await worker.stop()
    const clips = await ennick.clips(productionId)
    clipIds = ['one', 'two', 'three', 'four'].map((name) => clips.find((clip) => clip.name === `${name}.mov`)?.id ?? '')
  })

  const waiting = async () =>
    (await ennick.call('listJobs', { params: { productionId } })).filter(
      (job) => job.kind === 'make' && job.state === 'waiting',
    )
  const titles = async () => (await waiting()).map((job) => job.title.split(' ')[0])
  const idOf = async (name: string) => (await waiting()).find((job) => job.title.startsWith(name))?.id ?? ''
  const queued = async () =>
    (
      await ennick.query<{ title: string }>(
        `select jobs.title from graphile_worker._private_jobs as entry join jobs on jobs.id::text = entry.key where jobs.input->>'kind' = 'make' order by entry.priority, entry.run_at, entry.id`,
      )
    ).map((row) => row.title.split(' ')[0])
  const hold = (jobIds: string[], isHeld: boolean) =>
    ennick.call('holdJobs', { params: { productionId }, body: { jobIds, isHeld } })
  const move = (jobIds: string[], before: string | null) =>
    ennick.call('moveJobs', { params: { productionId }, body: { jobIds, before } })

  test('jobs are moved before others and to the end, and workers take them so', async () => {
    await ennick.call('make', {
      params: { productionId },
      body: { clipIds, recipeId: 'half-h264-intra', holdsAtFailure: true },
    })
    expect(await titles()).toEqual(['one', 'two', 'three', 'four'])
    // What was planned together has one time: only places of their own keep the order.
    const places = await ennick.query<{ place: number }>(
      `select distinct place from jobs where input->>'kind' = 'make'`,
    )
    expect(places).toHaveLength(4)
    await move([await idOf('three'), await idOf('four')], await idOf('one'))
    expect(await titles()).toEqual(['three', 'four', 'one', 'two'])
    await move([await idOf('three')], null)
    expect(await titles()).toEqual(['four', 'one', 'two', 'three'])
    expect(await queued()).toEqual(['four', 'one', 'two', 'three'])
  })

  test('places grow without end, and moving overtakes no other production', async () => {
    await ennick.query(`select setval('jobs_place_seq', 5000000000)`)
    const other = await ennick.addProduction('Beside')
    const scanOther = await ennick.call('check', { params: { productionId: other } })
    const places = async () =>
      Object.fromEntries(
        (await ennick.query<{ id: string; place: string }>('select id, place from jobs')).map((row) => [
          row.id,
          Number(row.place),
        ]),
      )
    expect((await places())[scanOther.id]).toBe(5_000_000_001)
    const before = await places()
    await move([await idOf('two')], await idOf('four'))
    const after = await places()
    expect(await titles()).toEqual(['two', 'four', 'one', 'three'])
    expect(await queued()).toEqual(['two', 'four', 'one', 'three'])
    expect(Object.values(after).sort()).toEqual(Object.values(before).sort())
    expect(after[scanOther.id]).toBe(before[scanOther.id])
    await move([await idOf('two')], await idOf('three'))
    await move([await idOf('two')], null)
    await move([await idOf('two')], await idOf('three'))
    await ennick.call('cancelJob', { params: { jobId: scanOther.id } })
  })

  test('a held job is given to nobody until it goes on, in its place', async () => {
    await hold([await idOf('one')], true)
    expect((await waiting()).find((job) => job.title.startsWith('one'))?.isHeld).toBe(true)
    expect(await queued()).toEqual(['four', 'two', 'three'])
    await move([await idOf('one')], await idOf('four'))
    expect(await queued()).toEqual(['four', 'two', 'three'])
    await hold([await idOf('one')], false)
    expect(await queued()).toEqual(['one', 'four', 'two', 'three'])
  })

  test('when one of a batch fails the rest is held; a retry lets that one go on', async () => {
    await rm(join(ennick.media, 'drive/one.mov'))
    const first = await idOf('one')
    const worker = await ennick.startWorker()
    expect((await ennick.waitForJob(first)).state).toBe('failed')
    while ((await waiting()).some((job) => !job.isHeld)) await new Promise((resolve) => setTimeout(resolve, 20))
    const history = await ennick.call('history', { params: { productionId } })
    expect(history.map((line) => line.what).join('\n')).toMatch(/“one → Half size, H.264 intra” failed: .* held\./)
    const rest = await waiting()
    await hold(
      rest.map((job) => job.id),
      false,
    )
    for (const job of rest) expect((await ennick.waitForJob(job.id)).state).toBe('done')
    await worker.stop()
  })
})
