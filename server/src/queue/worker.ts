import { randomUUID } from 'node:crypto'
import { EventEmitter } from 'node:events'
import { cpus } from 'node:os'
import { cleanText, doesNotAnswer, formatNumber, type RecipeCodec, recipeCodecs } from '@ennick/core'
import { and, DrizzleQueryError, eq, sql } from 'drizzle-orm'
import {
  Logger,
  makeWorkerUtils,
  type Runner,
  run,
  type Task,
  type WorkerEvents,
  type WorkerUtils,
} from 'graphile-worker'
import pg from 'pg'
import type { Config } from '../config.ts'
import { NotAnswering, usePatience } from '../disk/answering.ts'
import { freeBytes } from '../disk/free-space.ts'
import { Pause } from '../engine/pause.ts'
import { clearScratch, useScratch } from '../engine/scratch.ts'
import { explainFailure, isDatabaseAway, isDatabaseFull, isFileError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { type Connection, connect, type Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { jobs } from '../store/job-schema.ts'
import { ofAttempt, Superseded } from './attempt.ts'
import { JobFailure } from './failure.ts'
import { findHanging, readFolders } from './hanging.ts'
import {
  cancelChannel,
  codecFlag,
  failMendOf,
  holdChannel,
  type JobRow,
  type Lane,
  readJob,
  restorePlaces,
} from './jobs.ts'
import { endSilentWorkers, findDeadWorkers, isWorkerAlive, Lease, leaseOfWorker, sessionsOfWorker } from './lease.ts'
import { holdJobs } from './order.ts'
import { type Performers, performJob } from './perform.ts'
import { ProgressMeter } from './progress.ts'
import { summarise } from './summary.ts'
import { makesAtOnceOn, readCodecs, sayAlive, signOff, signOn } from './workers.ts'

/** What a job says when it fails is read by a person. */
const mostErrorCharacters = 20_000

/** Tells a job that a person stopped it. */
export class Cancelled extends Error {
  override readonly name = 'Cancelled'
}

/** Tells a job that its worker is stopping; the job will be run again. */
class WorkerStopping extends Error {}

const silent = new Logger(() => (level, message) => {
  if (level === 'error') console.error(message)
})

/** What a worker can do; the queue itself knows none of it. */
export interface Work {
  readonly performers: Performers
  /** Puts in order what dead processes have left. */
  readonly putInOrder: (database: Database, config: Config) => Promise<void>
}

/**
 * Fails a while after a job was told to stop: one that waits for a disk that hangs hears of nothing. Should that answer
 * one day, the job finds itself stopped, and writes no more.
 */
const lateStop = (signal: AbortSignal, seconds: number): Promise<never> =>
  new Promise((_, reject) => {
    const stop = (): void => void setTimeout(() => reject(signal.reason), seconds * 1000).unref()
    if (signal.aborted) stop()
    else signal.addEventListener('abort', stop, { once: true })
  })

/** A job that this worker is doing. */
interface Running {
  readonly controller: AbortController
  readonly pause: Pause
  readonly meter: ProgressMeter
}

/** A worker process's hands: it takes jobs from both lanes until it is stopped. */
export class Worker {
  readonly #config: Config
  readonly #work: Work
  readonly #id = randomUUID()
  readonly #connection: Connection
  readonly #running = new Map<string, Running>()
  readonly #taken = new Set<string>()
  #codecs: readonly RecipeCodec[] = []
  /** Lanes that take a job while another stands still. */
  #spareLanes = 0
  #adding: Promise<void> = Promise.resolve()
  #isStopping = false
  #lease: Lease | null = null
  #listener: pg.Client | null = null
  #runners: Runner[] = []
  #reaper: NodeJS.Timeout | null = null

  constructor(config: Config, work: Work) {
    this.#config = config
    this.#work = work
    this.#connection = connect(config.databaseUrl, { name: sessionsOfWorker(this.#id) })
  }

  /** @param onLost called when the database no longer knows that this worker lives: the process must end. */
  async start(onLost: (reason: Error) => void): Promise<void> {
    const { databaseUrl, pathMap, codecs, dataFolder, looks, patienceSeconds } = this.#config
    useScratch(dataFolder)
    usePatience(patienceSeconds)
    const { database } = this.#connection
    this.#lease = await Lease.open(databaseUrl, this.#id, onLost)
    this.#listener = new pg.Client({ connectionString: databaseUrl, application_name: sessionsOfWorker(this.#id) })
    this.#listener.on('error', onLost)
    await this.#listener.connect()
    await this.#listener.query(`listen ${cancelChannel}; listen ${holdChannel}`)
    this.#listener.on('notification', ({ channel, payload = '' }) => {
      if (channel === cancelChannel) this.#running.get(payload)?.controller.abort(new Cancelled('stopped by a person'))
      else
        void this.#hold(payload).catch((error: Error) => console.error(`A job could not be paused: ${error.message}`))
    })
    const makesAtOnce = this.#config.makesAtOnce ?? makesAtOnceOn(cpus().length)
    this.#codecs = (await readCodecs()).filter((codec) => codecs === null || codecs.includes(codec))
    await signOn(database, this.#id, { makesAtOnce, codecs: this.#codecs, pathMap })
    await this.#lease.hold(leaseOfWorker(this.#id))
    // What dead processes have left behind is put in order before anything new is begun.
    await this.#work.putInOrder(database, this.#config)
    await this.#addLane('make', makesAtOnce)
    // What reads volumes for the ledger writes their paths down: that is for workers that know them by the same ones.
    if (pathMap.length === 0) {
      await this.#addLane('light', 2)
      await this.#addLane('fetch', 1)
    }
    if (pathMap.length === 0 && looks) await this.#addLane('look', 1)
    const utils = await makeWorkerUtils({ pgPool: this.#connection.pool, logger: silent })
    this.#reaper = setInterval(() => {
      this.#look(utils).catch((error: Error) => console.error(`Could not look for dead workers: ${error.message}`))
    }, 1000)
  }

  /** Says that it lives, and takes from those that do not what they hold. */
  async #look(utils: WorkerUtils): Promise<void> {
    const { database } = this.#connection
    await sayAlive(database, this.#id)
    await endSilentWorkers(database, this.#config.leaseSeconds)
    const dead = await findDeadWorkers(database)
    if (dead.length) await utils.forceUnlockWorkers(dead)
    await restorePlaces(database)
    await this.#leaveWhatHangs()
    if (!dead.length) return
    await announce(database, null, 'workers')
    await clearScratch(this.#config.dataFolder)
  }

  /** Stops what works with a volume that does not answer: it goes on when that does. */
  async #leaveWhatHangs(): Promise<void> {
    if (this.#running.size === 0) return
    // So long nothing of it was heard that a disk is given up.
    const since = Date.now() - 2000 * this.#config.patienceSeconds
    const still = [...this.#running].flatMap(([id, { pause, meter }]) =>
      !pause.isOn && meter.movedAt < since ? [id] : [],
    )
    for (const { jobId, volumeId, label } of await findHanging(this.#connection.database, this.#id, still))
      this.#running
        .get(jobId)
        ?.controller.abort(
          new JobFailure(
            `Volume “${label}” ${doesNotAnswer}. What was done is kept, and it goes on when that answers again.`,
            { waitsForVolume: volumeId },
          ),
        )
    // Whether a folder answers is found out beside all else: that takes its time.
    for (const { jobId, folder } of await readFolders(this.#connection.database, still))
      void freeBytes(folder).catch((error: unknown) => {
        if (!(error instanceof NotAnswering)) return
        const what = `The folder ${folder} ${doesNotAnswer}. What was done is kept; retry when that answers again.`
        this.#running.get(jobId)?.controller.abort(new JobFailure(what))
      })
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
  async #addLane(lane: Lane, concurrency: number, isOpen: () => boolean = () => true): Promise<void> {
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
    // A second entry for what this worker is doing is left alone.
    if (this.#taken.has(jobId)) return
    this.#taken.add(jobId)
    try {
      const job = await this.#take(jobId)
      if (job) await this.#workOn(job)
    } finally {
      this.#taken.delete(jobId)
    }
  }

  async #workOn(job: JobRow): Promise<void> {
    const { database } = this.#connection
    const jobId = job.id
    const controller = new AbortController()
    const pause = new Pause()
    const meter = new ProgressMeter(database, job, pause)
    this.#running.set(jobId, { controller, pause, meter })
    try {
      await announce(database, job.productionId, 'jobs')
      if (job.cancelRequested) controller.abort(new Cancelled('stopped by a person'))
      if (this.#isStopping) controller.abort(new WorkerStopping('the worker is stopping'))
      controller.signal.throwIfAborted()
      const { signal } = controller
      const work = performJob(this.#work.performers, { database, config: this.#config, job, signal, pause }, meter)
      await Promise.race([work, lateStop(signal, this.#config.patienceSeconds)])
    } catch (error) {
      // Another attempt has it: nothing that this one has to say counts any more.
      if (error instanceof Superseded) return
      if (error instanceof WorkerStopping) {
        await database.update(jobs).set({ state: 'waiting', progress: null }).where(ofAttempt(job))
        throw error
      }
      // That is no end of a job: the queue gives it out again, to this worker or another.
      if (error instanceof DrizzleQueryError && isDatabaseAway(error)) throw error
      await this.#end(job, error as Error)
    } finally {
      this.#running.delete(jobId)
    }
  }

  /**
   * Takes a job that waits, or that runs with a worker which is dead, or ran with this one, which could not write its
   * end. One that runs with another living worker stands on the queue twice, and is left to it.
   */
  async #take(jobId: string): Promise<JobRow | null> {
    const { database } = this.#connection
    const isOpen = sql`(${jobs.state} = 'waiting' or (${jobs.state} = 'running' and (${jobs.workerId} = ${this.#id}
      or not ${isWorkerAlive(sql`coalesce(${jobs.workerId}::text, '')`)})))`
    const [taken] = await database
      .update(jobs)
      .set({
        state: 'running',
        startedAt: sql`now()`,
        attempts: sql`${jobs.attempts} + 1`,
        progress: null,
        workerId: this.#id,
      })
      .where(and(eq(jobs.id, jobId), eq(jobs.isHeld, false), isOpen))
      .returning()
    if (taken) return taken
    // One that stood still when its worker died begins again when it is let go.
    const [held] = await database
      .update(jobs)
      .set({ state: 'waiting', progress: null })
      .where(and(eq(jobs.id, jobId), eq(jobs.state, 'running'), eq(jobs.isHeld, true), isOpen))
      .returning()
    if (held) await announce(database, held.productionId, 'jobs')
    return null
  }

  async #end(job: JobRow, error: Error): Promise<void> {
    const { database } = this.#connection
    const cancelled = error instanceof Cancelled
    const isOfDisk = isFileError(error) || isDatabaseFull(error)
    if (!cancelled && !isOfDisk && error.name !== 'JobFailure') console.error(error)
    const details = error as Partial<Pick<JobFailure, 'log' | 'checks' | 'waitsForVolume' | 'result'>>
    const message = isOfDisk ? explainFailure(error) : error.message
    const waitsForVolume = cancelled ? null : (details.waitsForVolume ?? null)
    const [ended] = await database
      .update(jobs)
      .set({
        state: cancelled ? 'cancelled' : 'failed',
        error: cancelled ? null : cleanText(message, mostErrorCharacters),
        log: details.log ? cleanText(details.log, mostErrorCharacters) : null,
        checks: details.checks ?? null,
        result: details.result ?? null,
        summary: details.result ? summarise(details.result) : null,
        waitsForVolume,
        isHeld: false,
        endedAt: sql`now()`,
      })
      .where(ofAttempt(job))
      .returning({ id: jobs.id })
    if (!ended) return
    // What waits for a volume has not failed: it is done when that is back.
    if (waitsForVolume === null) await failMendOf(database, job)
    if (waitsForVolume === null && !cancelled) await this.#holdBatchOf(job)
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
    await writeHistory(
      database,
      job.productionId,
      'production',
      job.productionId,
      `“${job.title}” failed: ${ids.length === 1 ? 'the one job' : `the ${formatNumber(ids.length)} jobs`} ` +
        `planned with it that still waited ${ids.length === 1 ? 'is' : 'are'} held.`,
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
    await signOff(this.#connection.database, this.#id).catch(() => undefined)
    await this.#lease?.close()
    await this.#connection.close()
  }
}
