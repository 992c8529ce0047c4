import { createWriteStream } from 'node:fs'
import { mkdir, mkdtemp, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import pg from 'pg'
import { fromBufferPromise } from 'yauzl'
import { ZipFile } from 'yazl'
import { withHeld } from '../disk/held-folder.ts'
import { connect } from '../store/database.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { bringBackLedger, copyBeforeMigrating } from './bring-back.ts'
import { copyName, tablesQuery } from './copy-format.ts'
import { LedgerKeeper, ledgerCopyFolder } from './keep-copies.ts'
import { migrationsUntil } from './migrations-until.ts'
import { writeLedgerCopy } from './write-copy.ts'

let ennick: Harness
let productionId: string
let shelf: string
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  const worker = await ennick.startWorker()
  productionId = await ennick.addProduction('Low Water')
  shelf = join(ennick.media, 'copies')
  await mkdir(shelf)
  await makePicture(join(ennick.media, 'card/A001C001.mov'), { frames: 10, size: '64x36' })
  await ennick.addVolume(productionId, 'A001', join(ennick.media, 'card'), 'card')
  await worker.stop()
  // What the worker would take at once if it were there, as it was when the copy was made. The volume that is waited
  // for never comes: the server would have it tried again by itself.
  await ennick.query(
    `insert into jobs (production_id, title, input, state, is_held, attempts, waits_for_volume)
     select $1, 'Scan', '{"kind":"scan","volumeId":""}', state, false, 1, gen_random_uuid()
     from unnest(array['running', 'failed']) as state`,
    [productionId],
  )
  await ennick.query(
    `insert into placements (volume_id, act, by, kind, from_path, to_path, device, inode, size_bytes, mtime_micros,
       fingerprint, state)
     select id, gen_random_uuid(), 'job', line.kind, 'a', 'b', '1', '2', 3, 4, 'f', line.state
     from volumes, (values ('new', 'open'), ('discarded', 'done'), ('moved', 'done')) as line (kind, state)
     where volumes.kind <> 'made'`,
  )
})
afterAll(() => ennick.stop())

/** A database of its own beside the harness's, with nothing in it. */
async function emptyDatabase(): Promise<string> {
  const url = new URL(ennick.config.databaseUrl)
  const name = `ledger_${Math.random().toString(36).slice(2)}`
  await ennick.query(`create database ${name}`)
  url.pathname = `/${name}`
  return url.href
}

async function ask<T extends pg.QueryResultRow>(url: string, text: string): Promise<T[]> {
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  return client
    .query<T>(text)
    .then(({ rows }) => rows)
    .finally(() => client.end())
}

/** Every row of every table, as text. */
async function rowsOf(url: string): Promise<Map<string, string[]>> {
  const rows = new Map<string, string[]>()
  for (const { name, columns } of await ask<{ name: string; columns: string[] }>(url, tablesQuery)) {
    const list = columns.map((column) => `"${column}"::text`).join(', ')
    const all = await ask<{ row: string }>(url, `select row(${list})::text as row from "${name}"`)
    rows.set(name, all.map(({ row }) => row).sort())
  }
  return rows
}

async function copyOf(url: string, madeAt?: Date): Promise<string> {
  const connection = connect(url, { maximum: 2 })
  try {
    return join(shelf, await withHeld(shelf, (folder) => writeLedgerCopy(connection.pool, folder, { madeAt })))
  } finally {
    await connection.close()
  }
}

