import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { type Connection, connect } from './database.ts'
import { KeptMaterial } from './kept-material.ts'

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
  ['decisions', `delete from decisions`],
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
