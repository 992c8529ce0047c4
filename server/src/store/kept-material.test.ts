import { join } from 'node:path'
import { isDeepStrictEqual } from 'node:util'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { type Connection, connect } from './database.ts'
import { KeptMaterial } from './kept-material.ts'
import type { Material } from './known-material.ts'
import { readMaterial } from './material.ts'

let ennick: Harness
let productionId: string
let connection: Connection
let kept: KeptMaterial
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Kept')
  await makePicture(join(ennick.media, 'card/K001C001.mov'), { frames: 5 })
  await ennick.addVolume(productionId, 'CARD', join(ennick.media, 'card'))
  connection = connect(ennick.config.databaseUrl, { name: 'keeper' })
  kept = new KeptMaterial(connection, ennick.config.databaseUrl)
  await kept.start()
})
afterAll(async () => {
  await kept.close()
  await connection.close()
  await ennick.stop()
})
const nameNow = async () => [...(await kept.read(productionId)).clips.values()][0]?.name

test('what was read is kept while nothing changes, and for whoever asks at once', async () => {
  const [first, second] = await Promise.all([kept.read(productionId), kept.read(productionId)])
  expect(second).toBe(first)
  expect(await kept.read(productionId)).toBe(first)
})

test('every change that was committed before is in it, whoever made it', async () => {
  for (let round = 0; round < 60; round++) {
    await ennick.query('update clips set name = $1', [`round ${round}`])
    expect(await nameNow()).toBe(`round ${round}`)
  }
})

test.each([
  ['files', `update files set seen_at = now()`],
  ['volumes', `update volumes set is_here = not is_here`],
  ['productions', `update productions set proxy_suffixes = '["_small"]'`],
  ['declared_roles', `insert into declared_roles (volume_id, path, role) select id, '', 'proxy' from volumes limit 1`],
  [
    'pairs',
    `insert into pairs (clip_id, name, kind, origin, original_fingerprints, made_fingerprints)
       select id, 'p', 'proxy', 'adopted', '[]', '[]' from clips limit 1`,
  ],
  ['pairs that are taken away', `delete from pairs`],
])('a change of %s is heard', async (_, statement) => {
  const before = await kept.read(productionId)
  await ennick.query(statement)
  expect(await kept.read(productionId)).not.toBe(before)
})

test('what is read while something changes is not kept; a refusal is not kept either', async () => {
  const changing = ennick.query('update clips set name = $1', ['last'])
  await Promise.all([kept.read(productionId), kept.read(productionId), changing])
  expect(await nameNow()).toBe('last')
  const nobody = '00000000-0000-4000-8000-000000000000'
  await expect(kept.read(nobody)).rejects.toThrow('This production')
  await expect(kept.read(nobody)).rejects.toThrow('This production')
})

