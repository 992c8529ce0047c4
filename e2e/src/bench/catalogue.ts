import { execFile } from 'node:child_process'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import pg from 'pg'
import type { Ennick } from '../ennick.ts'
import { project, type Result, say, secondsOf } from './measure.ts'

const clips = 50_000
const turns = 30

const natural = 'collate "ennick_natural"'

/** What is asked of the table: a search that an index answers, one that reads every row, and words in the filter. */
const questions = [
  {
    what: 'no proxy, reel begins B0, by start',
    ask: {
      condition: {
        all: [
          { field: 'proxy', operator: 'is', value: 'no proxy' },
          { field: 'reel', operator: 'begins', value: 'B0' },
        ],
      },
      sort: [{ field: 'start', descending: false }],
    },
    where: `proxy = 'no proxy' and lower(reel) like 'b0%'`,
    orderBy: `start ${natural}, name ${natural}`,
  },
  {
    what: 'scene matches ^7, size more than 50 MB, by scene and size',
    ask: {
      condition: {
        all: [
          { field: 'scene', operator: 'matches', value: '^7' },
          { field: 'size', operator: 'more', value: '50000000' },
        ],
      },
      sort: [
        { field: 'scene', descending: false },
        { field: 'size', descending: true },
      ],
    },
    where: `described->>'scene' ~* '^7' and size > 50000000`,
    orderBy: `described->>'scene' ${natural}, size desc, name ${natural}`,
  },
  {
    what: 'words “day 12 77”, by reel',
    ask: { words: 'day 12 77', sort: [{ field: 'reel', descending: false }] },
    where: `position('day' in words) > 0 and position('12' in words) > 0 and position('77' in words) > 0`,
    orderBy: `reel ${natural}, name ${natural}`,
  },
]

/** The first page of a filtered and sorted table of 50,000 clips. */
export async function benchPage(ennick: Ennick): Promise<Result[]> {
  say(`A page out of ${clips} clips`)
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['--import', 'tsx', 'server/src/testing/many-clips.ts', String(clips), `Page ${Math.random()}`],
    { cwd: project, env: { ...process.env, ENNICK_DATA: ennick.dataFolder } },
  )
  const productionId = stdout.trim()
  const client = new pg.Client({ connectionString: await readFile(join(ennick.dataFolder, 'database-url'), 'utf8') })
  await client.connect()
  const best = { page: 0, bare: 0, empty: Number.POSITIVE_INFINITY }
  for (const { what, ask, where, orderBy } of questions) {
    const page = () => ennick.call('POST', `/productions/${productionId}/clips/search`, { ...ask, limit: 100 })
    const bare = () =>
      client.query(
        `select * from clip_index where production_id = $1 and ${where} order by ${orderBy}, clip_id limit 101`,
        [productionId],
      )
    const quickest = { page: Number.POSITIVE_INFINITY, bare: Number.POSITIVE_INFINITY }
    await page()
    for (let turn = 0; turn < turns; turn++) {
      quickest.page = Math.min(quickest.page, await secondsOf(page))
      quickest.bare = Math.min(quickest.bare, await secondsOf(bare))
      best.empty = Math.min(best.empty, await secondsOf(() => ennick.call('GET', '/health')))
    }
    say(`  ${what}: page ${milliseconds(quickest.page)}, bare SQL ${milliseconds(quickest.bare)} at best`)
    best.page += quickest.page / questions.length
    best.bare += quickest.bare / questions.length
  }
  await client.end()
  say(`  an empty request: ${milliseconds(best.empty)} at best`)
  return [
    {
      id: 'page',
      what: `Filter, sort and the first page of ${clips} clips through the API, against the bare SQL; mean of ${questions.length} questions`,
      ratio: best.page / best.bare,
      limit: 1.5,
    },
    {
      id: 'page-extra',
      what: 'The same above an empty request, against 25 ms',
      ratio: (best.page - best.empty) / 0.025,
      limit: 1,
    },
  ]
}

const milliseconds = (seconds: number): string => `${(seconds * 1000).toFixed(1)} ms`
