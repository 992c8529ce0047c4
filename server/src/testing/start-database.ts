import { execFile } from 'node:child_process'
import { mkdtemp } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { type PrivateDatabase, startPrivateDatabase } from '../launch/postgres.ts'
import { migrateDatabase } from '../store/database.ts'

declare global {
  // The teardown of the same run finds it here.
  var ennickTestDatabase: PrivateDatabase | undefined
  var ennickTestFolder: string | undefined
}

/**
 * Before the server's tests: the server built, as tests of its processes start what people start, and a PostgreSQL of
 * their own, with one migrated database that every test file copies.
 */
export default async function startDatabase(): Promise<void> {
  await promisify(execFile)('npm', ['run', '--silent', 'build', '-w', 'server'])
  const folder = await mkdtemp(join(tmpdir(), 'ennick-test-'))
  globalThis.ennickTestFolder = folder
  const database = await startPrivateDatabase(folder, { throwaway: true })
  globalThis.ennickTestDatabase = database
  await migrateDatabase(database.url)
  process.env.ENNICK_TEST_DATABASE = database.url
}
