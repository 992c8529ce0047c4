import type { MakeBatch } from '@ennick/contract'
import { formatTimecode, revisedSize } from '@ennick/core'
import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import { refreshIndex } from '../clips/index-refresh.ts'
import { makesOf, waitsForVolume } from '../queue/jobs.ts'
import { anyOf } from '../store/any-of.ts'
import { clipIndex } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { batchLists, batchOfJob, jobs, joinedFiles, makeBatches } from '../store/job-schema.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import { clips, volumes } from '../store/schema.ts'
import { presentTakenIn } from './taken-in.ts'

type BatchRow = typeof makeBatches.$inferSelect
type BatchJob = Pick<
  typeof jobs.$inferSelect,
  'id' | 'title' | 'input' | 'state' | 'error' | 'startedAt' | 'endedAt' | 'waitsForVolume'
> & { readonly bytes: number | null }

const madeBytes = sql<number | null>`(${jobs.result}->>'bytes')::float8`

/** Batches that are told, the newest first. */
const mostBatches = 10
/** Clips that are named one by one. */
const mostNamed = 200

/**
 * What was asked for at once and what became of it: every item is made, failed, stopped, skipped, or still to come, and
 * those add up to what was asked for. Besides, what of the same shoot days was not asked for and has nothing made yet.
 */
export async function readBatches(database: Database, kept: KeptMaterial, productionId: string): Promise<MakeBatch[]> {
  const rows = await database
    .select()
    .from(makeBatches)
    .where(eq(makeBatches.productionId, productionId))
    .orderBy(desc(makeBatches.createdAt))
    .limit(mostBatches)
  if (rows.length === 0) return []
  const batchIds = rows.map((row) => row.id)
  const { id, title, input, state, error, startedAt, endedAt } = jobs
  const found = await database
    .select({
      ...{ id, title, input, state, error, startedAt, endedAt, waitsForVolume: jobs.waitsForVolume },
      ...{ batchId: batchOfJob, bytes: madeBytes },
    })
    .from(jobs)
    .where(and(eq(jobs.productionId, productionId), anyOf(batchOfJob, batchIds)))
    .orderBy(jobs.place)
  await refreshIndex(database, productionId)
  const lists = await database.select().from(batchLists).where(anyOf(batchLists.batchId, batchIds))
  const joinedRows = await database
    .select({ file: joinedFiles, place: volumes.label })
    .from(joinedFiles)
    .innerJoin(volumes, eq(volumes.id, joinedFiles.volumeId))
    .where(and(anyOf(joinedFiles.batchId, batchIds), isNull(joinedFiles.removedAt)))
    .orderBy(joinedFiles.createdAt)
  const material = lists.length ? await kept.read(productionId) : null
  return Promise.all(
    rows.map(async (row) => {
      const own = found.filter(({ batchId }) => batchId === row.id)
      const list = lists.find(({ batchId }) => batchId === row.id)
      const made = new Set(own.flatMap(({ state, input }) => (state === 'done' ? makesOf(input) : [])))
      const takenIn = list && material ? presentTakenIn(material, list, made) : null
      const joined = joinedRows.filter(({ file }) => file.batchId === row.id).map(presentJoined)
      return { ...(await presentBatch(database, row, own)), joined, takenIn }
    }),
  )
}