describe('a copy of the ledger', () => {
  test('brings back every row of every table, counts on behind them, and lets nothing go on by itself', async () => {
    const path = await copyOf(ennick.config.databaseUrl)
    const url = await emptyDatabase()
    const { description, before } = await bringBackLedger(url, path, shelf)
    expect([description.productions, before]).toEqual([['Low Water'], null])
    const [was, is] = await Promise.all([rowsOf(ennick.config.databaseUrl), rowsOf(url)])
    expect([...is.keys()]).toEqual([...was.keys()])
    // What is worked out of the others is worked out anew.
    const settled = new Set(['jobs', 'placements', 'workers', 'history', 'clip_index', 'clip_staleness'])
    for (const [name, rows] of was) if (!settled.has(name)) expect([name, is.get(name)]).toEqual([name, rows])
    expect(was.get('files')).toHaveLength(1)
    expect(await ask(url, 'select state, waits_for_volume from jobs order by created_at, state')).toEqual(
      ['done', 'cancelled', 'failed'].map((state) => ({ state, waits_for_volume: null })),
    )
    expect(await ask(url, 'select kind, state from placements order by id')).toEqual([
      { kind: 'new', state: 'reversed' },
      { kind: 'discarded', state: 'removed' },
      { kind: 'moved', state: 'done' },
    ])
    // The line that tells of it is the newest, behind those that were brought.
    const [line] = await ask<{ what: string }>(url, 'select what from history order by id desc limit 1')
    expect(line?.what).toMatch(/^The ledger was brought back as it was at \d{4}-\d\d-\d\d \d\d:\d\d UTC\.$/)
    expect(is.get('history')).toHaveLength((was.get('history')?.length ?? 0) + 1)
  })

  test('takes the place of another ledger, of which a copy is kept', async () => {
    const path = await copyOf(ennick.config.databaseUrl, new Date('2026-11-04T03:00:00Z'))
    const url = await emptyDatabase()
    await bringBackLedger(url, path, shelf)
    await ask(url, `update productions set name = 'High Water'`)
    const { before } = await bringBackLedger(url, path, shelf)
    expect(await ask(url, 'select name from productions')).toEqual([{ name: 'Low Water' }])
    const kept = await bringBackLedger(url, join(shelf, before ?? ''), shelf)
    expect(kept.description.productions).toEqual(['High Water'])
    expect(await ask(url, 'select name from productions')).toEqual([{ name: 'High Water' }])
    // Nothing is left of the databases in between.
    const name = new URL(url).pathname.slice(1)
    expect(await ask(url, `select datname from pg_database where datname like '${name}%'`)).toEqual([{ datname: name }])
  })

  test('of an older version is brought up to date, and one of a newer is refused', async () => {
    const seen = (
      await ask<{ at: string }>(
        ennick.config.databaseUrl,
        'select created_at as at from drizzle.__drizzle_migrations order by created_at',
      )
    ).map(({ at }) => Number(at))
    const url = await emptyDatabase()
    for (const versions of [1, 5, seen.length - 1]) {
      const folder = await mkdtemp(join(tmpdir(), 'ennick-'))
      await migrationsUntil(seen.slice(0, versions), folder)
      const old = await emptyDatabase()
      const connection = connect(old, { maximum: 2 })
      await migrate(connection.database, { migrationsFolder: folder }).finally(() => connection.close())
      await rm(folder, { recursive: true })
      await ask(
        old,
        `insert into productions (name, rate_numerator, rate_denominator, width, height, proxy_suffixes)
         values ('Old ${versions}', 25, 1, 640, 360, '[]')`,
      )
      const kept = await copyBeforeMigrating(old, shelf)
      const { description } = await bringBackLedger(url, join(shelf, kept ?? ''), shelf)
      expect([description.productions, description.migrations]).toEqual([[`Old ${versions}`], seen.slice(0, versions)])
      expect(await ask(url, 'select name from productions')).toEqual([{ name: `Old ${versions}` }])
      expect(await ask(url, 'select count(*)::int as count from drizzle.__drizzle_migrations')).toEqual([
        { count: seen.length },
      ])
    }
    expect(await copyBeforeMigrating(url, shelf)).toBeNull()
    await ask(url, `insert into drizzle.__drizzle_migrations (hash, created_at) values ('x', ${Date.now() * 2})`)
    await expect(bringBackLedger(await emptyDatabase(), await copyOf(url), shelf)).rejects.toThrow(/newer version/)
  })

  /** The same copy with something of it changed. */
  async function changed(path: string, change: (name: string, text: string) => string | null): Promise<string> {
    const zip = new ZipFile()
    const source = await fromBufferPromise(await readFile(path), { autoClose: false })
    for await (const entry of source.eachEntry()) {
      const chunks: Buffer[] = []
      for await (const chunk of await source.openReadStreamPromise(entry)) chunks.push(chunk)
      const text = change(entry.fileName, Buffer.concat(chunks).toString('utf8'))
      if (text !== null) zip.addBuffer(Buffer.from(text), entry.fileName)
    }
    zip.end()
    const other = join(shelf, `${Math.random().toString(36).slice(2)}.zip`)
    await pipeline(zip.outputStream, createWriteStream(other))
    return other
  }

  test('that is cut off, was changed, or asks for anything but rows, is refused, and the ledger stays', async () => {
    const path = await copyOf(ennick.config.databaseUrl, new Date('2026-11-05T03:00:00Z'))
    const url = await emptyDatabase()
    await bringBackLedger(url, path, shelf)
    await ask(url, `update productions set name = 'Mine'`)
    const bytes = await readFile(path)
    const half = join(shelf, 'half.zip')
    await writeFile(half, bytes.subarray(0, bytes.length / 2))
    const text = join(shelf, 'text.zip')
    await writeFile(text, 'no copy')
    const description = (edit: (said: { tables: { name: string; columns: string[]; rows: number }[] }) => void) =>
      changed(path, (name, content) => {
        if (name !== 'ledger.json') return content
        const said = JSON.parse(content)
        edit(said)
        return JSON.stringify(said)
      })
    const tableNamed = (tables: { name: string; columns: string[]; rows: number }[], name: string) =>
      tables.find((table) => table.name === name) as { name: string; columns: string[]; rows: number }
    for (const [file, reason] of [
      [half, /no copy of a ledger, or not all of one/],
      [text, /no copy of a ledger/],
      [join(shelf, 'nothing.zip'), /not there|no such|does not exist/i],
      [
        await changed(path, (name, content) => (name === 'tables/files.csv' ? null : content)),
        /table files is not in it/,
      ],
      [
        await changed(path, (name, content) =>
          name === 'tables/productions.csv' ? content.replace('Low', 'Lie') : content,
        ),
        /table productions is not what was written/,
      ],
      [await description(({ tables }) => tables.pop()), /is not in it/],
      [
        await description(({ tables }) =>
          tableNamed(tables, 'files').columns.push('x" from stdin; drop table files; --'),
        ),
        /other columns/,
      ],
      [await description(({ tables }) => tables.push({ ...tableNamed(tables, 'files') })), /other columns/],
      [
        await description(({ tables }) => {
          tableNamed(tables, 'productions').rows = 7
        }),
        /1 rows of 7/,
      ],
    ] as const)
      await expect(bringBackLedger(url, file, shelf)).rejects.toThrow(reason)
    expect(await ask(url, 'select name from productions')).toEqual([{ name: 'Mine' }])
  })
})

