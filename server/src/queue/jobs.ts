import type { Job } from '@ennick/contract'
import type { Recipe, RecipeCodec } from '@ennick/core'
import { and, desc, eq, getTableColumns, inArray, isNotNull, isNull, or, type SQL, sql } from 'drizzle-orm'
import { alias, unionAll } from 'drizzle-orm/pg-core'
import { notFound, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { jobs, taskOf } from '../store/job-schema.ts'
import type { JobFiles, JobInput, JobState } from '../store/job-types.ts'
import { lockClasses } from '../store/lock-classes.ts'
import { readRecipe } from '../store/recipes.ts'
import { mends, volumes } from '../store/schema.ts'

export type JobRow = typeof jobs.$inferSelect

export const cancelChannel = 'ennick_cancel'
export const holdChannel = 'ennick_hold'

/** More failures than anybody goes through one by one. */
const mostFailedJobs = 1000

/** Marks a job on the queue, so that only workers that can encode so take it. */
export const codecFlag = (codec: RecipeCodec): string => `codec ${codec}`

export type Lane = 'make' | 'light' | 'look' | 'fetch'

/**
 * Encodes take turns on their own lane, so that a scan or a search never waits behind a night of proxies; and looking
 * at pictures, which may take a night too, on another. So does what comes over a slow line.
 */
export const laneOf = ({ kind }: JobInput): Lane =>
  kind === 'make' || kind === 'join' ? 'make' : kind === 'look' || kind === 'fetch' ? kind : 'light'

/**
 * Puts a job on the queue, behind all that waits. Row and queue entry are written together or not at all when a
 * transaction is given.
 * @param known what the caller knows of it already; codecs are read from its recipes otherwise
 */
export async function addJob(
  database: Queryable,
  productionId: string,
  title: string,
  input: JobInput,
  known: { readonly files?: JobFiles; readonly codecs?: readonly RecipeCodec[] } = {},
): Promise<JobRow> {
  const codecs = known.codecs ?? (await codecsOf(database, input))
  const [row] = await database
    .insert(jobs)
    .values({ productionId, title, input, files: known.files ?? null, codecs })
    .returning()
  const job = row as JobRow
  await enqueue(database, job)
  await announce(database, productionId, 'jobs')
  return job
}

async function codecsOf(database: Queryable, input: JobInput): Promise<RecipeCodec[]> {
  if (input.kind !== 'make') return []
  const codecs = new Set<RecipeCodec>()
  for (const { recipeId, recipeVersion } of [input, ...(input.also ?? [])]) {
    const recipe = await readRecipe(database, recipeId, recipeVersion)
    if (recipe) codecs.add(recipe.codec)
  }
  return [...codecs]
}

/** Gives a job to the workers. */
export async function enqueue(database: Queryable, job: JobRow): Promise<void> {
  await database.execute(
    sql`select graphile_worker.add_job(${laneOf(job.input)},
      payload => ${JSON.stringify({ jobId: job.id })}::json, job_key => ${job.id}, max_attempts => 100,
      run_at => ${runAt(sql`${job.place}::bigint`)},
      flags => array(select jsonb_array_elements_text(${JSON.stringify(job.codecs.map(codecFlag))}::jsonb)))`,
  )
}

/**
 * The queue takes what is to run first by time: a job's place is told to it as a moment long ago. (Its priorities are
 * numbers of 16 bits, which a busy month uses up.)
 */
export const runAt = (place: SQL): SQL => sql`'epoch'::timestamptz + ${place} * interval '1 millisecond'`

/**
 * Entries that the queue has put off, as it does after a failure, stand where their jobs do. Those that run are left
 * alone.
 */
export async function restorePlaces(database: Queryable): Promise<void> {
  await database.execute(sql`
    update graphile_worker._private_jobs as entry set run_at = ${runAt(sql`jobs.place`)}
    from jobs where entry.key = jobs.id::text and entry.locked_at is null and entry.run_at > now() - interval '1 year'`)
}

export async function readJob(database: Queryable, jobId: string): Promise<JobRow> {
  const [row] = await database.select().from(jobs).where(eq(jobs.id, jobId))
  if (!row) throw notFound('This job')
  return row
}

/**
 * Jobs of a production: all that are running, all that are waiting in their order or for a volume, what failed and
 * stands so, and the newest of those that ended. They are read in one statement: a job that ends meanwhile is there
 * once.
 */
export async function listJobs(database: Queryable, productionId: string): Promise<ListedJob[]> {
  const ids = (are: SQL | undefined) =>
    database
      .select({ id: jobs.id })
      .from(jobs)
      .where(and(eq(jobs.productionId, productionId), are))
  const live = ids(or(inArray(jobs.state, ['running', 'waiting']), goesOnByItself))
  const newest = ids(inArray(jobs.state, ['done', 'failed', 'cancelled']))
    .orderBy(desc(jobs.endedAt))
    .limit(300)
  const failed = ids(standsFailed).orderBy(desc(jobs.endedAt)).limit(mostFailedJobs)
  return database
    .select(listed)
    .from(jobs)
    .where(inArray(jobs.id, unionAll(live, newest, failed)))
    .orderBy(
      sql`case ${jobs.state} when 'running' then 0 when 'waiting' then 1 else 2 end`,
      sql`case when ${jobs.state} in ('running', 'waiting') then ${jobs.place} end`,
      sql`case when ${jobs.state} in ('running', 'waiting') then ${jobs.createdAt} end`,
      desc(jobs.endedAt),
      jobs.id,
    )
}

/** A job without what it found and proved: a list is read often, and a search may have found thousands of files. */
export type ListedJob = Omit<JobRow, 'result' | 'checks' | 'log'> & { readonly hasDetails: boolean }
const { result: _result, checks: _checks, log: _log, ...columns } = getTableColumns(jobs)
const listed = {
  ...columns,
  hasDetails: sql<boolean>`${jobs.log} is not null or jsonb_array_length(coalesce(${jobs.checks}, '[]')) > 0`,
}

/** Whether a failed job is done again by itself when its volume is back. */
export const waitsForVolume = (job: Pick<JobRow, 'state' | 'waitsForVolume'>): boolean =>
  job.state === 'failed' && job.waitsForVolume !== null
/** The same, of rows. */
const goesOnByItself = and(eq(jobs.state, 'failed'), isNotNull(jobs.waitsForVolume))

const later = alias(jobs, 'later')
/** Whether a job failed, and what it was to do was not done since: however long ago, it is still to be looked at. */
const standsFailed = and(
  eq(jobs.state, 'failed'),
  isNull(jobs.waitsForVolume),
  // Asked by its index for each that failed: they are few, and what was done is much.
  sql`(
    select 1 from ${jobs} as later where ${later.state} = 'done' and ${taskOf(later.input)} = ${taskOf(jobs.input)}
    and ${later.productionId} = ${jobs.productionId} and ${later.endedAt} > ${jobs.endedAt} limit 1) is null`,
)

/**
 * Stops a job: a waiting one at once, a running one as soon as its worker hears of it. One that failed and would go on
 * when its volume is back is called off.
 */
export async function cancelJob(database: Queryable, jobId: string): Promise<JobRow> {
  const [job] = await database
    .update(jobs)
    .set({ state: 'cancelled', cancelRequested: true, waitsForVolume: null, error: null, endedAt: new Date() })
    .where(and(eq(jobs.id, jobId), or(eq(jobs.state, 'waiting'), goesOnByItself)))
    .returning()
  if (job) await failMendOf(database, job)
  else await stopRunning(database, jobId)
  await database.execute(sql`select pg_notify(${cancelChannel}, ${jobId})`)
  const stopped = await readJob(database, jobId)
  await announce(database, stopped.productionId, 'jobs')
  return stopped
}

/**
 * Puts a failed job aside, with why it failed: nobody is to look at it any more. It can be retried still.
 * @throws PlainError unless it failed; one that goes on by itself is called off instead
 */
export async function dismissJob(database: Queryable, jobId: string): Promise<JobRow> {
  const [dismissed] = await database
    .update(jobs)
    .set({ state: 'cancelled' })
    .where(and(eq(jobs.id, jobId), eq(jobs.state, 'failed'), isNull(jobs.waitsForVolume)))
    .returning()
  if (!dismissed) {
    const { title } = await readJob(database, jobId)
    throw new PlainError('job-not-failed', `“${title}” did not fail: there is nothing to dismiss.`, { status: 409 })
  }
  await announce(database, dismissed.productionId, 'jobs')
  return dismissed
}

async function stopRunning(database: Queryable, jobId: string): Promise<void> {
  const job = await readJob(database, jobId)
  const running = await database
    .update(jobs)
    .set({ cancelRequested: true })
    .where(and(eq(jobs.id, jobId), eq(jobs.state, 'running')))
    .returning({ id: jobs.id })
  if (running.length === 0)
    throw new PlainError('job-ended', `“${job.title}” has already ended: there is nothing to stop.`, { status: 409 })
}

/**
 * Runs a failed or cancelled job again, from the beginning.
 * @param recipe whether an item is made with the version that was planned, or with the newest of its recipe
 */
export async function retryJob(database: Database, jobId: string, recipe: 'same' | 'newest' = 'same'): Promise<JobRow> {
  return database.transaction((transaction) => retryIn(transaction, jobId, { recipe, isAsked: true }))
}

/** @param options.isAsked by a person; what goes on by itself may have been called off meanwhile */
async function retryIn(
  database: Transaction,
  jobId: string,
  { recipe, isAsked }: { recipe: 'same' | 'newest'; isAsked: boolean },
): Promise<JobRow> {
  const { productionId } = await readJob(database, jobId)
  const underWay = await readMakesUnderWay(database, productionId)
  const [job] = await database.select().from(jobs).where(eq(jobs.id, jobId)).for('update')
  if (!job) throw notFound('This job')
  const canBeRetried = isAsked ? job.state === 'failed' || job.state === 'cancelled' : waitsForVolume(job)
  if (!canBeRetried)
    throw new PlainError('job-not-ended', `“${job.title}” did not fail: there is nothing to retry.`, { status: 409 })
  if (makesOf(job.input).some((make) => underWay.has(make)))
    throw new PlainError('on-the-queue', `“${job.title}”: another job that makes the same is on the queue already.`, {
      status: 409,
    })
  const input = recipe === 'newest' ? await withNewestRecipe(database, job.input) : job.input
  const codecs = await codecsOf(database, input)
  await database
    .update(jobs)
    .set({
      state: 'waiting',
      cancelRequested: false,
      isHeld: false,
      input,
      codecs,
      waitsForVolume: null,
      error: null,
      checks: null,
      summary: null,
      result: null,
      log: null,
      progress: null,
      startedAt: null,
      endedAt: null,
    })
    .where(eq(jobs.id, jobId))
  if ('mendId' in job.input && job.input.mendId)
    await database
      .update(mends)
      .set({ state: 'waiting' })
      .where(and(eq(mends.id, job.input.mendId), eq(mends.state, 'failed')))
  await enqueue(database, { ...job, codecs })
  await announce(database, job.productionId, 'jobs')
  return readJob(database, jobId)
}

/** The clips and recipes of which a job makes something, each as one word. */
export const makesOf = (input: JobInput): string[] =>
  input.kind === 'make' ? [input, ...(input.also ?? [])].map(({ recipeId }) => makeKey(input.clipId, recipeId)) : []

export const makeKey = (clipId: string, recipeId: string): string => `${clipId} ${recipeId}`

/** The jobs of a production that make something, or wait to. */
export async function readLiveMakes(
  database: Queryable,
  productionId: string,
): Promise<{ input: Extract<JobInput, { kind: 'make' }>; state: JobState }[]> {
  const rows = await database
    .select({ input: jobs.input, state: jobs.state })
    .from(jobs)
    .where(
      and(
        eq(jobs.productionId, productionId),
        inArray(jobs.state, ['waiting', 'running']),
        sql`${jobs.input}->>'kind' = 'make'`,
      ),
    )
  return rows.flatMap(({ input, state }) => (input.kind === 'make' ? [{ input, state }] : []))
}

/**
 * What is being made in a production or waits to be, by `makeKey`. Within a transaction nobody else adds to it before
 * the end, so that one thing is not ordered twice.
 */
export async function readMakesUnderWay(database: Queryable, productionId: string): Promise<ReadonlySet<string>> {
  await database.execute(sql`select pg_advisory_xact_lock(${lockClasses.making}, hashtext(${productionId}))`)
  const live = await readLiveMakes(database, productionId)
  return new Set(live.flatMap(({ input }) => makesOf(input)))
}

async function withNewestRecipe(database: Queryable, input: JobInput): Promise<JobInput> {
  if (input.kind !== 'make') return input
  // What it was planned to weigh was said of the recipes as they were.
  let isAsPlanned = true
  const newest = async <T extends { readonly recipeId: string; readonly recipeVersion?: number }>(
    choice: T,
  ): Promise<T> => {
    const recipe = await readRecipe(database, choice.recipeId)
    if (!recipe || recipe.version === choice.recipeVersion) return choice
    isAsPlanned = false
    return { ...choice, recipeVersion: recipe.version }
  }
  const also = []
  for (const choice of input.also ?? []) also.push(await newest(choice))
  const { plannedBytes, ...made } = { ...(await newest(input)), ...(also.length ? { also } : {}) }
  return isAsPlanned && plannedBytes !== undefined ? { ...made, plannedBytes } : made
}

/** Jobs that failed because a volume was not there are done again when it is. */
export async function retryWaiting(database: Database): Promise<void> {
  const waiting = await database
    .select({ id: jobs.id })
    .from(jobs)
    .innerJoin(volumes, eq(volumes.id, jobs.waitsForVolume))
    .where(and(eq(volumes.isHere, true), goesOnByItself))
  for (const { id } of waiting)
    await database
      .transaction((transaction) => retryIn(transaction, id, { recipe: 'same', isAsked: false }))
      .catch((error: unknown) => {
        // Somebody was quicker, with this job or with another that does the same.
        if (!(error instanceof PlainError)) throw error
      })
}

/** A mend that waited for a job which will not be done has failed. */
export async function failMendOf(database: Queryable, job: JobRow): Promise<void> {
  if (!('mendId' in job.input) || !job.input.mendId) return
  await database
    .update(mends)
    .set({ state: 'failed' })
    .where(and(eq(mends.id, job.input.mendId), eq(mends.state, 'waiting')))
  await announce(database, job.productionId, 'mends')
}

function isMadeWithOlder(input: JobInput, newest: ReadonlyMap<string, Recipe>): boolean {
  if (input.kind !== 'make') return false
  return [input, ...(input.also ?? [])].some(
    ({ recipeId, recipeVersion }) =>
      recipeVersion !== undefined && (newest.get(recipeId)?.version ?? 0) > recipeVersion,
  )
}

/**
 * A job as the API shows it.
 * @param newest the recipes in their newest versions, where it matters whether a job's is older
 */
export function presentJob(row: JobRow | ListedJob, newest: ReadonlyMap<string, Recipe> = new Map()): Job {
  return {
    id: row.id,
    title: row.title,
    kind: row.input.kind,
    state: row.state,
    // What older rows do not say.
    progress: row.progress && { ...{ realTime: null, step: 'working' as const }, ...row.progress },
    files: row.files && { source: row.files.source, outputs: [...row.files.outputs] },
    codecs: [...row.codecs],
    summary: row.summary,
    checks: 'checks' in row ? (row.checks ?? []) : [],
    error: row.error,
    log: 'log' in row ? row.log : null,
    hasDetails: 'hasDetails' in row ? row.hasDetails : row.log !== null || (row.checks?.length ?? 0) > 0,
    attempts: row.attempts,
    cancelRequested: row.cancelRequested,
    goesOnByItself: waitsForVolume(row),
    isHeld: row.isHeld,
    hasNewerRecipe: isMadeWithOlder(row.input, newest),
    createdAt: row.createdAt.toISOString(),
    startedAt: row.startedAt?.toISOString() ?? null,
    endedAt: row.endedAt?.toISOString() ?? null,
  }
}
