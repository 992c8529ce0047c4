import type { ChildProcess } from 'node:child_process'
import { mkdir, readdir, readFile, rename, rm, stat, symlink, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals'
import { freePort } from '../launch/postgres.ts'
import { addJob } from '../queue/jobs.ts'
import { type Connection, connect } from '../store/database.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { kill, spawnPart } from '../testing/spawned.ts'
import { unhurried } from '../testing/unhurried.ts'
import { recoverPlaces } from './placements.ts'

const recipeId = 'half-h264-intra'
let ennick: Harness
let connection: Connection
let productionId: string
let made: string
const spawned: ChildProcess[] = []
let number = 0
let clip: { id: string; name: string }
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  connection = connect(ennick.config.databaseUrl)
  productionId = await ennick.addProduction('Placements')
  for (let at = 1; at <= 9; at++)
    await makePicture(join(ennick.media, `card/P${at}.mov`), { frames: 12, channels: 0, seed: at })
  const worker = await ennick.startWorker()
  await ennick.addVolume(productionId, 'card', join(ennick.media, 'card'))
  await worker.stop()
  const [row] = await ennick.query<{ root_path: string }>(`select root_path from volumes where kind = 'made'`)
  made = row?.root_path as string
})
beforeEach(async () => {
  clip = (await ennick.clips(productionId))[number++] as { id: string; name: string }
})
afterAll(async () => {
  for (const process of spawned) await kill(process)
  await connection.close()
  await ennick.stop()
})

const pause = () => new Promise((resolve) => setTimeout(resolve, 20))
const order = async () => {
  const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds: [clip.id], recipeId } })
  return jobs[0]?.id as string
}
const output = async () => {
  const plan = await ennick.call('planMake', { params: { productionId }, body: { clipIds: [clip.id], recipeId } })
  return join(made, plan.items[0]?.outputs[0] as string)
}
const pairsOf = async () =>
  (await ennick.call('listPairs', { params: { productionId } }))
    .find((row) => row.clipId === clip.id)
    ?.pairs.map((pair) => pair.verdict)
const everything = async () =>
  (await readdir(made, { recursive: true, withFileTypes: true }))
    // By the name alone: the folder of a test is called by chance, and may have P6 in it.
    .filter((entry) => !entry.isDirectory() && entry.name.includes(clip.name.replace('.mov', '')))
    .map((entry) => join(entry.parentPath, entry.name))
const lines = () =>
  ennick.query<{ state: string }>(`select state from placements where from_path like '%' || $1 || '%' order by id`, [
    clip.name.replace('.mov', ''),
  ])
const startWorker = () => {
  const worker = spawnPart(ennick, 'worker')
  spawned.push(worker)
  return worker
}
/** Whoever writes history waits, and a placement is between its moves and its end. */
async function whileHistoryIsHeld(task: () => Promise<void>): Promise<void> {
  const client = await connection.pool.connect()
  try {
    await client.query('begin; lock table history in share mode')
    await task()
  } finally {
    await client.query('rollback')
    client.release()
  }
}
const untilWaiting = () => ennick.untilWaiting(1, 'history')

describe('a file of somebody else', () => {
  test('that takes the final name while a clip is encoded stays as it is; so does a link', async () => {
    const path = await output()
    const worker = await ennick.startWorker({ makesAtOnce: 1 })
    for (const put of [() => writeFile(path, 'theirs'), () => symlink(join(ennick.media, 'card', clip.name), path)]) {
      const original = await readFile(join(ennick.media, 'card', clip.name))
      const jobId = await unhurried(0.2, async () => {
        const ordered = await order()
        await ennick.untilWriting(clip.name.replace('.mov', ''))
        await put()
        return ordered
      })
      const theirs = await stat(path)
      const job = await ennick.waitForJob(jobId)
      expect(job).toMatchObject({ state: 'failed', error: expect.stringContaining('nothing is ever overwritten') })
      expect((await stat(path)).ino).toBe(theirs.ino)
      expect((await readFile(join(ennick.media, 'card', clip.name))).equals(original)).toBe(true)
      expect(await everything()).toEqual([path])
      expect(await pairsOf()).toEqual([])
      await rm(path)
    }
    await worker.stop()
  })

  test('that was put in place of a proxy of ours is not set aside when the proxy is made again', async () => {
    const worker = await ennick.startWorker()
    await ennick.waitForJob(await order())
    const [path] = (await everything()) as [string]
    await rename(path, `${path}.ours`)
    await writeFile(path, 'theirs')
    await ennick.query('update recipes set id = id')
    const job = await addJob(connection.database, productionId, 'again', {
      kind: 'make',
      clipId: clip.id,
      recipeId,
      mendId: null,
    })
    expect(await ennick.waitForJob(job.id)).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('another file than the one that Ennick put there'),
    })
    expect(await readFile(path, 'utf8')).toBe('theirs')
    expect((await everything()).sort()).toEqual([path, `${path}.ours`])
    await worker.stop()
  })
})

