import { EventEmitter } from 'node:events'
import { cpus } from 'node:os'
import { and, eq, sql } from 'drizzle-orm'
import { Logger, makeWorkerUtils, type Runner, run, type Task, type WorkerEvents } from 'graphile-worker'
import pg from 'pg'
import type { Config } from '../config.ts'
import { announce } from '../store/announce.ts'
import { type Connection, connect } from '../store/database.ts'
import { record } from '../store/history.ts'
import { jobs } from '../store/schema.ts'
import { performJob } from '../work/perform.ts'
import { cancelChannel, failMendOf, type JobRow, readJob } from './jobs.ts'
import { findDeadWorkers, Lease } from './lease.ts'
import { holdJobs } from './order.ts'
import { leaseOfWorker, signOff, signOn } from './workers.ts'

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
  readonly #running = new Map<string, AbortController>()
  #lease: Lease | null = null
  #id: string | null = null
  #cancelListener: pg.Client | null = null
  #runners: Runner[] = []
  #reaper: NodeJS.Timeout | null = null

  constructor(config: Config) {
    this.#config = config
    this.#connection = connect(config.databaseUrl)
  }

  /** @param onLost called when the database no longer knows that this worker lives: the process must end. */
  async start(onLost: (reason: Error) => void): Promise<void> {
    this.#lease = await Lease.open(this.#config.databaseUrl, onLost)
    this.#cancelListener = new pg.Client({ connectionString: this.#config.databaseUrl })
    this.#cancelListener.on('error', onLost)
    await this.#cancelListener.connect()
    await this.#cancelListener.query(`listen ${cancelChannel}`)
    this.#cancelListener.on('notification', (message) =>
      this.#running.get(message.payload ?? '')?.abort(new Cancelled('stopped by a person')),
    )
    // One encode keeps about two cores busy.
    const makesAtOnce = this.#config.makesAtOnce ?? Math.max(1, Math.floor(cpus().length / 2))
    this.#id = await signOn(this.#connection.database, makesAtOnce)
    await this.#lease.hold(leaseOfWorker(this.#id))
    await this.#addLane('make', makesAtOnce)
    await this.#addLane('light', 2)
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

  async #addLane(lane: 'make' | 'light', concurrency: number): Promise<void> {
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
    if (!job || (job.state !== 'waiting' && job.state !== 'running') || job.isHeld) return
    const controller = new AbortController()
    this.#running.set(jobId, controller)
    try {
      const [started] = await database
        .update(jobs)
        .set({ state: 'running', startedAt: new Date(), attempts: job.attempts + 1, progress: null, workerId: this.#id })
        .where(eq(jobs.id, jobId))
        .returning()
      await announce(database, job.productionId, 'jobs')
      if ((started as JobRow).cancelRequested) controller.abort(new Cancelled('stopped by a person'))
      controller.signal.throwIfAborted()
      await performJob({ database, config: this.#config, job: started as JobRow, signal: controller.signal })
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
    if (this.#reaper) clearInterval(this.#reaper)
    const stopping = this.#runners.map((runner) => runner.stop())
    for (const controller of this.#running.values()) controller.abort(new WorkerStopping('the worker is stopping'))
    await Promise.allSettled(stopping)
    if (this.#id) await signOff(this.#connection.database, this.#id).catch(() => undefined)
    await this.#cancelListener?.end()
    await this.#lease?.close()
    await this.#connection.close()
  }
}
