import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { DrizzleQueryError, sql } from 'drizzle-orm'
import { isDatabaseAway } from '../errors.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { type Connection, connect } from './database.ts'

let ennick: Harness
let connection: Connection
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  connection = connect(ennick.config.databaseUrl)
})
afterAll(async () => {
  await connection.close()
  await ennick.stop()
})

const outcome = (work: Promise<unknown>): Promise<unknown> => work.catch((error: unknown) => error)

test('a session that was ended in the middle of a transaction is told from a fault of what was asked', async () => {
  const ended = await outcome(
    connection.database.transaction(async (transaction) => {
      const { rows } = await transaction.execute<{ pid: number }>(sql`select pg_backend_pid() as pid`)
      await ennick.query('select pg_terminate_backend($1)', [rows[0]?.pid])
      await transaction.execute(sql`select 1`)
    }),
  )
  expect(ended).toBeInstanceOf(DrizzleQueryError)
  expect(isDatabaseAway(ended)).toBe(true)
  const wrong = await outcome(
    connection.database.transaction((transaction) => transaction.execute(sql`select nothing`)),
  )
  expect(wrong).toBeInstanceOf(Error)
  expect(isDatabaseAway(wrong)).toBe(false)
  // The next one has a session again.
  expect((await connection.database.execute(sql`select 1 as one`)).rows).toEqual([{ one: 1 }])
})
