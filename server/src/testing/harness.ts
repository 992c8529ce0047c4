import { mkdir, mkdtemp, readdir, realpath, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Answer, Clip, Job, MadePlace, RouteName, routes, Volume } from '@ennick/contract'
import pg from 'pg'
import { type Config, madeFolder } from '../config.ts'
import { freePort } from '../launch/postgres.ts'
import { askHost } from './host.ts'
import type { RouteAddresses, StartedPart } from './parts-host.ts'

/** A whole Ennick for one test file: its own database, folders, server and worker. */
export interface Harness {
  readonly config: Config
  /** A folder inside the allowed roots, for volumes. */
  readonly media: string
  readonly url: string
  /** The process in which the server runs. */
  readonly processId: number
  call<K extends RouteName>(
    name: K,
    input?: { params?: Record<string, string>; query?: Record<string, string>; body?: unknown },
  ): Promise<Answer<(typeof routes)[K]>>
  /** All clips of a production, by name. */
  clips(productionId: string): Promise<Clip[]>
  /** A production at 25 fps and 640 × 360, so that what is made at its raster is made quickly. */
  addProduction(name: string): Promise<string>
  /** Adds a folder as a volume and scans it. */
  addVolume(productionId: string, label: string, rootPath: string, kind?: string): Promise<string>
  scan(volumeId: string): Promise<Job>
  volume(productionId: string, label: string): Promise<Volume | undefined>
  /** The main place of what is made. */
  madePlace(productionId: string): Promise<MadePlace>
  /** A worker for a while, for a harness without one; what is given differs from the harness's own settings. */
  startWorker(settings?: Partial<Config>): Promise<{ stop(): Promise<void> }>
  waitForJob(jobId: string): Promise<Job>
  /** Waits until all pictures were looked at. */
  untilLooked(productionId: string): Promise<void>
  /** Files below the made volumes that are being written, or were left behind. */
  unfinished(): Promise<string[]>
  /** Waits until the encoder has opened an output, of whose path this is a part. */
  untilWriting(name?: string): Promise<void>
  /** Waits until sessions of this database wait for a lock, each with a statement of which this is a part. */
  untilWaiting(sessions?: number, statement?: string): Promise<void>
  query<T extends pg.QueryResultRow>(text: string, values?: unknown[]): Promise<T[]>
  stop(): Promise<void>
}

/** A refusal as the server answered it. */
export class Refusal extends Error {
  readonly status: number
  readonly code: string
  readonly details: unknown
  constructor(status: number, { code, message, details }: { code: string; message: string; details?: unknown }) {
    super(message)
    this.status = status
    this.code = code
    this.details = details
  }
}