describe('copies that Ennick keeps', () => {
  const listed = () => ennick.call('listLedgerCopies')
  const copied = async () => {
    await ennick.call('copyLedger')
    while ((await listed()).isCopying) await new Promise((resolve) => setTimeout(resolve, 50))
    return listed()
  }
  const own = () => ledgerCopyFolder(ennick.config.dataFolder)

  test('one is made when it is wanted, and can be taken; nothing else can', async () => {
    const { copies, problem, folder } = await copied()
    expect([problem, folder, copies.length]).toEqual([null, own(), 1])
    const { name = '', bytes } = copies[0] ?? {}
    const answer = await fetch(`${ennick.url}/api/ledger/copies/${name}`)
    expect(answer.headers.get('content-disposition')).toBe(`attachment; filename=${name}`)
    expect((await answer.arrayBuffer()).byteLength).toBe(bytes)
    for (const other of ['elsewhere.json', '..%2Fsettings.json', copyName(new Date('2020-01-01T00:00:00Z'))])
      expect((await fetch(`${ennick.url}/api/ledger/copies/${other}`)).status).toBe(404)
  })

  test('each comes to a second place, where it is there; what is spare goes, and nothing of anybody else', async () => {
    const disk = join(ennick.media, 'disk')
    await mkdir(disk)
    await expect(ennick.call('keepLedgerElsewhere', { body: { folder: '/etc' } })).rejects.toThrow(
      /outside the folders/,
    )
    await ennick.call('keepLedgerElsewhere', { body: { folder: disk } })
    const place = (await listed()).elsewhere?.folder ?? ''
    expect((await listed()).elsewhere).toMatchObject({ isHere: true, isOnOneDisk: true })
    while ((await readdir(place)).length < 1) await new Promise((resolve) => setTimeout(resolve, 50))
    expect((await copied()).copies.map(({ isHere, isElsewhere }) => [isHere, isElsewhere])[0]).toEqual([true, true])

    // Its disk is taken out: an empty folder at its place is not written into.
    await rename(disk, `${disk}.out`)
    await mkdir(disk)
    const while_ = await copied()
    expect([while_.problem, while_.elsewhere?.isHere, while_.copies[0]?.isElsewhere]).toEqual([null, false, false])
    expect(await readdir(disk)).toEqual([])
    await rm(disk, { recursive: true })
    await rename(`${disk}.out`, disk)

    // Of very many copies the old ones go; a file that is only called so stays.
    const newest = (await listed()).copies[0]?.name ?? ''
    const old = Array.from({ length: 20 }, (_, day) => copyName(new Date(Date.UTC(2026, 4, 1 + day))))
    for (const name of old) await writeFile(join(own(), name), await readFile(join(own(), newest)))
    await writeFile(join(own(), old[3] as string), 'somebody’s own')
    await writeFile(join(own(), 'notes.zip'), 'somebody’s own')
    await copied()
    const left = await readdir(own())
    expect(left.filter((name) => old.includes(name)).length).toBeLessThan(15)
    expect(left).toEqual(expect.arrayContaining(['notes.zip', old[3], old[19]]))
    expect((await listed()).copies[0]).toMatchObject({ isHere: true, isElsewhere: true })
    await ennick.call('keepLedgerElsewhere', { body: { folder: null } })
    expect((await listed()).elsewhere).toBeNull()
    expect((await readdir(place)).length).toBeGreaterThan(1)
  })

  test('one is made by itself when the last is a day old and something was done since', async () => {
    const dataFolder = join(ennick.media, 'other data')
    const connection = connect(ennick.config.databaseUrl, { maximum: 2 })
    const allowed = { all: true }
    const keeper = new LedgerKeeper(connection, dataFolder, async () => allowed.all)
    const names = async () => (await keeper.present()).copies.map(({ name }) => name)
    await keeper.lookOnce()
    const [first = ''] = await names()
    await keeper.lookOnce()
    expect(await names()).toEqual([first])
    const older = async (from: string, days: number) => {
      const old = copyName(new Date(Date.now() - days * 86_400_000))
      await rename(join(ledgerCopyFolder(dataFolder), from), join(ledgerCopyFolder(dataFolder), old))
      return old
    }
    const old = await older(first, 2)
    await keeper.lookOnce()
    expect((await names()).length).toBe(2)
    expect(await names()).toContain(old)
    // A second place in a folder that may be used no more is not used.
    const disk = join(ennick.media, 'another disk')
    await mkdir(disk)
    allowed.all = false
    await keeper.keepElsewhere(disk)
    await keeper.lookOnce()
    const { elsewhere, copies } = await keeper.present()
    expect([elsewhere?.isHere, await readdir(elsewhere?.folder ?? '')]).toEqual([false, []])
    allowed.all = true
    await keeper.lookOnce()
    expect(await readdir(elsewhere?.folder ?? '')).toEqual([copies[0]?.name])
    // Nothing was done for days.
    await ennick.query(`update history set at = at - interval '9 days'`)
    await ennick.query(`update jobs set created_at = created_at - interval '9 days'`)
    for (const name of await names()) if (name !== old) await rm(join(ledgerCopyFolder(dataFolder), name))
    await keeper.lookOnce()
    expect((await keeper.present()).copies.filter(({ isHere }) => isHere).map(({ name }) => name)).toEqual([old])
    await connection.close()
  })

  test('one that cannot be made is told', async () => {
    await rm(own(), { recursive: true })
    await writeFile(own(), 'in the way')
    expect((await copied()).problem).toBeTruthy()
    await rm(own())
    expect((await copied()).problem).toBeNull()
  })
})
