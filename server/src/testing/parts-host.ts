import { createServer } from 'node:http'
import { json } from 'node:stream/consumers'
import { routes } from '@ennick/contract'
import type { Config } from '../config.ts'
import { Worker } from '../queue/worker.ts'
import { serve } from '../serve.ts'
import { work } from '../stops.ts'
import { hang } from './hang.ts'

/**
 * What is asked of a process in which the servers and workers of one test file after another run, as they were built,
 * so that no file loads and compiles all of them again.
 */
export type HostRequest =
  | { readonly kind: 'routes' }
  | { readonly kind: 'server' | 'worker'; readonly config: Config }
  | { readonly kind: 'stop'; readonly id: number }
  | { readonly kind: 'programs'; readonly path: string }
  /** Whatever is asked of the disk below a path has no answer until this is asked with null. */
  | { readonly kind: 'hang'; readonly below: string | null }

/** How the API's routes are asked, by their names. */
export type RouteAddresses = { readonly [name: string]: { readonly method: string; readonly path: string } }

/** What was started, and the process in which it runs. */
export interface StartedPart {
  readonly id: number
  readonly processId: number
}

/** Something that runs until it is stopped. */
type Part = () => Promise<void>

const parts = new Map<number, Part>()
let lastId = 0

async function startWorker(config: Config): Promise<Part> {
  const errors: Error[] = []
  const worker = new Worker(config, work)
  await worker.start((error) => {
    console.error(error)
    errors.push(error)
  })
  return async () => {
    await worker.stop()
    if (errors[0]) throw errors[0]
  }
}

async function answer(request: HostRequest): Promise<unknown> {
  if (request.kind === 'routes')
    return Object.fromEntries(Object.entries(routes).map(([name, { method, path }]) => [name, { method, path }]))
  if (request.kind === 'programs') {
    process.env.PATH = request.path
    return null
  }
  if (request.kind === 'hang') {
    hang(request.below)
    return null
  }
  if (request.kind === 'stop') {
    const stop = parts.get(request.id)
    parts.delete(request.id)
    await stop?.()
    return null
  }
  const id = ++lastId
  if (request.kind === 'server') {
    const server = await serve(request.config)
    parts.set(id, () => server.close())
  } else parts.set(id, await startWorker(request.config))
  return { id, processId: process.pid }
}

const host = createServer(async (request, response) => {
  try {
    response.end(JSON.stringify(await answer((await json(request)) as HostRequest)))
  } catch (error) {
    response.writeHead(500).end(JSON.stringify(`${(error as Error).stack}`))
  }
})
// A test may think for longer than node's five seconds between two requests: the second would be reset.
host.keepAliveTimeout = 600_000
host.listen(Number(process.argv[2]), '127.0.0.1', () => process.send?.('ready'))
// Whoever has started it is gone: so is the run.
process.on('disconnect', () => process.exit())
