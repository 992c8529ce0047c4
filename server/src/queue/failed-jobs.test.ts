import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'

let ennick: Harness
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
})
afterAll(() => ennick.stop())

test('what failed is told until it was done after all or dismissed, however much has ended since', async () => {
  const night = await ennick.addProduction('A long night')
  const params = { productionId: night }
  const insert = async (title: string, input: object, state: string, hoursAgo: number) => {
    const [row] = await ennick.query<{ id: string }>(
      `insert into jobs (production_id, title, input, state, error, ended_at)
       values ($1, $2, $3, $4, case $4 when 'failed' then 'It could not be read.' end,
         now() - make_interval(hours => $5))
       returning id`,
      [night, title, JSON.stringify(input), state, hoursAgo],
    )
    return row?.id ?? ''
  }
  const make = (clipId: string, batch: string) => ({
    ...{ kind: 'make', recipeId: 'half', clipId, batch: { id: batch }, index: 3, plannedBytes: 100 },
  })
  const lost = await insert('C0001 → Half', make('a', 'one'), 'failed', 9)
  // Another clip of the same name was made; and this one in another batch, and only before it failed.
  await insert('C0001 → Half', make('b', 'one'), 'done', 8)
  await insert('C0001 → Half', make('a', 'none'), 'done', 10)
  await insert('C0002 → Half', make('c', 'one'), 'failed', 9)
  await insert('C0002 → Half', { ...make('c', 'two'), index: 7, plannedBytes: 120 }, 'done', 8)
  for (let more = 0; more < 320; more++) await insert(`C1${more} → Half`, make(`${more}`, 'one'), 'done', 1)
  const failed = async () =>
    (await ennick.call('listJobs', { params })).filter(({ state }) => state === 'failed').map(({ id }) => id)
  expect(await failed()).toEqual([lost])
  const dismiss = () => ennick.call('dismissJob', { params: { jobId: lost } })
  expect(await dismiss()).toMatchObject({ state: 'cancelled', error: 'It could not be read.' })
  expect(await failed()).toEqual([])
  await expect(dismiss()).rejects.toMatchObject({ status: 409, code: 'job-not-failed' })
})
