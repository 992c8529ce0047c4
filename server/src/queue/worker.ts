import { EventEmitter } from 'node:events'
import { cpus } from 'node:os'
import { type RecipeCodec, recipeCodecs } from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import { Logger, makeWorkerUtils, type Runner, run, type Task, type WorkerEvents } from 'graphile-worker'
import pg from 'pg'
import type { Config } from '../config.ts'
import { Pause } from '../engine/pause.ts'
import { announce } from '../store/announce.ts'
import { type Connection, connect } from '../store/database.ts'
import { record } from '../store/history.ts'
import { jobs } from '../store/job-schema.ts'
import { performJob } from '../work/perform.ts'
import { cancelChannel, codecFlag, failMendOf, holdChannel, type JobRow, readJob } from './jobs.ts'
import { findDeadWorkers, Lease } from './lease.ts'
import { holdJobs } from './order.ts'
import { leaseOfWorker, makesAtOnceOn, readCodecs, signOff, signOn } from './workers.ts'

/** Tells a job that a person stopped it. */
export class Cancelled extends Error {
  override readonly name = 'Cancelled'
}

/** Tells a job that its worker is stopping; the job will be run again. */
class WorkerStopping extends Error {}

const silent = new Logger(() => (level, message) => {
  if (level === 'error') console.error(message)
})

/** A worker process's hands: it takes jobs from both lanes until it is stopped. */
export class Worker {
  readonly #config: Config
  readonly #connection: Connection
  readonly #running = new Map<string, { readonly controller: AbortController; readonly pause: Pause }>()
  #codecs: readonly RecipeCodec[] = []
  /** Lanes that take a job while another stands still. */
  #spareLanes = 0
  #adding: Promise<void> = Promise.resolve()
  #isStopping = false
  #lease: Lease | null = null
  #id: string | null = null
  #listener: pg.Client | null = null
  #runners: Runner[] = []
  #reaper: NodeJS.Timeout | null = null

  constructor(config: Config) {
    this.#config = config
    this.#connection = connect(config.databaseUrl)
  }

