import { mkdir, readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { parseChain } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { withHeld } from '../disk/held-folder.ts'
import { type Connection, connect } from '../store/database.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { historyFolder, readListed, writeGeneration } from './manifest-history.ts'

let ennick: Harness
let connection: Connection
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  connection = connect(ennick.config.databaseUrl, { maximum: 4 })
})
afterAll(async () => {
  await connection.close()
  await ennick.stop()
})

test('of many that copy into one folder at once each adds a generation of its own', async () => {
  const folder = join(ennick.media, 'copies')
  await mkdir(folder)
  const { database } = connection
  const add = (number: number) =>
    withHeld(folder, async (to) => {
      await readListed(database, to, 'xxh64')
      const copy = { path: `${number}.mov`, sizeBytes: 1, mtimeMicros: 0, hash: '0'.repeat(16), wasDirect: true }
      return writeGeneration(database, to, 'copies', 'xxh64', [copy])
    })
  await Promise.all(Array.from({ length: 8 }, (_, number) => add(number)))
  const chain = parseChain(await readFile(join(folder, historyFolder, 'ascmhl_chain.xml'), 'utf8'))
  expect(chain.map(({ sequence }) => sequence)).toEqual([1, 2, 3, 4, 5, 6, 7, 8])
  expect(await readdir(join(folder, historyFolder))).toHaveLength(9)
  const listed = await withHeld(folder, (to) => readListed(database, to, 'xxh64'))
  expect([...listed.keys()].sort()).toEqual(Array.from({ length: 8 }, (_, number) => `${number}.mov`))
})
