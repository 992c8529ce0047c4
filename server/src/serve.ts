import express from 'express'
import { IndexKeeper } from './catalogue/keeper.ts'
import type { Config } from './config.ts'
import { buildApp } from './http/app.ts'
import { ChangeStream } from './http/changes.ts'
import { AllowedFolders } from './http/folders.ts'
import { connect } from './store/database.ts'
import { watchPresence } from './watch/presence.ts'

export interface RunningServer {
  readonly url: string
  close(): Promise<void>
}

/** Serves the application on loopback until it is closed. */
export async function serve(config: Config): Promise<RunningServer> {
  const connection = connect(config.databaseUrl)
  const keeper = new IndexKeeper(connection.database)
  const changes = new ChangeStream(config.databaseUrl, (change) => keeper.onChange(change))
  const app = buildApp({
    app: express(),
    config,
    database: connection.database,
    pool: connection.pool,
    changes,
    folders: new AllowedFolders(config.allowedRoots),
  })
  await changes.start()
  const stopWatching = watchPresence(connection.database)
  const server = await new Promise<import('node:http').Server>((resolve, reject) => {
    const listening = app.listen(config.port, '127.0.0.1', (error?: Error) => (error ? reject(error) : resolve(listening)))
  })
  return {
    url: `http://127.0.0.1:${config.port}`,
    async close() {
      stopWatching()
      await changes.close()
      await keeper.close()
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
      await connection.close()
    },
  }
}
