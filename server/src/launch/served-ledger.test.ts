import { afterAll, beforeAll, expect, test } from '@jest/globals'
import pg from 'pg'
import { inDatabase } from '../store/database.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { holdLedger } from './served-ledger.ts'

let ennick: Harness
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
})
afterAll(() => ennick.stop())

const never = (reason: Error): void => {
  throw reason
}

/** Ends the sessions that hold ledgers, as a restart of the database does. */
async function endHolders(): Promise<void> {
  const client = new pg.Client({ connectionString: inDatabase(ennick.config.databaseUrl, 'postgres') })
  await client.connect()
  await client.query(
    `select pg_terminate_backend(pid) from pg_stat_activity where application_name like 'ennick serves%'`,
  )
  await client.end()
}

test('a ledger is served by one Ennick: the second is told which one has it, and may when that has ended', async () => {
  const url = ennick.config.databaseUrl
  const first = await holdLedger(url, never, 0)
  await expect(holdLedger(url, never, 0)).rejects.toThrow(
    /^Another Ennick serves this ledger \(“ennick serves, on .+”, since .+\)\. Stop that first/,
  )
  await (await holdLedger(inDatabase(url, 'another'), never, 0)).release()
  const waiting = holdLedger(url, never, 60)
  await first.release()
  await (await waiting).release()
})

/** Waits until nobody else may serve it. */
async function untilHeld(url: string): Promise<void> {
  const take = () => holdLedger(url, never, 0)
  for (let quicker = await take().catch(() => null); quicker; quicker = await take().catch(() => null))
    await quicker.release()
}

test('it is held again after its session was lost', async () => {
  const url = ennick.config.databaseUrl
  const first = await holdLedger(url, never)
  await endHolders()
  await untilHeld(url)
  await first.release()
})

test('it is given up when another was quicker after its session was lost', async () => {
  const url = ennick.config.databaseUrl
  const reasons: Error[] = []
  const first = await holdLedger(url, (reason) => reasons.push(reason), 0)
  let quicker = null
  while (!quicker) {
    await endHolders()
    quicker = await holdLedger(url, never, 0).catch(() => null)
  }
  while (reasons.length === 0) await new Promise((done) => setTimeout(done, 20))
  expect(reasons[0]?.message).toContain('Another Ennick serves this ledger')
  await first.release()
  await quicker.release()
})
