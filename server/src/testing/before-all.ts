import { type ChildProcess, execFile, fork } from 'node:child_process'
import { once } from 'node:events'
import { mkdtemp } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { freePort, type PrivateDatabase, startPrivateDatabase } from '../launch/postgres.ts'
import { programOf } from '../program.ts'
import { migrateDatabase } from '../store/database.ts'

declare global {
  // The teardown of the same run finds it here.
  var ennickTestDatabase: PrivateDatabase | undefined
  var ennickTestFolder: string | undefined
  var ennickTestHosts: readonly ChildProcess[] | undefined
}

async function startHost(port: number): Promise<ChildProcess> {
  const host = fork(programOf('testing/parts-host'), [String(port)], {
    execArgv: [],
    env: { ...process.env, NODE_OPTIONS: '' },
  })
  const hasBegun = await Promise.race([once(host, 'message').then(() => true), once(host, 'exit').then(() => false)])
  if (!hasBegun) throw new Error('The process for the servers and workers of tests has ended at once.')
  return host
}

/**
 * Before the server's tests: the server built, as tests run what people run; a PostgreSQL of their own, with one
 * migrated database that every test file copies; and for each of the runner's workers a process for what its files
 * start.
 */
export default async function beforeAll({ maxWorkers }: { maxWorkers: number }): Promise<void> {
  await promisify(execFile)('npm', ['run', '--silent', 'build', '-w', 'server'])
  const ports = await Promise.all(Array.from({ length: maxWorkers }, freePort))
  const starting = Promise.all(ports.map(startHost))
  process.env.ENNICK_TEST_HOSTS = ports.join(',')
  const folder = await mkdtemp(join(tmpdir(), 'ennick-test-'))
  globalThis.ennickTestFolder = folder
  const database = await startPrivateDatabase(folder, { throwaway: true })
  globalThis.ennickTestDatabase = database
  await migrateDatabase(database.url)
  process.env.ENNICK_TEST_DATABASE = database.url
  globalThis.ennickTestHosts = await starting
}
