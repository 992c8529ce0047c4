import { and, asc, eq, inArray, isNull, notExists, or, sql } from 'drizzle-orm'
import type { Config } from '../config.ts'
import { PlainError } from '../errors.ts'
import type { WorkContext } from '../queue/context.ts'
import { addJob, type JobRow } from '../queue/jobs.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { cameraProxies, pictureSignatures } from '../store/catalogue-schema.ts'
import type { Queryable } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { JobResult } from '../store/job-types.ts'
import { clipFiles, clips, files, pairs, volumes } from '../store/schema.ts'
import { comparePicturesOf } from './compare-pictures.ts'
import { giveWay } from './give-way.ts'
import { lookAtFile } from './look-at-file.ts'

/** Puts a look at what is new on the queue, unless one waits there already. */
export async function lookLater(database: Queryable, config: Config, productionId: string): Promise<void> {
  if (!config.looks || (await waitingLook(database, productionId))) return
  const [file] = await database
    .select({ id: files.id })
    .from(files)
    .innerJoin(...ofVolume)
    .where(notSeen(productionId))
    .limit(1)
  const [pair] = await notCompared(database, productionId, 1)
  if (file || pair) await addLook(database, productionId)
}

/**
 * Puts a look at everything that was not looked at yet on the queue, as a person asks; one that waits already is it.
 * @throws PlainError where nothing is looked at
 */
export async function askForLook(database: Queryable, config: Config, productionId: string): Promise<JobRow> {
  if (!config.looks)
    throw new PlainError('no-looks', 'Ennick was started with ENNICK_LOOK=no: it does not look at pictures here.', {
      status: 409,
    })
  return (await waitingLook(database, productionId)) ?? addLook(database, productionId)
}

const addLook = (database: Queryable, productionId: string): Promise<JobRow> =>
  addJob(database, productionId, 'Look at the pictures of what is new', { kind: 'look' })

async function waitingLook(database: Queryable, productionId: string): Promise<JobRow | undefined> {
  const ofKind = sql`${jobs.input}->>'kind' = 'look'`
  const [waiting] = await database
    .select()
    .from(jobs)
    .where(and(eq(jobs.productionId, productionId), eq(jobs.state, 'waiting'), ofKind))
    .limit(1)
  return waiting
}

const filesAtOnce = 100
const pairsAtOnce = 50

/**
 * Looks at the pictures of every original and every waiting proxy that was not looked at yet, and then compares those
 * of pairs that others made. It gives way to all other work, and goes on where it was when it is begun again.
 */
export async function lookAtNew(context: WorkContext, meter: ProgressMeter): Promise<JobResult> {
  const { database, job } = context
  const result = { kind: 'look' as const, looked: 0, damaged: 0, compared: 0 }
  const passed = new Set<string>()
  meter.restart()
  for (;;) {
    const rows = await database
      .select({ file: files, volume: volumes, clipId: clipFiles.clipId, left: sql<number>`count(*) over ()::int` })
      .from(files)
      .innerJoin(...ofVolume)
      .leftJoin(clipFiles, eq(clipFiles.fileId, files.id))
      .where(notSeen(job.productionId))
      .orderBy(asc(volumes.label), asc(files.path))
      .limit(filesAtOnce + passed.size)
    const fresh = rows.filter(({ file }) => !passed.has(file.id))
    if (fresh.length === 0) break
    for (const { file, volume, clipId, left } of fresh) {
      await giveWay(context)
      const outcome = await lookAtFile(context, file, volume, clipId)
      // What left meanwhile is looked at when it is back; the others are not asked for again.
      if (outcome === 'absent') {
        passed.add(file.id)
        continue
      }
      result.looked++
      if (outcome === 'damaged') result.damaged++
      meter.report(result.looked, Math.max(left, result.looked), 'files')
    }
  }
  result.compared = await comparePicturesOf(context, meter, (after) =>
    notCompared(database, job.productionId, pairsAtOnce, after),
  )
  await announce(database, job.productionId, 'volumes')
  return result
}

const ofVolume = [volumes, eq(volumes.id, files.volumeId)] as const

/** Files with pictures that are here, belong to a clip or wait for one, and of whose content nothing was looked at. */
const notSeen = (productionId: string) =>
  and(
    eq(volumes.productionId, productionId),
    eq(volumes.isHere, true),
    eq(files.isGone, false),
    isNull(files.problem),
    sql`jsonb_typeof(${files.facts}->'picture') = 'object'`,
    notExists(sql`(select 1 from ${pictureSignatures} where ${pictureSignatures.fingerprint} = ${files.fingerprint})`),
    or(
      sql`exists (select 1 from ${clipFiles} as part where part.file_id = ${files.id})`,
      sql`exists (select 1 from ${cameraProxies} as small where small.file_id = ${files.id})`,
    ),
  )

/**
 * Active pairs, in the order of their ids, whose pictures nobody has compared in their present content, and of which all
 * files are here.
 */
function notCompared(database: Queryable, productionId: string, limit: number, after: string | null = null) {
  return database
    .select({ pairId: pairs.id, clipId: pairs.clipId })
    .from(pairs)
    .innerJoin(clips, eq(clips.id, pairs.clipId))
    .where(
      and(
        eq(clips.productionId, productionId),
        eq(pairs.isActive, true),
        inArray(pairs.kind, ['proxy', 'optimized']),
        after === null ? undefined : sql`${pairs.id} > ${after}`,
        sql`exists (select from pair_files part join files file on file.id = part.file_id
          where part.pair_id = ${pairs.id} and jsonb_typeof(file.facts->'picture') = 'object')`,
        sql`not exists (
          select from (select file_id from clip_files where clip_id = ${pairs.clipId}
            union all select file_id from pair_files where pair_id = ${pairs.id}) as part
          join files file on file.id = part.file_id join volumes volume on volume.id = file.volume_id
          where file.is_gone or file.problem is not null or not volume.is_here)`,
        sql`(${pairs.picturesCompared} is not null and ${pairs.picturesCompared} is distinct from
          (select coalesce(jsonb_agg(seen.fingerprint), '[]') from (
            (select file.fingerprint from clip_files part join files file on file.id = part.file_id
              where part.clip_id = ${pairs.clipId} order by part.ordinal)
            union all
            (select file.fingerprint from pair_files part join files file on file.id = part.file_id
              where part.pair_id = ${pairs.id} order by part.ordinal)) as seen)
          or ${pairs.picturesCompared} is null and not coalesce(${pairs.proof} @> '[{"aspect": "pictures"}]', false))`,
      ),
    )
    .orderBy(asc(pairs.id))
    .limit(limit)
}
