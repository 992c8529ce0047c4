import { mkdirSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { count } from '@ennick/core'
import { allowFolder, alsoAllowed, readConfig, readPort, usedFolders } from '../config.ts'
import { AllowedFolders } from '../http/folders.ts'
import { noteAllowed } from '../intake/presence.ts'
import { bringBackLedger, copyBeforeMigrating } from '../ledger/bring-back.ts'
import { ledgerCopyFolder } from '../ledger/keep-copies.ts'
import { connect, migrateDatabase } from '../store/database.ts'
import { noteDataFolder, openDataFolder, whereItLay } from './data-folder.ts'
import { clearUnfinishedDemo, loadDemoOnce } from './demo-once.ts'
import { followDataFolder } from './follow-data-folder.ts'
import { readLock, removeLock, takeLock } from './lock.ts'
import { type PrivateDatabase, startPrivateDatabase } from './postgres.ts'
import { holdLedger } from './served-ledger.ts'
import { Supervised } from './supervise.ts'
import { readWords } from './words.ts'

const words = readWords(
  { 'no-demo': { type: 'boolean' }, allow: { type: 'string', multiple: true }, ledger: { type: 'string' } },
  './ennick start [--no-demo] [--allow FOLDER]… [--ledger FILE]',
)
const wantsDemo = !words['no-demo']
const fromCaller = (path: string): string => resolve(process.env.ENNICK_CALLER ?? '.', path)
let dataFolder: string

try {
  dataFolder = openDataFolder()
  for (const folder of words.allow ?? [])
    console.log(`Volumes may lie in ${allowFolder(dataFolder, fromCaller(folder))} now.`)
  await start(words.ledger && fromCaller(words.ledger))
} catch (error) {
  console.error((error as Error).message)
  process.exit(1)
}

/** @param ledgerFile the copy of a ledger to begin with */
async function start(ledgerFile: string | undefined): Promise<void> {
  const port = readPort(process.env.ENNICK_PORT)
  const url = `http://127.0.0.1:${port}`
  const running = await readLock(dataFolder)
  if (running) {
    if (ledgerFile) throw new Error(`Ennick is running at ${running.url}: stop it to begin with another ledger.`)
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
    await clearUnfinishedDemo(dataFolder)
    const databaseUrl = process.env.DATABASE_URL ?? (await startOwnDatabase(stops, () => stopping))
    if (process.env.DATABASE_URL) {
      const held = await holdLedger(databaseUrl, (reason) => {
        console.error(reason.message)
        void stop(1)
      })
      stops.push(() => held.release())
    }
    const environment = {
      ...process.env,
      DATABASE_URL: databaseUrl,
      ENNICK_DATA: dataFolder,
      ENNICK_PORT: String(port),
      // A share that hangs keeps a thread for each question until it answers: enough are left for everything else.
      UV_THREADPOOL_SIZE: process.env.UV_THREADPOOL_SIZE ?? '64',
    }
    if (ledgerFile) await beginWith(databaseUrl, ledgerFile)
    else await keepBeforeMigrating(databaseUrl)
    await migrateDatabase(databaseUrl)
    await followIfMoved(databaseUrl)
    await lookAtFolders(environment)
    if (wantsDemo) await loadDemoOnce(readConfig(environment))
    for (const script of ['main-server', 'main-worker']) {
      const supervised = new Supervised(script, environment)
      supervised.start()
      stops.push(() => supervised.stop())
    }
    await waitForServer(url)
    console.log(`Ennick is ready at ${url}`)
  } catch (error) {
    // What fails because all of it is being ended is no news.
    if (!stopping) console.error((error as Error).message)
    await stop(1)
  }
}

/** A ledger whose tables are about to change is copied first; where that cannot be, nobody is kept from work. */
async function keepBeforeMigrating(databaseUrl: string): Promise<void> {
  const keepIn = ledgerCopyFolder(dataFolder)
  mkdirSync(keepIn, { recursive: true })
  try {
    const name = await copyBeforeMigrating(databaseUrl, keepIn)
    if (name)
      console.log(`This version changes the ledger's tables. As they were, they are kept in ${join(keepIn, name)}`)
  } catch (error) {
    console.error(`The ledger could not be copied before its tables change: ${(error as Error).message}`)
  }
}

/** Puts a copy of a ledger in the place of the one that is there, of which a copy is made first. */
async function beginWith(databaseUrl: string, file: string): Promise<void> {
  console.log(`Reading ${file}`)
  const keepIn = ledgerCopyFolder(dataFolder)
  mkdirSync(keepIn, { recursive: true })
  const { description, before } = await bringBackLedger(databaseUrl, file, keepIn)
  const { madeAt, host, productions } = description
  console.log(`The ledger is as it was on ${host} at ${madeAt}: ${productions.join(', ') || 'no production'}.`)
  if (before) console.log(`What was in the ledger here before is kept in ${join(keepIn, before)}`)
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

/** What lies in the data folder is known where it lies now, before anything looks for it. */
async function followIfMoved(databaseUrl: string): Promise<void> {
  const before = whereItLay(dataFolder)
  if (before !== null) {
    const connection = connect(databaseUrl, { maximum: 1 })
    const followed = await followDataFolder(connection.database, before, dataFolder).finally(() => connection.close())
    console.log(`The data folder lay in ${before} before: ${count(followed.length, 'place')} in it followed.`)
  }
  noteDataFolder(dataFolder)
}

/** What may not be used any more is known to be away before anything begins to work. */
async function lookAtFolders(environment: NodeJS.ProcessEnv): Promise<void> {
  const config = readConfig(environment)
  const connection = connect(config.databaseUrl, { maximum: 1 })
  await noteAllowed(
    connection.database,
    new AllowedFolders(usedFolders(config), () => alsoAllowed(dataFolder)),
  ).finally(() => connection.close())
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
