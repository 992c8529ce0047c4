import type { Rate } from '@ennick/core'
import type { Pause } from '../engine/pause.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { JobProgress } from '../store/job-types.ts'
import { ofAttempt } from './attempt.ts'
import type { JobRow } from './jobs.ts'

/**
 * Writes a job's progress at most twice a second, with speed and time left measured from its start; time in which it
 * stood still does not count.
 */
export class ProgressMeter {
  readonly #database: Database
  readonly #job: JobRow
  readonly #pause: Pause
  #rate: Rate | null = null
  #startedAt = Date.now()
  #pausedBefore = 0
  #writtenAt = 0
  #movedAt = Date.now()
  #writing: Promise<void> = Promise.resolve()

  constructor(database: Database, job: JobRow, pause: Pause) {
    this.#database = database
    this.#job = job
    this.#pause = pause
  }

  /** Starts measuring anew: what came before was preparation. @param rate of the frames that are counted */
  restart(rate: Rate | null = null): void {
    this.#rate = rate
    this.#startedAt = Date.now()
    this.#pausedBefore = this.#pause.milliseconds
  }

  /** When the work last said that it goes on, in milliseconds. */
  get movedAt(): number {
    return this.#movedAt
  }

  report(done: number, total: number, unit: JobProgress['unit']): void {
    const now = Date.now()
    this.#movedAt = now
    if (now - this.#writtenAt < 500) return
    this.#writtenAt = now
    this.#write(this.#progress(done, total, unit))
  }

  /** The work is done, and what it made is being checked. */
  checking(total: number, unit: JobProgress['unit']): void {
    this.#write({ ...this.#progress(total, total, unit), step: 'checking' })
  }

  #progress(done: number, total: number, unit: JobProgress['unit']): JobProgress {
    const seconds = (Date.now() - this.#startedAt - (this.#pause.milliseconds - this.#pausedBefore)) / 1000
    const speed = seconds > 0.2 && done > 0 ? done / seconds : null
    return {
      done,
      total,
      unit,
      unitsPerSecond: speed,
      secondsLeft: speed ? Math.max(0, (total - done) / speed) : null,
      realTime:
        speed && unit === 'frames' && this.#rate ? (speed * this.#rate.denominator) / this.#rate.numerator : null,
      step: 'working',
    }
  }

  #write(progress: JobProgress): void {
    this.#writing = this.#writing
      .then(async () => {
        await this.#database.update(jobs).set({ progress }).where(ofAttempt(this.#job))
        await announce(this.#database, this.#job.productionId, 'progress')
      })
      .catch((error: Error) => console.error(`Progress could not be written: ${error.message}`))
  }

  /** Waits until the last report is written, so that it cannot come after the job's end. */
  close(): Promise<void> {
    return this.#writing
  }
}
