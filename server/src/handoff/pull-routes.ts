import { join, sep } from 'node:path'
import type { ArchiveTarget, Pull, PullPlanInfo, PullTarget } from '@ennick/contract'
import { and, desc, eq, type SQL, sql } from 'drizzle-orm'
import { readCutRow, readCutState, readNewestCutStates } from '../cuts/cut-state.ts'
import { freeBytes } from '../disk/free-space.ts'
import { whyNoRoom } from '../disk/room.ts'
import { rootIdentity } from '../disk/volume-presence.ts'
import { PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { lookForPlaced } from '../intake/describe-file.ts'
import { exists } from '../placements/unfinished-files.ts'
import { addJob, type JobRow, presentJob } from '../queue/jobs.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import { readProduction } from '../store/production-row.ts'
import { volumes } from '../store/schema.ts'
import { damageOf, outstandingOf, type PullPlan, planAll, planPull } from './pull-plan.ts'

/** Copying what a cut needs to where it goes on, and what a production needs to come back. */
export function pullRoutes({ app, database, material, folders }: Services): void {
  const planFor = async (cutId: string, body: PullTarget): Promise<PullPlanInfo> => {
    const state = await readCutState(database, cutId, material)
    const plan = await presentPlan(database, planPull(state, body.of, body.handles), body)
    const isTrial = state.material.production.trialOf !== null
    return isTrial ? { ...plan, blocked: 'A trial hands nothing off: keep it, and pull from its production.' } : plan
  }
  const planArchive = async (productionId: string, body: ArchiveTarget): Promise<PullPlanInfo> => {
    const media = await material.read(productionId)
    const newest = await readNewestCutStates(database, media)
    return presentPlan(database, planAll(media, newest), body)
  }
  const assertFree = ({ blocked }: PullPlanInfo): void => {
    if (blocked !== null) throw new PlainError('pull-blocked', blocked, { status: 409 })
  }
  implement(app, 'planPull', async ({ params, body }) =>
    planFor(params.cutId, { ...body, folder: await folders.resolve(body.folder) }),
  )
  implement(app, 'pull', async ({ params, body }) => {
    const asked = { ...body, folder: await folders.resolve(body.folder) }
    assertFree(await planFor(params.cutId, asked))
    const row = await readCutRow(database, params.cutId)
    const title = `Pull the ${body.of} of “${row.name}” to ${join(asked.folder, body.name)}`
    const input = { kind: 'pull' as const, cutId: row.id, ...asked, place: await rootIdentity(asked.folder) }
    return presentJob(await addJob(database, row.productionId, title, input))
  })
  implement(app, 'listPulls', async ({ params }) => {
    const row = await readCutRow(database, params.cutId)
    return listPulls(database, row.productionId, sql`${jobs.input}->>'cutId' = ${row.id}`)
  })

  implement(app, 'planArchive', async ({ params, body }) =>
    planArchive(params.productionId, { ...body, folder: await folders.resolve(body.folder) }),
  )
  implement(app, 'archive', async ({ params, body }) => {
    const asked = { ...body, folder: await folders.resolve(body.folder) }
    assertFree(await planArchive(params.productionId, asked))
    const { name } = await readProduction(database, params.productionId)
    const title = `Archive the originals of “${name}” to ${join(asked.folder, body.name)}`
    const place = await rootIdentity(asked.folder)
    const input = { kind: 'pull' as const, cutId: null, of: 'originals' as const, handles: null, ...asked, place }
    return presentJob(await addJob(database, params.productionId, title, input))
  })
  implement(app, 'listArchives', async ({ params }) => {
    await readProduction(database, params.productionId)
    return listPulls(database, params.productionId, sql`${jobs.input}->>'cutId' is null`)
  })
}

async function listPulls(database: Database, productionId: string, which: SQL): Promise<Pull[]> {
  const rows = await database
    .select()
    .from(jobs)
    .where(and(eq(jobs.productionId, productionId), sql`${jobs.input}->>'kind' = 'pull'`, which))
    .orderBy(desc(jobs.createdAt))
  return rows.flatMap(presentPull)
}

async function presentPlan(
  database: Database,
  plan: PullPlan,
  { folder, name }: { folder: string; name: string },
): Promise<PullPlanInfo> {
  const target = join(folder, name)
  // A folder that is yet to be made holds nothing: not one of many thousand files is looked for in it.
  const isMade = await exists(target)
  let files = 0
  let bytes = 0
  let already = 0
  for (const { folder: below, files: whole, pieces } of plan.volumes) {
    for (const file of whole) {
      const root = join(target, below)
      const place = { root, fullPath: join(root, file.path), sequence: file.sequence }
      const there = isMade ? await lookForPlaced(place).catch(() => null) : null
      files++
      if (there?.sizeBytes === file.sizeBytes) already++
      else bytes += file.sizeBytes
    }
    for (const piece of pieces) {
      const there = isMade && (await exists(join(target, below, piece.path)))
      files++
      if (there) already++
      else bytes += piece.bytes
    }
  }
  const pieces = plan.volumes.reduce((sum, planned) => sum + planned.pieces.length, 0)
  const sources = new Map(plan.clips.flatMap((pulled) => pulled.files).map((file) => [file.id, file.sizeBytes]))
  const wholeBytes = [...sources.values()].reduce((sum, size) => sum + size, 0)
  const free = await freeBytes(folder)
  const outstanding = outstandingOf(plan)
  const damaged = plan.clips.flatMap((pulled) => {
    const reason = damageOf(pulled)
    return reason === null ? [] : [{ name: pulled.clip.name, reason }]
  })
  return {
    ...{
      clips: plan.clips.length,
      files,
      pieces,
      bytes,
      wholeBytes,
      already,
      target,
      freeBytes: free,
      outstanding,
      damaged,
    },
    blocked: await whyNot(database, { target, files, bytes, free }),
  }
}

/** Why nothing may be copied there; null where it may. */
async function whyNot(
  database: Database,
  { target, files, bytes, free }: { target: string; files: number; bytes: number; free: number },
): Promise<string | null> {
  if (files === 0) return 'Nothing of what is wanted is here.'
  const isIn = (path: string, root: string): boolean => path === root || path.startsWith(root + sep)
  for (const { label, rootPath } of await database.select().from(volumes))
    if (isIn(target, rootPath) || isIn(rootPath, target))
      return (
        `${target} ${isIn(target, rootPath) ? 'lies on' : 'holds'} volume “${label}”: what is copied there would be taken ` +
        'for material of its own at the next scan. Choose a folder that belongs to no volume.'
      )
  return whyNoRoom('It', bytes, free, 'there')
}

/** A reason may be long, and so may a list of them. */
const mostNamed = 200
const mostMissed = 12

function presentPull(row: JobRow): Pull[] {
  const { input, result } = row
  if (input.kind !== 'pull') return []
  const done = result?.kind === 'pull' ? result : null
  const { of, folder, name, hash, handles } = input
  return [
    {
      ...{ job: presentJob(row), asked: { of, folder, name, hash, handles }, target: join(folder, name) },
      outcome: done && {
        ...{ copied: done.copied, already: done.already, bytes: done.bytes, manifest: done.manifest },
        events: { short: 0, damaged: 0, ...done.events },
        ...{ lists: done.lists, withoutLists: done.withoutLists },
        opened:
          done.opened?.map(({ name, missed }) => ({
            ...{ name, missed: missed.slice(0, mostMissed), missedCount: missed.length },
          })) ?? null,
        outstanding: done.outstanding.slice(0, mostNamed),
        outstandingCount: done.outstanding.length,
        refused: done.refused.slice(0, mostNamed),
        refusedCount: done.refused.length,
      },
    },
  ]
}
