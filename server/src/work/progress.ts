import { eq } from 'drizzle-orm'
import type { JobRow } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { type JobProgress, jobs } from '../store/schema.ts'

/** Writes a job's progress at most twice a second, with speed and time left measured from its start. */
export class ProgressMeter {
  readonly #database: Database
  readonly #job: JobRow
  #startedAt = Date.now()
  #writtenAt = 0
  #writing: Promise<void> = Promise.resolve()

  constructor(database: Database, job: JobRow) {
    this.#database = database
    this.#job = job
  }

  /** Starts measuring anew: what came before was preparation. */
  restart(): void {
    this.#startedAt = Date.now()
  }

  report(done: number, total: number, unit: JobProgress['unit'], unitsPerSecond: number | null = null): void {
    const now = Date.now()
    if (now - this.#writtenAt < 500) return
    this.#writtenAt = now
    const seconds = (now - this.#startedAt) / 1000
    const speed = unitsPerSecond ?? (seconds > 0.5 && done > 0 ? done / seconds : null)
    const progress: JobProgress = {
      done,
      total,
      unit,
      unitsPerSecond: speed,
      secondsLeft: speed ? Math.max(0, (total - done) / speed) : null,
    }
    this.#writing = this.#writing
      .then(async () => {
        await this.#database.update(jobs).set({ progress }).where(eq(jobs.id, this.#job.id))
        await announce(this.#database, this.#job.productionId, 'progress')
      })
      .catch((error: Error) => console.error(`Progress could not be written: ${error.message}`))
  }

  /** Waits until the last report is written, so that it cannot come after the job's end. */
  close(): Promise<void> {
    return this.#writing
  }
}
