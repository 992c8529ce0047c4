import type { Express } from 'express'
import type pg from 'pg'
import type { Config } from '../config.ts'
import type { Database } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { ChangeStream } from './changes.ts'
import type { AllowedFolders } from './folders.ts'

/** What the routes work with. */
export interface Services {
  readonly app: Express
  readonly config: Config
  readonly database: Database
  /** What is known of productions' material, kept until it changes. */
  readonly material: KeptMaterial
  readonly pool: pg.Pool
  readonly changes: ChangeStream
  readonly folders: AllowedFolders
}
