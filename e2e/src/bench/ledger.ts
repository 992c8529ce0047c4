import { execFile } from 'node:child_process'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import pg from 'pg'
import type { Ennick } from '../ennick.ts'
import { project, type Result, say, secondsOf } from './measure.ts'

const clips = 100_000
const events = 5000
const proxies = 10_000
const turns = 10

/** A production of very many clips: its ledger, a long cut in it, and many proxies by another hand. */
export async function benchLedger(ennick: Ennick): Promise<Result[]> {
  say(`A ledger of ${clips} pairs, and a cut of ${events} events`)
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['--import', 'tsx', 'server/src/testing/many-clips.ts', String(clips), `Ledger ${Math.random()}`],
    { cwd: project, env: { ...process.env, ENNICK_DATA: ennick.dataFolder } },
  )
  const productionId = stdout.trim()
  const client = new pg.Client({ connectionString: await readFile(join(ennick.dataFolder, 'database-url'), 'utf8') })
  await client.connect()
  try {
    await addPairs(client, productionId)
    const page = await benchLedgerPage(ennick, client, productionId)
    const cut = await benchCutOpen(ennick, client, productionId)
    return [page, ...cut, await benchAdopt(ennick, client, productionId)]
  } finally {
    await client.end()
  }
}

/** A proxy of every clip, made by another hand. */
async function addPairs(client: pg.Client, productionId: string): Promise<void> {
  await client.query(
    `with original as (
       select clip.id as clip_id, clip.name, file.*, gen_random_uuid() as pair_id, gen_random_uuid() as made_id
       from clips clip join clip_files part on part.clip_id = clip.id join files file on file.id = part.file_id
       where clip.production_id = $1),
     made as (insert into files (id, volume_id, path, size_bytes, mtime_micros, fingerprint, facts)
       select made_id, volume_id, 'proxies/' || name || '_proxy.mov', size_bytes / 9, mtime_micros, fingerprint || 'p', facts
       from original),
     pair as (insert into pairs (id, clip_id, name, kind, origin, original_fingerprints, made_fingerprints, is_compared)
       select pair_id, clip_id, name || '_proxy.mov', 'proxy', 'adopted', jsonb_build_array(fingerprint),
         jsonb_build_array(fingerprint || 'p'), true from original)
     insert into pair_files (pair_id, ordinal, file_id, part) select pair_id, 0, made_id, 'whole' from original`,
    [productionId],
  )
  // The last of these statements saw none of the rows before it: they are there now.
  await client.query('analyze files; analyze pairs; analyze pair_files')
}

async function benchLedgerPage(ennick: Ennick, client: pg.Client, productionId: string): Promise<Result> {
  const page = () =>
    ennick.call('POST', `/productions/${productionId}/pairs/search`, { words: 'c00 12', sort: 'reel', limit: 100 })
  const bare = () =>
    client.query(
      `select clip.name, clip.reel, pair.*, file.facts from clips clip join pairs pair on pair.clip_id = clip.id
       join pair_files part on part.pair_id = pair.id join files file on file.id = part.file_id
       where clip.production_id = $1 and pair.is_active and position('c00' in lower(pair.name)) > 0
         and position('12' in lower(pair.name)) > 0
       order by clip.reel, clip.name limit 100`,
      [productionId],
    )
  await quiet(ennick, productionId)
  const first = await secondsOf(page)
  const quickest = { page: Number.POSITIVE_INFINITY, bare: Number.POSITIVE_INFINITY }
  for (let turn = 0; turn < turns; turn++) {
    quickest.page = Math.min(quickest.page, await secondsOf(page))
    quickest.bare = Math.min(quickest.bare, await secondsOf(bare))
  }
  say(`  page ${ms(quickest.page)}, bare SQL ${ms(quickest.bare)} at best; the first after a change ${ms(first)}`)
  return {
    id: 'ledger-page',
    what: `A page of ${clips} pairs, searched and sorted, against the bare SQL; nothing has changed since the last`,
    ratio: quickest.page / quickest.bare,
    limit: 1.5,
  }
}

