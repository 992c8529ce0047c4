import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { BoxLabel, Restore, RestorePlanInfo } from '@ennick/contract'
import { and, desc, eq, sql } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addVolume } from '../intake/add-volume.ts'
import { addJob, type JobRow, presentJob } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import { jobs } from '../store/job-schema.ts'
import { readProduction } from '../store/production-row.ts'
import { addProduction, assertNameFree } from '../store/productions.ts'
import { type ArchiveRecord, findArchive } from './archive-record.ts'

const mostNamed = 200

/** Putting productions together again from their archives. */
export function restoreRoutes({ app, database, config, folders }: Services): void {
  implement(app, 'planRestore', async ({ body }) => {
    const folder = await folders.resolve(body.folder)
    const { record } = await findArchive(folder)
    return presentPlan(folder, record)
  })

  implement(app, 'restore', async ({ body: { name, verifies, ...body } }) => {
    const folder = await folders.resolve(body.folder)
    const { record } = await findArchive(folder)
    const { blocked, volumes } = await presentPlan(folder, record)
    if (blocked !== null) throw new PlainError('restore-blocked', blocked, { status: 409 })
    await assertNameFree(database, name)
    // Where each lies is known before anything is made.
    const places: { label: string; box: BoxLabel; rootPath: string }[] = []
    for (const [index, { label, box }] of record.volumes.entries()) {
      const place = volumes[index]
      if (place?.isThere) places.push({ label, box, rootPath: await folders.resolve(join(folder, place.folder)) })
    }
    const production = await database.transaction((transaction) =>
      addProduction(transaction, config.dataFolder, { ...record.production, name, isDemo: false }),
    )
    for (const place of places) await addVolume(database, production.id, { ...place, kind: 'drive' })
    const input = { kind: 'restore' as const, folder, verifies }
    const job = await addJob(database, production.id, `Put “${name}” together again from ${folder}`, input)
    await announce(database, null, 'productions')
    return { productionId: production.id, job: presentJob(job) }
  })

  implement(app, 'readRestore', async ({ params }) => {
    await readProduction(database, params.productionId)
    const [row] = await database
      .select()
      .from(jobs)
      .where(and(eq(jobs.productionId, params.productionId), sql`${jobs.input}->>'kind' = 'restore'`))
      .orderBy(desc(jobs.createdAt))
      .limit(1)
    return row ? presentRestore(row) : null
  })
}

async function presentPlan(
  folder: string,
  { production, volumes, clips, cuts, madeAt, lacks }: ArchiveRecord,
): Promise<RestorePlanInfo> {
  const isThere = (name: string): Promise<boolean> =>
    stat(join(folder, name)).then(
      (stats) => stats.isDirectory(),
      () => false,
    )
  const found = await Promise.all(
    volumes.map(async ({ label, folder: name }) => ({ label, folder: name, isThere: await isThere(name) })),
  )
  const { name, rate, width, height } = production
  return {
    ...{ name, rate, width, height, madeAt, volumes: found, clips: clips.length, lists: cuts.length },
    ...{ lacks: lacks.slice(0, mostNamed), lacksCount: lacks.length },
    blocked: found.some((volume) => volume.isThere) ? null : `None of the folders of its volumes is in ${folder}.`,
  }
}

function presentRestore(row: JobRow): Restore | null {
  const { input, result } = row
  if (input.kind !== 'restore') return null
  const done = result?.kind === 'restore' ? result : null
  return {
    ...{ job: presentJob(row), folder: input.folder },
    outcome: done && {
      ...{ verified: done.verified, clips: done.clips, recipes: done.recipes, cuts: done.cuts },
      ...{ trouble: done.trouble.slice(0, mostNamed), troubleCount: done.trouble.length },
      ...{ lacks: (done.lacks ?? []).slice(0, mostNamed), lacksCount: done.lacks?.length ?? 0 },
    },
  }
}
