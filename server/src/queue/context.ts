import type { Config } from '../config.ts'
import type { Pause } from '../engine/pause.ts'
import type { Database } from '../store/database.ts'
import type { JobRow } from './jobs.ts'

/** What every kind of work is given. */
export interface WorkContext {
  readonly database: Database
  readonly config: Config
  readonly job: JobRow
  readonly signal: AbortSignal
  readonly pause: Pause
}
