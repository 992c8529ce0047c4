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
    await expect(ennick.call('cancelJob', { params: { jobId: job.id } })).rejects.toMatchObject({ status: 409, code: 'job-ended' })
    expect((await ennick.call('retryJob', { params: { jobId: job.id } })).state).toBe('waiting')
    await expect(ennick.call('retryJob', { params: { jobId: job.id } })).rejects.toMatchObject({ status: 409, code: 'job-not-ended' })
    expect(await entries()).toHaveLength(1)
  })

  test('a job that is not there', async () => {
    await expect(ennick.call('readJob', { params: { jobId: '00000000-0000-4000-8000-000000000000' } })).rejects.toMatchObject({
      status: 404,
    })
  })
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
})

test('changes are told to whoever listens, by topic and production', async () => {
  const stop = new AbortController()
  const response = await fetch(`${ennick.url}/api/changes`, { signal: stop.signal })
  const heard: string[] = []
  const listening = (async () => {
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) heard.push(Buffer.from(chunk).toString())
  })().catch(() => undefined)
  await ennick.call('setPathMappings', { params: { productionId }, body: { mappings: [{ from: 'P:/', to: '/x' }] } })
  while (!heard.join('').includes('"topic":"cuts"')) await new Promise((resolve) => setTimeout(resolve, 20))
  expect(heard.join('')).toContain(`{"topic":"productions","productionId":"${productionId}"}`)
  stop.abort()
  await listening
})
