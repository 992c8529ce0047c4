import type { Decision, HandedCut } from '@ennick/core'
import { jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core'
import { createdAt, id } from './columns.ts'
import { jobs } from './job-schema.ts'
import { cuts, productions } from './schema.ts'

export interface HandoffFile {
  readonly name: string
  readonly bytes: number
  readonly xxh64: string
}

/** A handoff as it was: its files lie in a folder of their own and are never rewritten. */
export const handoffs = pgTable('handoffs', {
  id: id(),
  productionId: uuid('production_id')
    .notNull()
    .references(() => productions.id, { onDelete: 'cascade' }),
  cutId: uuid('cut_id')
    .notNull()
    .references(() => cuts.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  folder: text('folder').notNull(),
  files: jsonb('files').$type<HandoffFile[]>().notNull(),
  /** Formats that could not say this cut, with the reason. */
  leftOut: jsonb('left_out').$type<{ name: string; reason: string }[]>().notNull(),
  decisions: jsonb('decisions').$type<Decision[]>().notNull(),
  createdAt: createdAt(),
})

/**
 * What the lists of a handoff say, or a cut when it was pulled: by themselves as it is much. Of those of before this was
 * kept there is none.
 */
export const handedCuts = pgTable('handed_cuts', {
  id: id(),
  handoffId: uuid('handoff_id')
    .unique()
    .references(() => handoffs.id, { onDelete: 'cascade' }),
  /** The job of a pull, or of the check of a finished file. */
  jobId: uuid('job_id')
    .unique()
    .references(() => jobs.id, { onDelete: 'cascade' }),
  handed: jsonb('handed').$type<HandedCut>().notNull(),
})
