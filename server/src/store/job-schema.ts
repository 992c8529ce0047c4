import type { JoinedEntry, LogTable, RecipeCodec } from '@ennick/core'
import { type SQL, type SQLWrapper, sql } from 'drizzle-orm'
import { bigint, bigserial, boolean, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import { at, createdAt, id } from './columns.ts'
import type { FetchState, JobCheck, JobFiles, JobInput, JobProgress, JobResult, JobState } from './job-types.ts'
import { productions, volumes } from './schema.ts'

/** What a job is to do, whoever asked for it and in whatever order: two of one task do the same. */
export const taskOf = (input: SQLWrapper): SQL =>
  sql`(${input} - '{batch,index,mendId,plannedBytes,recipeVersion}'::text[])`

/** Work for a worker, with its progress and its end. The queue carries its id; this row carries everything else. */
export const jobs = pgTable(
  'jobs',
  {
    id: id(),
    productionId: uuid('production_id')
      .notNull()
      .references(() => productions.id, { onDelete: 'cascade' }),
    title: text('title').notNull(),
    input: jsonb('input').$type<JobInput>().notNull(),
    state: text('state').$type<JobState>().notNull().default('waiting'),
    progress: jsonb('progress').$type<JobProgress>(),
    result: jsonb('result').$type<JobResult>(),
    /** The result in a line. */
    summary: text('summary'),
    /** How what was made compares with its original, whether it passed or not. */
    checks: jsonb('checks').$type<JobCheck[]>(),
    error: text('error'),
    log: text('log'),
    cancelRequested: boolean('cancel_requested').notNull().default(false),
    files: jsonb('files').$type<JobFiles>(),
    /** What its worker must be able to encode. */
    codecs: jsonb('codecs').$type<readonly RecipeCodec[]>().notNull().default([]),
    /** A waiting job that a person keeps from starting, or a running one that stands still. */
    isHeld: boolean('is_held').notNull().default(false),
    /** Where it stands among the waiting of all productions: lower ones go first, and no two are equal. */
    place: bigserial('place', { mode: 'number' }).notNull(),
    attempts: integer('attempts').notNull().default(0),
    /** The worker that took it last. */
    workerId: uuid('worker_id'),
    /** A failed job that is done again by itself when this volume comes back. */
    waitsForVolume: uuid('waits_for_volume'),
    createdAt: createdAt(),
    startedAt: at('started_at'),
    endedAt: at('ended_at'),
  },
  (table) => [
    index('jobs_production').on(table.productionId, table.createdAt),
    index('jobs_ended').on(table.productionId, table.endedAt),
    index('jobs_state').on(table.state),
    index('jobs_done_task').using('hash', taskOf(table.input)).where(sql`${table.state} = 'done'`),
  ],
)

/** What a recipe was asked to make of a clip, and did not. */
export interface SkippedItem {
  readonly clipId: string
  readonly name: string
  readonly recipe: string
  readonly reason: string
}

/** The batch that a job is of. */
export const batchOfJob = sql<string>`${jobs.input}->'batch'->>'id'`

/** A list of what a receiving room has, by which is told what of a batch it has taken in; the newest counts. */
export const batchLists = pgTable('batch_lists', {
  batchId: uuid('batch_id')
    .primaryKey()
    .references(() => makeBatches.id, { onDelete: 'cascade' }),
  fileName: text('file_name').notNull(),
  columns: jsonb('columns').$type<readonly string[]>().notNull(),
  rows: jsonb('rows').$type<LogTable['rows']>().notNull(),
  createdAt: createdAt(),
})

/** What was asked for at once; its jobs carry its id. */
export const makeBatches = pgTable(
  'make_batches',
  {
    id: id(),
    productionId: uuid('production_id')
      .notNull()
      .references(() => productions.id, { onDelete: 'cascade' }),
    /** The names that its recipes had. */
    recipes: jsonb('recipes').$type<readonly string[]>().notNull(),
    clipIds: jsonb('clip_ids').$type<readonly string[]>().notNull(),
    skipped: jsonb('skipped').$type<readonly SkippedItem[]>().notNull(),
    createdAt: createdAt(),
  },
  (table) => [index('make_batches_production').on(table.productionId, table.createdAt)],
)

/** One file of several made items, which stay; what is where in it is kept beside it. */
export const joinedFiles = pgTable(
  'joined_files',
  {
    id: id(),
    productionId: uuid('production_id')
      .notNull()
      .references(() => productions.id, { onDelete: 'cascade' }),
    batchId: uuid('batch_id').references(() => makeBatches.id, { onDelete: 'set null' }),
    volumeId: uuid('volume_id')
      .notNull()
      .references(() => volumes.id, { onDelete: 'cascade' }),
    /** Below the place of made files. */
    path: text('path').notNull(),
    recipe: text('recipe').notNull(),
    entries: jsonb('entries').$type<readonly JoinedEntry[]>().notNull(),
    rateNumerator: integer('rate_numerator').notNull(),
    rateDenominator: integer('rate_denominator').notNull(),
    sizeBytes: bigint('size_bytes', { mode: 'number' }).notNull(),
    fingerprint: text('fingerprint').notNull(),
    createdAt: createdAt(),
    /** When Ennick did away with it: a cut may name it still. */
    removedAt: at('removed_at'),
  },
  (table) => [index('joined_files_batch').on(table.batchId)],
)

/** The files that a job fetches from a store, in the order of their list. */
export const fetchedFiles = pgTable(
  'fetched_files',
  {
    jobId: uuid('job_id')
      .notNull()
      .references(() => jobs.id, { onDelete: 'cascade' }),
    ordinal: integer('ordinal').notNull(),
    path: text('path').notNull(),
    /** Null until the list or the store has said it. */
    sizeBytes: bigint('size_bytes', { mode: 'number' }),
    /** Of it, so many have come. */
    doneBytes: bigint('done_bytes', { mode: 'number' }).notNull().default(0),
    state: text('state').$type<FetchState>().notNull().default('waiting'),
    /** Why it is not had. */
    reason: text('reason'),
  },
  (table) => [primaryKey({ columns: [table.jobId, table.ordinal] })],
)