async function benchCutOpen(ennick: Ennick, client: pg.Client, productionId: string): Promise<Result[]> {
  const { rows } = await client.query<{ name: string; reel: string; start: number }>(
    `select clip.name, clip.reel, (file.facts->>'startFrame')::int as start from clips clip
     join clip_files part on part.clip_id = clip.id join files file on file.id = part.file_id
     where clip.production_id = $1 order by clip.name limit $2`,
    [productionId, events],
  )
  const label = (frame: number): string =>
    [frame / 90_000, (frame / 1500) % 60, (frame / 25) % 60, frame % 25]
      .map((part) => String(Math.floor(part)).padStart(2, '0'))
      .join(':')
  const lines = rows.map(({ name, reel, start }, index) => {
    const times = [start + 10, start + 60, index * 50, index * 50 + 50].map(label).join(' ')
    return `${String(index + 1).padStart(6, '0')}  ${reel} V C ${times}\n* FROM CLIP NAME: ${name}.mov\n`
  })
  const cut = await ennick.call('POST', `/productions/${productionId}/cuts`, {
    fileName: 'long.edl',
    text: `TITLE: Long\n${lines.join('')}`,
  })
  await quiet(ennick, productionId)
  const open = () => ennick.call('GET', `/cuts/${cut.id}`)
  const readRows = () => client.query('select * from events where cut_id = $1 order by position', [cut.id])
  const touch = () =>
    client.query('update clips set name = name where id = (select id from clips where production_id = $1 limit 1)', [
      productionId,
    ])
  const [cold, warm, bare] = [[], [], []] as [number[], number[], number[]]
  for (let turn = 0; turn < 3; turn++) {
    await touch()
    cold.push(await secondsOf(open))
    warm.push(await secondsOf(open))
    bare.push(await secondsOf(readRows))
  }
  const best = (list: readonly number[]): number => Math.min(...list)
  say(`  a cut opened ${ms(best(warm))}, after a change ${ms(best(cold))}, its rows read ${ms(best(bare))}`)
  return [
    {
      id: 'cut-open',
      what: `A cut of ${events} events against ${clips} clips: its landing and findings, over reading its rows, against 1 second`,
      ratio: best(warm) - best(bare),
      limit: 1,
    },
    {
      id: 'cut-open-changed',
      what: 'The same when something of the production has changed since, and is read anew, against 20 seconds',
      ratio: best(cold) / 20,
      limit: 1,
    },
  ]
}

async function benchAdopt(ennick: Ennick, client: pg.Client, productionId: string): Promise<Result> {
  await client.query(
    `with waiting as (
       select pair.id as pair_id, part.file_id from pairs pair join clips clip on clip.id = pair.clip_id
       join pair_files part on part.pair_id = pair.id where clip.production_id = $1 order by clip.name limit $2),
     untied as (delete from pairs where id in (select pair_id from waiting))
     insert into camera_proxies (file_id, production_id) select file_id, $1 from waiting`,
    [productionId, proxies],
  )
  let fits = 0
  const seconds = await secondsOf(async () => {
    const offers: { outcome: string }[] = await ennick.call('GET', `/productions/${productionId}/offers`)
    fits = offers.filter(({ outcome }) => outcome === 'fits').length
  })
  say(`  ${fits} of ${proxies} proxies found their originals among ${clips} in ${seconds.toFixed(1)} s`)
  return {
    id: 'adopt',
    what: `${proxies} proxies by another hand against ${clips} originals, by facts, database and all, against 10 seconds`,
    ratio: fits === proxies ? seconds / 10 : Number.POSITIVE_INFINITY,
    limit: 1,
  }
}

/** Lets the index of clips, which follows every change by itself, come up to date: it is not what is measured. */
const quiet = (ennick: Ennick, productionId: string): Promise<unknown> =>
  ennick.call('POST', `/productions/${productionId}/clips/search`, { limit: 1 })

const ms = (seconds: number): string => `${(seconds * 1000).toFixed(0)} ms`
