import { readFile } from 'node:fs/promises'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'

let ennick: Harness
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
})
afterAll(() => ennick.stop())

/** The statements of a migration in which a word stands. */
async function statements(name: string, word: string): Promise<string[]> {
  const text = await readFile(new URL(`../../migrations/${name}.sql`, import.meta.url), 'utf8')
  return text.split('--> statement-breakpoint').filter((statement) => statement.includes(word))
}

test('saved searches for pairs that were “sound” find proven and matched ones', async () => {
  // A table of this session's own stands before the real one.
  await ennick.query('create temp table saved_searches (condition jsonb)')
  const term = (field: string, operator: string, value: string) => ({ field, operator, value })
  for (const condition of [
    term('proxy', 'is', 'sound'),
    { all: [term('proxy', 'is not', 'sound'), term('kind', 'is', 'sound')] },
  ])
    await ennick.query('insert into saved_searches values ($1)', [condition])
  for (const statement of await statements('0011_roles', 'UPDATE "saved_searches"')) await ennick.query(statement)
  expect(
    (await ennick.query<{ condition: unknown }>('select condition from saved_searches')).map((row) => row.condition),
  ).toEqual([
    { any: [term('proxy', 'is', 'proven'), term('proxy', 'is', 'matched')] },
    {
      all: [
        { all: [term('proxy', 'is not', 'proven'), term('proxy', 'is not', 'matched')] },
        term('kind', 'is', 'sound'),
      ],
    },
  ])
  await ennick.query('drop table saved_searches')
})
