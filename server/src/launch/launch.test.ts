import { type ChildProcess, execFile, spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { clusterElsewhere, freePort } from './postgres.ts'

const execute = promisify(execFile)
const projectFolder = fileURLToPath(new URL('../../..', import.meta.url))
let dataFolder: string
let port: number
let launcher: ChildProcess | null = null
let output = ''
beforeAll(async () => {
  dataFolder = await mkdtemp(join(tmpdir(), 'ennick-launch-'))
  port = await freePort()
})
afterAll(async () => {
  if (launcher && launcher.exitCode === null && launcher.signalCode === null && launcher.kill('SIGTERM')) await once(launcher, 'exit')
  await rm(dataFolder, { recursive: true, force: true })
  await rm(clusterElsewhere(dataFolder), { recursive: true, force: true })
})

const pause = () => new Promise((resolve) => setTimeout(resolve, 100))
async function until(what: () => Promise<boolean> | boolean): Promise<void> {
  while (!(await what())) await pause()
}
function launch(): ChildProcess {
  const environment = { ...process.env, NODE_OPTIONS: '', ENNICK_DATA: dataFolder, ENNICK_PORT: String(port) }
  const { DATABASE_URL: _, ...rest } = environment as NodeJS.ProcessEnv
  const child = spawn(process.execPath, ['--import', 'tsx', 'server/src/launch/start.ts', '--no-demo'], {
    cwd: projectFolder,
    env: rest,
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  output = ''
  child.stdout.on('data', (chunk) => {
    output += chunk
  })
  child.stderr.on('data', (chunk) => {
    output += chunk
  })
  return child
}
const ready = () => until(() => output.includes(`Ennick is ready at http://127.0.0.1:${port}`))
const health = async (): Promise<{ status: string; workers: number } | null> =>
  fetch(`http://127.0.0.1:${port}/api/health`).then(
    (answer) => answer.json(),
    () => null,
  )
const productions = async () => (await fetch(`http://127.0.0.1:${port}/api/productions`)).json()
const postgresPid = async () => {
  const { stdout } = await execute('pgrep', ['-f', `postgres -D .*port=`]).catch(() => ({ stdout: '' }))
  const url = await readFile(join(dataFolder, 'database-url'), 'utf8').catch(() => '')
  for (const pid of stdout.split('\n').filter(Boolean)) {
    const command = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '')
    if (url && command.includes(`port=${new URL(url).port}`)) return Number(pid)
  }
  return null
}

test('starts, keeps its secret, recovers from a database that ends, and stops everything it started', async () => {
  launcher = launch()
  await ready()
  await until(async () => (await health())?.workers === 1)
  expect((await stat(join(dataFolder, 'database-secret'))).mode & 0o777).toBe(0o600)
  expect((await stat(join(dataFolder, 'database-url'))).mode & 0o777).toBe(0o600)
  await fetch(`http://127.0.0.1:${port}/api/productions`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: 'Kept', rate: { numerator: 25, denominator: 1 }, width: 1920, height: 1080 }),
  })

  const first = await postgresPid()
  expect(first).not.toBeNull()
  process.kill(first as number, 'SIGKILL')
  await until(async () => {
    const now = await postgresPid()
    return now !== null && now !== first
  })
  await until(async () => {
    const now = await health()
    return now?.status === 'ok' && now.workers === 1
  })
  expect((await productions()).map((production: { name: string }) => production.name)).toEqual(['Kept'])

  const second = launch()
  await until(() => output.includes('is running already'))
  await until(() => second.exitCode !== null)
  expect(second.exitCode).toBe(0)

  const last = await postgresPid()
  launcher.kill('SIGTERM')
  await until(() => launcher?.exitCode !== null)
  expect(launcher.exitCode).toBe(0)
  expect(await health()).toBeNull()
  expect(() => process.kill(last as number, 0)).toThrow()
})

test('a killed launcher leaves nothing running, and the next start heals its locks and finds the data', async () => {
  launcher = launch()
  await ready()
  launcher.kill('SIGKILL')
  await until(async () => (await health()) === null && (await postgresPid()) === null)
  await writeFile(join(dataFolder, 'running.json'), JSON.stringify({ pid: process.pid, url: 'stale' }))
  launcher = launch()
  await ready()
  expect((await productions()).map((production: { name: string }) => production.name)).toEqual(['Kept'])
})