export async function startHarness(
  options: { withWorker?: boolean; looks?: boolean; restSeconds?: number; patienceSeconds?: number } = {},
): Promise<Harness> {
  const template = process.env.ENNICK_TEST_DATABASE as string
  const name = `test_${Math.random().toString(36).slice(2)}`
  const making = new pg.Client({ connectionString: template.replace(/\/ennick$/, '/postgres') })
  await making.connect()
  await making.query(`create database ${name} template ennick`).finally(() => making.end())
  const databaseUrl = template.replace(/\/ennick$/, `/${name}`)
  const root = await realpath(await mkdtemp(join(tmpdir(), 'ennick-test-')))
  const media = join(root, 'media')
  const config: Config = {
    port: await freePort(),
    dataFolder: join(root, 'data'),
    databaseUrl,
    makesAtOnce: null,
    codecs: null,
    pathMap: [],
    leaseSeconds: 30,
    // Most tests scan what they have made a moment ago.
    restSeconds: options.restSeconds ?? 0,
    patienceSeconds: options.patienceSeconds ?? 20,
    looks: options.looks ?? false,
    allowedRoots: [media],
    extraHosts: [],
  }
  await Promise.all([mkdir(media), mkdir(config.dataFolder)])
  await askHost({ kind: 'programs', path: process.env.PATH ?? '' })
  const addresses = await askHost<RouteAddresses>({ kind: 'routes' })
  const start = async (kind: 'server' | 'worker', settings: Partial<Config> = {}) => {
    const { id, processId } = await askHost<StartedPart>({ kind, config: { ...config, ...settings } })
    return { processId, stop: () => askHost<void>({ kind: 'stop', id }) }
  }
  const server = await start('server')
  const worker = options.withWorker === false ? null : await start('worker')
  const url = `http://127.0.0.1:${config.port}`
  const watching = new pg.Client({ connectionString: databaseUrl })
  await watching.connect()
  const harness: Harness = {
    config,
    media,
    url,
    processId: server.processId,
    async call(routeName, input = {}) {
      const { method, path: pattern } = addresses[routeName] as RouteAddresses[string]
      const path = pattern.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(input.params?.[key] ?? ''))
      const response = await fetch(`${url}${path}${input.query ? `?${new URLSearchParams(input.query)}` : ''}`, {
        method,
        ...(input.body === undefined
          ? {}
          : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(input.body) }),
      })
      const answer = await response.json()
      if (!response.ok) throw new Refusal(response.status, answer)
      return answer
    },
    async clips(productionId) {
      const all: Clip[] = []
      for (let after: string | null = null; ; ) {
        const page: Answer<(typeof routes)['searchClips']> = await harness.call('searchClips', {
          params: { productionId },
          body: { after },
        })
        all.push(...page.rows)
        if (page.next === null) return all
        after = page.next
      }
    },
    async addProduction(productionName) {
      return (
        await harness.call('addProduction', {
          body: { name: productionName, rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 },
        })
      ).id
    },
    async addVolume(productionId, label, rootPath, kind = 'drive') {
      const volume = await harness.call('addVolume', { params: { productionId }, body: { label, kind, rootPath } })
      await harness.scan(volume.id)
      return volume.id
    },
    scan: async (volumeId) => harness.waitForJob((await harness.call('scanVolume', { params: { volumeId } })).id),
    volume: async (productionId, label) =>
      (await harness.call('listVolumes', { params: { productionId } })).find((each) => each.label === label),
    madePlace: async (productionId) =>
      (await harness.call('listMadePlaces', { params: { productionId } }))[0] as MadePlace,
    async waitForJob(jobId) {
      // Asked of the database, not of the server: a question to the server costs what the encoder is waiting for.
      const isOpen = async () =>
        (await watching.query(`select from jobs where id = $1 and state in ('waiting', 'running')`, [jobId])).rowCount
      while (await isOpen()) await new Promise((resolve) => setTimeout(resolve, 20))
      return harness.call('readJob', { params: { jobId } })
    },
    async untilLooked(productionId) {
      const isOpen = async () =>
        (
          await watching.query(
            `select from jobs where production_id = $1 and input->>'kind' = 'look' and state in ('waiting', 'running')`,
            [productionId],
          )
        ).rowCount
      while (await isOpen()) await new Promise((resolve) => setTimeout(resolve, 20))
    },
    async unfinished() {
      const entries = await readdir(madeFolder(config.dataFolder), { recursive: true, withFileTypes: true }).catch(
        () => [],
      )
      return entries
        .filter((entry) => entry.isFile() && entry.name.endsWith('.ennick-part'))
        .map((entry) => join(entry.parentPath, entry.name))
    },
    async untilWriting(name = '') {
      while (!(await harness.unfinished()).some((path) => path.includes(name)))
        await new Promise((resolve) => setTimeout(resolve, 5))
    },
    async untilWaiting(sessions = 1, statement = '') {
      const waiting = `select from pg_stat_activity
        where wait_event_type = 'Lock' and datname = current_database() and query like '%' || $1 || '%'`
      while (((await watching.query(waiting, [statement])).rowCount ?? 0) < sessions)
        await new Promise((resolve) => setTimeout(resolve, 10))
    },
    startWorker: (settings) => start('worker', settings),
    query: async (text, values) => (await watching.query(text, values)).rows,
    async stop() {
      await worker?.stop()
      await server.stop()
      await watching.end()
      await rm(root, { recursive: true, force: true })
    },
  }
  return harness
}
