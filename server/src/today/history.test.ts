import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  productionId = await ennick.addProduction('Long memory')
  await ennick.query('delete from history where production_id = $1', [productionId])
  await ennick.query(
    `insert into history (production_id, at, subject, what)
     select $1, '2026-03-01T08:00:00Z'::timestamptz + make_interval(mins => n),
       case when n % 2 = 0 then 'volume' else 'clip' end,
       case when n % 100 = 0 then 'Volume “Ærø_' || n || '%” was offloaded.' else 'Line ' || n || ', with a comma.' end
     from generate_series(1, 1200) n`,
    [productionId],
  )
  const other = await ennick.addProduction('Another')
  await ennick.query(`insert into history (production_id, subject, what) values ($1, 'clip', 'Line 7 of another.')`, [
    other,
  ])
})
afterAll(() => ennick.stop())

const lines = async (query: Record<string, string>) =>
  (await ennick.call('history', { params: { productionId }, query })).map(({ id, what }) => ({ id, what }))

test('the newest lines come first, and all of them bit by bit, each once', async () => {
  expect((await lines({})).map(({ what }) => what).slice(0, 2)).toEqual([
    'Volume “Ærø_1200%” was offloaded.',
    'Line 1199, with a comma.',
  ])
  const seen: string[] = []
  let page = await lines({ limit: '500' })
  while (page.length > 0) {
    seen.push(...page.map(({ what }) => what))
    page = await lines({ limit: '500', before: String(page.at(-1)?.id) })
  }
  expect(seen).toHaveLength(1200)
  expect(new Set(seen).size).toBe(1200)
  expect(seen.at(-1)).toBe('Line 1, with a comma.')
})

test.each([
  ['ærø', 12],
  // The Unicode form does not count either.
  ['Ærø_7'.normalize('NFD'), 1],
  ['offloaded volume', 12],
  ['offloaded line', 0],
  ['%', 12],
  ['_', 12],
  ['line 1199', 1],
])('lines with all of the words %j are %i', async (words, found) => {
  expect(await lines({ words, limit: '1000' })).toHaveLength(found)
})

test('it leaves as a table, oldest first, with the lines that are sought', async () => {
  const table = async (query: string) => {
    const response = await fetch(`${ennick.url}/api/productions/${productionId}/history.csv${query}`)
    expect(response.headers.get('content-type')).toMatch(/^text\/csv/)
    return (await response.text()).trimEnd().split('\r\n')
  }
  const all = await table('')
  expect(all).toHaveLength(1201)
  expect(all.slice(0, 2)).toEqual(['When,Of what,What', '2026-03-01T08:01:00.000Z,clip,"Line 1, with a comma."'])
  expect(await table('?words=1199')).toHaveLength(2)
  expect((await fetch(`${ennick.url}/api/productions/${crypto.randomUUID()}/history.csv`)).status).toBe(404)
})
