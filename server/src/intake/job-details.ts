import type { JobDetails } from '@ennick/contract'
import { groupBy } from '@ennick/core'
import { asc, eq, sql } from 'drizzle-orm'
import { readJob } from '../queue/jobs.ts'
import type { Database } from '../store/database.ts'
import { fetchedFiles } from '../store/job-schema.ts'
import type { JobResult } from '../store/job-types.ts'

/** So many lines are told; the counts are of all. */
const mostLines = 5000
/** The same while they change, as they are told anew twice a second: what arrives, and what comes next. */
const mostWhileRunning = 200

/** The files that a job has a word about, each with what became of it and why. */
export async function readJobDetails(database: Database, jobId: string): Promise<JobDetails> {
  const { input, result, state } = await readJob(database, jobId)
  if (input.kind === 'fetch') return readFetched(database, jobId, state === 'running')
  const lines = linesOf(result)
  const counts = [...groupBy(lines, ({ state }) => state)].map(([state, list]) => ({ state, lines: list.length }))
  return { lines: lines.slice(0, mostLines), total: lines.length, counts }
}

function linesOf(result: JobResult | null): JobDetails['lines'] {
  if (result?.kind === 'verify' || result?.kind === 'compare') return [...result.lines]
  if (result?.kind !== 'offload') return []
  const { refused, unlike = [], left = [], passedOver = [] } = result
  return [
    ...refused.map(({ path, reason }) => ({ path, state: 'not copied', detail: reason })),
    ...unlike.map(({ path, reason }) => ({ path, state: 'not as listed', detail: reason })),
    ...left.map((path) => ({ path, state: 'left', detail: 'by choice' })),
    ...passedOver.map(({ path, what }) => ({ path, state: 'passed over', detail: what })),
  ]
}

/** What needs a look first, then what comes, and what has come last. */
async function readFetched(database: Database, jobId: string, isRunning: boolean): Promise<JobDetails> {
  const { path, reason, ordinal, doneBytes, sizeBytes } = fetchedFiles
  // What was on its way when a job ended comes again when it goes on.
  const state = isRunning
    ? fetchedFiles.state
    : sql<string>`case ${fetchedFiles.state} when 'arriving' then 'waiting' else ${fetchedFiles.state} end`
  const ofJob = eq(fetchedFiles.jobId, jobId)
  const counts = await database
    .select({ state, lines: sql<number>`count(*)::int` })
    .from(fetchedFiles)
    .where(ofJob)
    .groupBy(sql`1`)
    .orderBy(sql`1`)
  const rows = await database
    .select({ path, state, detail: reason, doneBytes, sizeBytes })
    .from(fetchedFiles)
    .where(ofJob)
    .orderBy(sql`array_position(array['refused', 'arriving', 'waiting', 'verified'], ${state})`, asc(ordinal))
    .limit(isRunning ? mostWhileRunning : mostLines)
  const lines = rows.map(({ doneBytes: done, sizeBytes: of, ...line }) => ({ ...line, bytes: { done, of } }))
  return { lines, total: counts.reduce((sum, each) => sum + each.lines, 0), counts }
}
