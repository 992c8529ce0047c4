import type { Express } from 'express'
import type pg from 'pg'
import type { Config } from '../config.ts'
import type { Database } from '../store/database.ts'
import type { ChangeStream } from './changes.ts'
import type { AllowedFolders } from './folders.ts'

/** What the routes work with. */
export interface Services {
  readonly app: Express
  readonly config: Config
  readonly database: Database
  readonly pool: pg.Pool
  readonly changes: ChangeStream
  readonly folders: AllowedFolders
}