describe('twice the same', () => {
  test('is ordered once, however quickly it is asked for', async () => {
    const answers = await Promise.all(
      Array.from({ length: 5 }, () =>
        ennick.call('make', { params: { productionId }, body: { clipIds: [clip.id], recipeId } }),
      ),
    )
    expect(answers.flatMap(({ jobs }) => jobs)).toHaveLength(1)
    expect(answers.flatMap(({ skipped }) => skipped)).toEqual(
      Array(4).fill(`${clip.name.replace('.mov', '')}: it is on the queue already`),
    )
    const job = answers.flatMap(({ jobs }) => jobs)[0]?.id as string
    await ennick.call('cancelJob', { params: { jobId: job } })
    const next = await order()
    // The first may not come back beside the second.
    await expect(ennick.call('retryJob', { params: { jobId: job } })).rejects.toMatchObject({ code: 'on-the-queue' })
    await ennick.call('cancelJob', { params: { jobId: next } })
  })

  test('that is on the queue all the same makes one file and one pair, and neither undoes the other', async () => {
    const input = { kind: 'make', clipId: clip.id, recipeId, mendId: null } as const
    const jobs = [
      await addJob(connection.database, productionId, 'one', input),
      await addJob(connection.database, productionId, 'two', input),
    ]
    const worker = await ennick.startWorker({ makesAtOnce: 2 })
    const ended = await Promise.all(jobs.map(({ id }) => ennick.waitForJob(id)))
    await worker.stop()
    // The second either saw the first's and took its place by a mend, or was made beside it and stood back.
    expect(ended.some((job) => job.state === 'done')).toBe(true)
    for (const { error } of ended) expect(error ?? 'made by another job meanwhile').toMatch(/by another job meanwhile/)
    const inUse = (await everything()).filter((path) => !path.includes('.kept'))
    expect(inUse).toHaveLength(1)
    expect((await stat(inUse[0] as string)).size).toBeGreaterThan(0)
    expect(await pairsOf()).toEqual(['proven'])
    const known = await ennick.query<{ path: string }>(
      `select path from files where path like '%' || $1 || '%_proxy%'`,
      [clip.name.replace('.mov', '')],
    )
    expect(known.map(({ path }) => join(made, path)).sort()).toEqual((await everything()).sort())
  })
})