  /** @param onLost called when the database no longer knows that this worker lives: the process must end. */
  async start(onLost: (reason: Error) => void): Promise<void> {
    this.#lease = await Lease.open(this.#config.databaseUrl, onLost)
    this.#listener = new pg.Client({ connectionString: this.#config.databaseUrl })
    this.#listener.on('error', onLost)
    await this.#listener.connect()
    await this.#listener.query(`listen ${cancelChannel}; listen ${holdChannel}`)
    this.#listener.on('notification', ({ channel, payload = '' }) => {
      if (channel === cancelChannel) this.#running.get(payload)?.controller.abort(new Cancelled('stopped by a person'))
      else void this.#hold(payload).catch((error: Error) => console.error(`A job could not be paused: ${error.message}`))
    })
    const { pathMap, codecs } = this.#config
    const makesAtOnce = this.#config.makesAtOnce ?? makesAtOnceOn(cpus().length)
    this.#codecs = (await readCodecs()).filter((codec) => codecs === null || codecs.includes(codec))
    this.#id = await signOn(this.#connection.database, { makesAtOnce, codecs: this.#codecs, pathMap })
    await this.#lease.hold(leaseOfWorker(this.#id))
    await this.#addLane('make', makesAtOnce)
    // What reads volumes for the ledger writes their paths down: that is for workers that know them by the same ones.
    if (pathMap.length === 0) await this.#addLane('light', 2)
    const utils = await makeWorkerUtils({ pgPool: this.#connection.pool, logger: silent })
    this.#reaper = setInterval(() => {
      findDeadWorkers(this.#connection.pool)
        .then(async (dead) => {
          if (dead.length === 0) return
          await utils.forceUnlockWorkers(dead)
          await announce(this.#connection.database, null, 'workers')
        })
        .catch((error: Error) => console.error(`Could not look for dead workers: ${error.message}`))
    }, 1000)
  }

  /** Stops a running job where it is, or lets it go on. What stands still gives its turn to another. */
  async #hold(jobId: string): Promise<void> {
    const running = this.#running.get(jobId)
    if (!running || this.#isStopping) return
    running.pause.set((await readJob(this.#connection.database, jobId)).isHeld)
    if (this.#paused > this.#spareLanes && !this.#isStopping) {
      const number = ++this.#spareLanes
      this.#adding = this.#addLane('make', 1, () => this.#paused >= number)
      await this.#adding
    }
  }

  get #paused(): number {
    return [...this.#running.values()].filter(({ pause }) => pause.isOn).length
  }

  /** @param isOpen whether it takes jobs now */
  async #addLane(lane: 'make' | 'light', concurrency: number, isOpen: () => boolean = () => true): Promise<void> {
    const events = new EventEmitter() as WorkerEvents
    const leases: Promise<void>[] = []
    events.on('worker:create', ({ worker }) => leases.push((this.#lease as Lease).hold(worker.workerId)))
    const task: Task = async (payload) => {
      await Promise.all(leases)
      await this.#perform((payload as { jobId: string }).jobId)
    }
    this.#runners.push(
      await run({
        pgPool: this.#connection.pool,
        concurrency,
        pollInterval: 1000,
        taskList: { [lane]: task },
        forbiddenFlags: () => recipeCodecs.filter((codec) => !isOpen() || !this.#codecs.includes(codec)).map(codecFlag),
        events,
        noHandleSignals: true,
        logger: silent,
        crontab: '',
      }),
    )
  }

  async #perform(jobId: string): Promise<void> {
    const { database } = this.#connection
    const job = await readJob(database, jobId).catch(() => null)
    // A removed, cancelled or finished job needs nothing; "running" here means that its last worker died.
    if (!job || (job.state !== 'waiting' && job.state !== 'running')) return
    const controller = new AbortController()
    const pause = new Pause()
    this.#running.set(jobId, { controller, pause })
    try {
      const [started] = await database
        .update(jobs)
        .set({ state: 'running', startedAt: new Date(), attempts: job.attempts + 1, progress: null, workerId: this.#id })
        .where(and(eq(jobs.id, jobId), eq(jobs.isHeld, false)))
        .returning()
      // One that stood still when its worker died begins again when it is let go.
      if (!started) await database.update(jobs).set({ state: 'waiting', progress: null }).where(eq(jobs.id, jobId))
      await announce(database, job.productionId, 'jobs')
      if (!started) return
      if (started.cancelRequested) controller.abort(new Cancelled('stopped by a person'))
      controller.signal.throwIfAborted()
      await performJob({ database, config: this.#config, job: started, signal: controller.signal, pause })
    } catch (error) {
      if (error instanceof WorkerStopping) throw error
      await this.#end(job, error as Error)
    } finally {
      this.#running.delete(jobId)
    }
  }

  async #end(job: JobRow, error: Error): Promise<void> {
    const { database } = this.#connection
    const cancelled = error instanceof Cancelled
    if (!cancelled && error.name !== 'JobFailure') console.error(error)
    const details = error as { log?: string; checks?: JobRow['checks']; waitsForVolume?: string | null }
    await database
      .update(jobs)
      .set({
        state: cancelled ? 'cancelled' : 'failed',
        error: cancelled ? null : error.message,
        log: details.log ?? null,
        checks: details.checks ?? null,
        waitsForVolume: cancelled ? null : (details.waitsForVolume ?? null),
        placing: null,
        isHeld: false,
        endedAt: new Date(),
      })
      .where(eq(jobs.id, job.id))
    await failMendOf(database, job)
    if (!cancelled) await this.#holdBatchOf(job)
    await announce(database, job.productionId, 'jobs')
  }

  /** The rest of a batch waits for a person when one of it fails, where that was asked for. */
  async #holdBatchOf(job: JobRow): Promise<void> {
    if (job.input.kind !== 'make' || !job.input.batch?.holdsAtFailure) return
    const { database } = this.#connection
    const rest = await database
      .select({ id: jobs.id })
      .from(jobs)
      .where(and(eq(jobs.state, 'waiting'), sql`${jobs.input}->'batch'->>'id' = ${job.input.batch.id}`))
    if (rest.length === 0) return
    const ids = rest.map(({ id }) => id)
    await holdJobs(database, job.productionId, ids, true)
    await record(
      database,
      job.productionId,
      'production',
      job.productionId,
      `“${job.title}” failed: ${ids.length === 1 ? 'the one job' : `the ${ids.length} jobs`} planned with it that still waited ${ids.length === 1 ? 'is' : 'are'} held.`,
    )
  }

  /** Stops taking jobs and gives running ones back to the queue. */
  async stop(): Promise<void> {
    this.#isStopping = true
    if (this.#reaper) clearInterval(this.#reaper)
    await this.#listener?.end()
    // A lane that was just being added is there then.
    await this.#adding
    const stopping = this.#runners.map((runner) => runner.stop())
    for (const { controller } of this.#running.values()) controller.abort(new WorkerStopping('the worker is stopping'))
    await Promise.allSettled(stopping)
    if (this.#id) await signOff(this.#connection.database, this.#id).catch(() => undefined)
    await this.#lease?.close()
    await this.#connection.close()
  }
}
