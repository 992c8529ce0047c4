import express from 'express'
import { buildApp } from './app.ts'
import { IndexRefresher } from './clips/index-refresher.ts'
import { alsoAllowed, type Config, usedFolders } from './config.ts'
import { usePatience } from './disk/answering.ts'
import { clearScratch, useScratch } from './engine/scratch.ts'
import { clearUnfinishedHandoffs } from './handoff/hand-off.ts'
import { ChangeStream } from './http/changes.ts'
import { AllowedFolders } from './http/folders.ts'
import { watchPresence } from './intake/presence.ts'
import { LedgerKeeper } from './ledger/keep-copies.ts'
import { recoverPlaces } from './placements/placements.ts'
import { connect } from './store/database.ts'
import { KeptMaterial } from './store/kept-material.ts'

export interface RunningServer {
  readonly url: string
  close(): Promise<void>
}

/** Serves the application on loopback until it is closed. */
export async function serve(config: Config): Promise<RunningServer> {
  useScratch(config.dataFolder)
  usePatience(config.patienceSeconds)
  const connection = connect(config.databaseUrl)
  // What a server that was killed has left half done is put in order before anybody asks.
  await Promise.all([
    recoverPlaces(connection.database),
    clearScratch(config.dataFolder),
    clearUnfinishedHandoffs(config),
  ]).catch((error: Error) => console.error(`What was left half done is put in order later: ${error.message}`))
  const material = new KeptMaterial(connection, config.databaseUrl)
  const refresher = new IndexRefresher(connection.database, material)
  const changes = new ChangeStream(config.databaseUrl, (change) => refresher.onChange(change))
  const folders = new AllowedFolders(config.allowedRoots, () => alsoAllowed(config.dataFolder))
  const used = new AllowedFolders(usedFolders(config), () => alsoAllowed(config.dataFolder))
  const ledger = new LedgerKeeper(connection, config.dataFolder, (folder) => folders.allows(folder))
  const app = buildApp({
    app: express(),
    ledger,
    config,
    database: connection.database,
    material,
    pool: connection.pool,
    changes,
    folders,
  })
  await changes.start()
  await material.start()
  const stopWatching = watchPresence(connection.database, used, config.restSeconds)
  const stopKeeping = ledger.start()
  const server = await new Promise<import('node:http').Server>((resolve, reject) => {
    const listening = app.listen(config.port, '127.0.0.1', (error?: Error) =>
      error ? reject(error) : resolve(listening),
    )
  })
  // Node's five seconds are shorter than a busy machine's pause between two requests: the second would be reset.
  server.keepAliveTimeout = 65_000
  return {
    url: `http://127.0.0.1:${config.port}`,
    async close() {
      await stopWatching()
      await stopKeeping()
      await changes.close()
      await refresher.close()
      await material.close()
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
      await connection.close()
    },
  }
}