describe('an act that is cut off between its moves and its end', () => {
  test('of a make: whoever starts next takes the moves back, and it is made once', async () => {
    const jobId = await order()
    await whileHistoryIsHeld(async () => {
      const worker = startWorker()
      await untilWaiting()
      expect((await lines()).map((line) => line.state)).toEqual(['open'])
      expect(await everything()).toHaveLength(1)
      await kill(worker)
    })
    const worker = await ennick.startWorker()
    expect(await ennick.waitForJob(jobId)).toMatchObject({ state: 'done', attempts: 2 })
    expect((await lines()).map((line) => line.state)).toEqual(['reversed', 'done'])
    expect(await everything()).toHaveLength(1)
    expect(await pairsOf()).toEqual(['proven'])
    await worker.stop()
  })

  test('by the database: nothing is left under the final name, and a second attempt is not in its own way', async () => {
    await ennick.query(
      `create function refuse() returns trigger language plpgsql as $$ begin raise exception 'no more history'; end $$`,
    )
    await ennick.query('create trigger refuse before insert on history for each row execute function refuse()')
    const worker = await ennick.startWorker()
    const jobId = await order()
    const job = await ennick.waitForJob(jobId)
    expect(job.state).toBe('failed')
    expect(await everything()).toEqual([])
    expect((await lines()).map((line) => line.state)).toEqual(['reversed'])
    await ennick.query('drop trigger refuse on history')
    await ennick.call('retryJob', { params: { jobId } })
    expect(await ennick.waitForJob(jobId)).toMatchObject({ state: 'done' })
    expect(await everything()).toHaveLength(1)
    await worker.stop()
  })

  test('of an undo: the next one does it, and both files are where they were before the mend', async () => {
    const worker = await ennick.startWorker()
    await ennick.waitForJob(await order())
    const [path] = (await everything()) as [string]
    const [first] =
      (await ennick.call('listPairs', { params: { productionId } })).find((row) => row.clipId === clip.id)?.pairs ?? []
    const content = await readFile(path)
    const edl = `TITLE: X\n001  A001 V C 10:00:00:00 10:00:00:05 01:00:00:00 01:00:00:05\n* FROM CLIP NAME: ${clip.name}\n`
    const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'x.edl', text: edl } })
    const [mend] = await ennick.call('makeAgain', { params: { cutId: cut.id }, body: { pairIds: [first?.id] } })
    const state = async () =>
      (await ennick.call('listMends', { params: { productionId } })).find(({ id }) => id === mend?.id)?.state
    // Asked for a second time while it waits, it is refused.
    await expect(
      ennick.call('makeAgain', { params: { cutId: cut.id }, body: { pairIds: [first?.id] } }),
    ).rejects.toMatchObject({
      code: 'on-the-queue',
    })
    while ((await state()) !== 'done') await pause()
    await worker.stop()
    expect(await everything()).toHaveLength(2)

    const port = await freePort()
    const server = spawnPart(ennick, 'server', { environment: { ENNICK_PORT: String(port) } })
    spawned.push(server)
    while (!(await fetch(`http://127.0.0.1:${port}/api/health`).catch(() => null))?.ok) await pause()
    await whileHistoryIsHeld(async () => {
      void fetch(`http://127.0.0.1:${port}/api/mends/${mend?.id}/undo`, { method: 'POST' }).catch(() => undefined)
      await untilWaiting()
      await kill(server)
    })
    // Its moves are done and its end is not written: the two files have changed places.
    expect((await lines()).filter((line) => line.state === 'open')).toHaveLength(2)
    await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
    expect(await state()).toBe('undone')
    expect(await everything()).toEqual([path])
    expect((await readFile(path)).equals(content)).toBe(true)
    expect(await readdir(join(made, '.kept', (first?.id as string) ?? '')).catch(() => 'gone')).toBe('gone')
    const left = (await ennick.call('listPairs', { params: { productionId } })).find(
      (row) => row.clipId === clip.id,
    )?.pairs
    expect(left?.map((pair) => pair.id)).toEqual([first?.id])
  })
})

/** A line of the journal about a file that is there, as an act of before has left it. */
async function leaveLine(line: {
  kind: string
  state: string
  from: string
  to: string
  fingerprint: string
}): Promise<void> {
  const [volume] = await ennick.query<{ id: string }>(`select id from volumes where kind = 'made'`)
  const { dev, ino } = await stat(join(made, line.to))
  await ennick.query(
    `insert into placements (volume_id, act, by, kind, state, from_path, to_path, device, inode, size_bytes, mtime_micros, fingerprint)
     values ($1, gen_random_uuid(), 'a test', $2, $3, $4, $5, $6, $7, 4, 0, $8)`,
    [volume?.id, line.kind, line.state, line.from, line.to, String(dev), String(ino), line.fingerprint],
  )
}

test.each([
  { kind: 'new', state: 'open' },
  { kind: 'discarded', state: 'done' },
])('what somebody wrote where a $kind file was is not removed, though it has its inode', async ({ kind, state }) => {
  const to = join('b', `${kind}.mov`)
  await mkdir(join(made, 'b'), { recursive: true })
  // An inode is given again once its file is gone; and a file can be written over where it is.
  await writeFile(join(made, to), 'theirs')
  await leaveLine({ kind, state, from: 'b/part', to, fingerprint: 'of ours' })
  await recoverPlaces(connection.database)
  expect(await readFile(join(made, to), 'utf8')).toBe('theirs')
})

test('what cannot be moved back, as somebody has taken its name, stays where it is, and the ledger says where', async () => {
  const [volume] = await ennick.query<{ id: string }>(`select id from volumes where kind = 'made'`)
  const at = { from: 'a/ours.mov', to: '.kept/act/ours.mov' }
  await mkdir(join(made, 'a'), { recursive: true })
  await mkdir(dirname(join(made, at.to)), { recursive: true })
  await writeFile(join(made, at.to), 'ours')
  await writeFile(join(made, at.from), 'theirs')
  await ennick.query(
    `insert into files (volume_id, path, size_bytes, mtime_micros, fingerprint) values ($1, $2, 4, 0, 'mark')`,
    [volume?.id, at.from],
  )
  await leaveLine({ kind: 'moved', state: 'open', ...at, fingerprint: 'mark' })
  await recoverPlaces(connection.database)
  await recoverPlaces(connection.database)
  expect(await readFile(join(made, at.from), 'utf8')).toBe('theirs')
  expect(await readFile(join(made, at.to), 'utf8')).toBe('ours')
  expect(await ennick.query(`select path from files where fingerprint = 'mark'`)).toEqual([{ path: at.to }])
})
