import { mkdirSync, realpathSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { allowFolder, readConfig, readPort } from '../config.ts'
import { connect, migrateDatabase } from '../store/database.ts'
import { isEmpty, loadDemo } from './load-demo.ts'
import { readLock, removeLock, takeLock } from './lock.ts'
import { type PrivateDatabase, startPrivateDatabase } from './postgres.ts'
import { Supervised } from './supervise.ts'

const dataFolder = openDataFolder()
const wantsDemo = !process.argv.includes('--no-demo')

try {
  for (const folder of allowedByWord())
    console.log(`Volumes may lie in ${allowFolder(dataFolder, resolve(process.env.ENNICK_CALLER ?? '.', folder))} now.`)
  await start()
} catch (error) {
  console.error((error as Error).message)
  process.exit(1)
}

async function start(): Promise<void> {
  const port = readPort(process.env.ENNICK_PORT)
  const url = `http://127.0.0.1:${port}`
  const running = await readLock(dataFolder)
  if (running) {
    console.log(`Ennick is running already at ${running.url}`)
    return
  }
  // Settings that cannot be used are told before anything is started with them.
  readConfig({
    ...process.env,
    ENNICK_DATA: dataFolder,
    DATABASE_URL: process.env.DATABASE_URL ?? 'postgres://not-started-yet',
  })
  await assertPortFree(port)
  if (!(await takeLock(dataFolder, url))) {
    console.log(`Ennick is being started for ${dataFolder} already.`)
    return
  }
  const stops: (() => Promise<void>)[] = [() => removeLock(dataFolder)]
  let stopping = false
  const stop = async (exitCode: number): Promise<void> => {
    if (stopping) return
    stopping = true
    for (const step of stops.reverse()) await step().catch((error: Error) => console.error(error.message))
    process.exit(exitCode)
  }
  process.on('SIGINT', () => void stop(0))
  process.on('SIGTERM', () => void stop(0))
  process.on('SIGHUP', () => void stop(0))

  try {
    const databaseUrl = process.env.DATABASE_URL ?? (await startOwnDatabase(stops, () => stopping))
    const environment = {
      ...process.env,
      DATABASE_URL: databaseUrl,
      ENNICK_DATA: dataFolder,
      ENNICK_PORT: String(port),
    }
    await migrateDatabase(databaseUrl)
    if (wantsDemo) await loadDemoOnce(environment)
    for (const script of ['main-server', 'main-worker']) {
      const supervised = new Supervised(script, environment)
      supervised.start()
      stops.push(() => supervised.stop())
    }
    await waitForServer(url)
    console.log(`Ennick is ready at ${url}`)
  } catch (error) {
    console.error((error as Error).message)
    await stop(1)
  }
}

/** The folders behind each `--allow`. @throws Error for one without a folder */
function allowedByWord(): string[] {
  return process.argv.flatMap((word, index, words) => {
    if (word !== '--allow') return []
    const folder = words[index + 1]
    if (!folder || folder.startsWith('--'))
      throw new Error('Write the folder behind --allow: ./ennick start --allow /path')
    return [folder]
  })
}

/** Where it really lies: a link of its owner's on the way is followed once, here. */
function openDataFolder(): string {
  const folder = resolve(process.env.ENNICK_DATA || '.ennick')
  mkdirSync(folder, { recursive: true })
  return realpathSync(folder)
}

/**
 * A database that ends by itself is started again on the same port, so that everything finds it there. One that does
 * not start is tried again and again: the rest waits for it, and whoever ended it may do so twice.
 */
async function startOwnDatabase(stops: (() => Promise<void>)[], isStopping: () => boolean): Promise<string> {
  let current: PrivateDatabase | null = await startPrivateDatabase(dataFolder)
  const { url } = current
  const port = Number(new URL(url).port)
  const watch = async (database: PrivateDatabase): Promise<void> => {
    await database.ended
    current = null
    while (!isStopping() && !current) {
      console.error('The database ended and is started again.')
      current = await startPrivateDatabase(dataFolder, { port }).catch(async (error: Error) => {
        console.error(error.message)
        await new Promise((resolve) => setTimeout(resolve, 1000))
        return null
      })
    }
    if (!current) return
    if (isStopping()) await current.stop()
    else void watch(current)
  }
  void watch(current)
  stops.push(async () => current?.stop())
  return url
}

async function loadDemoOnce(environment: NodeJS.ProcessEnv): Promise<void> {
  const config = readConfig(environment)
  const connection = connect(config.databaseUrl, { maximum: 4 })
  try {
    if (!(await isEmpty(connection.database))) return
    console.log('Making the demo, once: pictures, sound and a story that has gone a little wrong.')
    let told = 0
    await loadDemo(
      connection.database,
      config,
      process.env.ENNICK_CACHE || join(dataFolder, 'cache'),
      (done, total) => {
        if (done - told < 5 && done !== total) return
        told = done
        console.log(`  ${done} of ${total} files`)
      },
    )
  } finally {
    await connection.close()
  }
}

/** Told before anything is started: another program on the port would answer in Ennick's place. */
function assertPortFree(port: number): Promise<void> {
  return new Promise((done, fail) => {
    const probe = createServer()
    probe.on('error', () =>
      fail(
        new Error(
          `Port ${port} is taken by another program. Set ENNICK_PORT to another, for example ENNICK_PORT=${port + 1}.`,
        ),
      ),
    )
    probe.listen(port, '127.0.0.1', () => probe.close(() => done()))
  })
}

async function waitForServer(url: string): Promise<void> {
  for (let tries = 0; tries < 300; tries++) {
    const answer = await fetch(`${url}/api/health`).catch(() => null)
    if (answer?.ok) return
    await new Promise((done) => setTimeout(done, 100))
  }
  throw new Error(`The server did not answer at ${url} in 30 seconds. Is the port taken? Set ENNICK_PORT to another.`)
}