async function presentBatch(
  database: Database,
  row: BatchRow,
  own: readonly BatchJob[],
): Promise<Omit<MakeBatch, 'takenIn' | 'joined'>> {
  const itemsOf = (some: readonly BatchJob[]): number => some.reduce((sum, { input }) => sum + makesOf(input).length, 0)
  const items = (states: readonly BatchJob['state'][]): number =>
    itemsOf(own.filter(({ state }) => states.includes(state)))
  const waiting = own.filter(waitsForVolume)
  const failed = own.filter((job) => job.state === 'failed' && !waitsForVolume(job))
  const times = (of: 'startedAt' | 'endedAt'): number[] => own.flatMap((job) => job[of]?.getTime() ?? [])
  const toCome = items(['waiting', 'running'])
  const [first, last] = [Math.min(...times('startedAt')), Math.max(...times('endedAt'))]
  return {
    id: row.id,
    createdAt: row.createdAt.toISOString(),
    recipes: [...row.recipes],
    clips: row.clipIds.length,
    counts: {
      asked: items(['done', 'failed', 'cancelled', 'waiting', 'running']) + row.skipped.length,
      made: items(['done']),
      failed: itemsOf(failed),
      stopped: items(['cancelled']),
      skipped: row.skipped.length,
      toCome,
      waits: itemsOf(waiting),
    },
    seconds:
      toCome === 0 && waiting.length === 0 && Number.isFinite(last - first) ? Math.round((last - first) / 1000) : null,
    size: revisedSize(own.flatMap(sizesOf)),
    failed: failed.map(({ id, title, error }) => ({ jobId: id, title, reason: error ?? 'no reason was given' })),
    waiting: waiting.map(({ title, error }) => ({ title, reason: error ?? 'no reason was given' })),
    stopped: own.filter(({ state }) => state === 'cancelled').map(({ title }) => title),
    skipped: row.skipped.map(({ name, recipe, reason }) => ({ name, recipe, reason })),
    leftOut: await leftOutOfTheDay(database, row),
  }
}

/** What was planned for a job that is done or to come, and what it made; what failed or was stopped weighs nothing. */
function sizesOf(job: BatchJob): Parameters<typeof revisedSize>[0][number][] {
  const { input, state, bytes } = job
  if (input.kind !== 'make' || input.plannedBytes === undefined) return []
  if (state === 'cancelled' || (state === 'failed' && !waitsForVolume(job))) return []
  if (state === 'done' && bytes === null) return []
  return [{ plannedBytes: input.plannedBytes, madeBytes: state === 'done' ? bytes : null }]
}

function presentJoined({
  file,
  place,
}: {
  file: typeof joinedFiles.$inferSelect
  place: string
}): MakeBatch['joined'][number] {
  const { id, path, entries, sizeBytes, createdAt } = file
  const frames = entries.reduce((sum, entry) => sum + entry.frames, 0)
  const rate = { numerator: file.rateNumerator, denominator: file.rateDenominator }
  return {
    ...{ id, path, place, parts: entries.length, duration: formatTimecode(frames, rate, false) },
    ...{ sizeBytes, createdAt: createdAt.toISOString() },
  }
}

/** Pictures of the shoot days of a batch that it was not asked for, and of which nothing is made yet. */
async function leftOutOfTheDay(database: Database, row: BatchRow): Promise<MakeBatch['leftOut']> {
  const day = sql<string | null>`${clipIndex.described}->>'day'`
  const asked = anyOf(clipIndex.clipId, row.clipIds)
  const days = await database
    .select({ day })
    .from(clipIndex)
    .where(and(eq(clipIndex.productionId, row.productionId), asked, sql`coalesce(${day}, '') <> ''`))
    .groupBy(day)
    .orderBy(sql`(${day}) collate "ennick_natural"`)
  if (days.length === 0) return { days: [], total: 0, names: [] }
  const names = await database
    .select({ name: clips.name, total: sql<number>`count(*) over ()::int` })
    .from(clipIndex)
    .innerJoin(clips, eq(clips.id, clipIndex.clipId))
    .where(
      and(
        eq(clipIndex.productionId, row.productionId),
        eq(clipIndex.proxy, 'no proxy'),
        sql`not (${asked})`,
        anyOf(
          day,
          days.flatMap(({ day: each }) => each ?? []),
        ),
      ),
    )
    .orderBy(clips.name)
    .limit(mostNamed)
  return {
    days: days.flatMap(({ day: each }) => each ?? []),
    total: names[0]?.total ?? 0,
    names: names.map(({ name }) => name),
  }
}