test('while the database is not heard, nothing is kept, and what is read is true; then it is heard again', async () => {
  await kept.read(productionId)
  await ennick.query(
    `select pg_terminate_backend(pid) from pg_stat_activity where query = 'listen ennick_material' and datname = current_database()`,
  )
  await ennick.query('update clips set name = $1', ['while deaf'])
  expect(await nameNow()).toBe('while deaf')
  for (;;) {
    const [one, two] = [await kept.read(productionId), await kept.read(productionId)]
    if (one === two) break
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  await ennick.query('update clips set name = $1', ['heard again'])
  expect(await nameNow()).toBe('heard again')
})

test('what is read bit by bit is what is read at once, whatever has changed and whoever saw it before', async () => {
  // Each of its own: what is alike is judged together, and one of them would change with the other.
  for (const number of [2, 3, 4])
    await makePicture(join(ennick.media, `card/K001C00${number}.mov`), {
      ...{ frames: 5, seed: 10 + number, timecode: `1${number}:00:00:00` },
    })
  const volume = (await ennick.call('listVolumes', { params: { productionId } })).find(({ label }) => label === 'CARD')
  await ennick.scan(volume?.id ?? '')
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds, recipeId: 'half-h264-intra' },
  })
  for (const job of jobs) await ennick.waitForJob(job.id)
  const { database } = connection
  // Other folders for other paths: of such a reading nothing is remembered.
  const atOnce = () => readMaterial(database, productionId, null, [{ from: '/no/such/place', to: '/nowhere' }])
  const plain = (material: Material): unknown =>
    JSON.parse(JSON.stringify([material, [...material.clips], [...material.files], [...material.pairs]]))
  const changes = [
    `update clips set reel = 'K009' where name = 'K001C002'`,
    `update files set is_gone = true where path like '%K001C003.mov'`,
    `update files set fingerprint = 'other' where path like '%K001C001.mov'`,
    `update volumes set is_here = false where label = 'CARD'`,
    `update pairs set is_compared = false`,
    `update pairs set is_active = false where name like 'K001C004%'`,
    `update productions set proxy_suffixes = '["_tiny"]'`,
    `delete from clips where name = 'K001C004'`,
    `insert into original_trials (file_id, fingerprint, complaint) select id, fingerprint, 'broken' from files where path like '%K001C003.mov'`,
    `update volumes set is_here = true where label = 'CARD'`,
    `insert into declared_roles (volume_id, path, role)
       select volume_id, path, 'proxy' from files where path like '%K001C003.mov'`,
    `delete from declared_roles`,
    `insert into clip_copies (clip_id, file_id, is_verified)
       select clips.id, files.id, true from clips, files
       where clips.name = 'K001C003' and files.path like '%K001C002.mov'`,
    `update clip_copies set is_verified = false`,
    `delete from clip_copies`,
    `insert into lut_assignments (production_id, camera, lut_id)
       select id, 'A', (select id from luts limit 1) from productions`,
    `update productions set width = 1280`,
    `delete from pair_files where part = 'whole'`,
  ]
  // Volumes are looked at meanwhile, and one that is here is found so: only what nothing came between is compared.
  const readTwice = async () => {
    for (;;) {
      const before = plain(await atOnce())
      const bitByBit = await readMaterial(database, productionId)
      const after = plain(await atOnce())
      if (isDeepStrictEqual(before, after)) return { bitByBit, atOnce: after }
    }
  }
  await readMaterial(database, productionId)
  for (const change of changes) {
    await ennick.query(change)
    const read = await readTwice()
    expect([change, plain(read.bitByBit)]).toEqual([change, read.atOnce])
  }
  // What did not change is the same object; what did is another. Something else may be written meanwhile: it is tried
  // until nothing was.
  const same = async (turn: number): Promise<string[]> => {
    const last = await readMaterial(database, productionId)
    await ennick.query(`update clips set reel = 'K01${turn}' where name = 'K001C002'`)
    const again = await readMaterial(database, productionId)
    return [...again.clips].filter(([id, clip]) => last.clips.get(id) === clip).map(([, { name }]) => name)
  }
  let alike = await same(0)
  for (let turn = 1; alike.length < 2; turn++) alike = await same(turn)
  expect(alike.sort()).toEqual(['K001C003', 'heard again'])
  // Where nothing has changed, all of it is the same; a transaction has its own.
  const areSame = async (): Promise<boolean> => {
    const first = await readMaterial(database, productionId)
    return (await readMaterial(database, productionId)) === first
  }
  let isSame = await areSame()
  for (let turn = 0; turn < 100 && !isSame; turn++) isSame = await areSame()
  expect(isSame).toBe(true)
  const outside = await readMaterial(database, productionId)
  const inside = await database.transaction((transaction) => readMaterial(transaction, productionId))
  expect(inside).not.toBe(outside)
  expect(await readMaterial(database, productionId)).not.toBe(inside)
  // What a transaction saw and took back is not remembered.
  await database
    .transaction(async (transaction) => {
      await transaction.execute(`update clips set name = 'never' where name = 'K001C003'`)
      expect([...(await readMaterial(transaction, productionId)).clips.values()].map(({ name }) => name)).toContain(
        'never',
      )
      throw new Error('taken back')
    })
    .catch(() => undefined)
  const read = await readTwice()
  expect(plain(read.bitByBit)).toEqual(read.atOnce)
})
