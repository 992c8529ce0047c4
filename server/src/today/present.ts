import type { Today } from '@ennick/contract'
import { groupBy, isWell, preflight } from '@ennick/core'
import { and, asc, eq, inArray, isNotNull, sql } from 'drizzle-orm'
import { isAtRisk } from '../clips/notices.ts'
import { type CutState, readNewestCutStates } from '../cuts/cut-state.ts'
import { firstSeen, isNew } from '../cuts/first-seen.ts'
import { changesSinceHandoff } from '../handoff/since.ts'
import { countNotCompared } from '../intake/compare-copies.ts'
import { countMoved } from '../mend/same-content.ts'
import { releasable } from '../pairs/release.ts'
import type { Queryable } from '../store/database.ts'
import { handoffs } from '../store/handoff-schema.ts'
import { jobs } from '../store/job-schema.ts'
import type { Material } from '../store/known-material.ts'
import { clips, files, mends, volumes } from '../store/schema.ts'
import { presentVolumesAway } from './volumes-away.ts'

/** Is everything in, what runs, what is wrong, what next. */
export async function presentToday(database: Queryable, material: Material): Promise<Today> {
  const productionId = material.production.id
  const states = await readNewestCutStates(database, material)
  const clips = [...material.clips.values()]
  const pictures = clips.filter((clip) => clip.main.facts?.kind === 'picture')
  const pairs = [...material.pairs.values()]
  const away = presentVolumesAway(material, states)
  const handedOff = await lastHandoffs(database, productionId)
  const since = await firstSeen(database, states)
  const cuts: Today['cuts'][number][] = []
  for (const state of states) {
    const last = handedOff.get(state.row.id)
    const changes = last ? await changesSinceHandoff(database, { handoffId: last.id }, state) : null
    cuts.push({
      ...presentCutLine(state, since.get(state.row.id)),
      ...{ handedOffAt: last?.createdAt.toISOString() ?? null, changedSince: changes?.length ?? 0 },
    })
  }
  const verdicts = new Map<string, number>()
  for (const pair of pairs) verdicts.set(pair.verdict, (verdicts.get(pair.verdict) ?? 0) + 1)
  const gone = clips.filter(({ presence }) => presence === 'gone').length
  const moved = gone ? await countMoved(database, productionId) : new Map<string, number>()
  const here = material.volumes.filter((volume) => volume.isHere)
  const unscanned = here.filter(({ kind, lastScanAt }) => kind !== 'made' && lastScanAt === null)
  const atRisk = groupBy(clips.filter(isAtRisk), (clip) => clip.main.volume)
  const notCompared = await countNotCompared(database, productionId)
  const isDone =
    !material.production.trialOf &&
    cuts.length > 0 &&
    cuts.every((cut) => cut.handedOffAt !== null && cut.changedSince === 0 && cut.blocking === 0)
  const live = await database.$count(
    jobs,
    and(eq(jobs.productionId, productionId), inArray(jobs.state, ['waiting', 'running'])),
  )
  return {
    counts: {
      intake: away.filter(({ isMissed }) => isMissed).length + unscanned.length,
      clips: pictures.filter((clip) => clip.reel === null).length,
      make: live,
      pairs: pairs.filter((pair) => !isWell(pair.verdict)).length,
      cuts: states.filter((state) => state.resolutions.some((resolution) => resolution.state !== 'on original')).length,
      mend: states.reduce((sum, state) => sum + state.findings.length, 0),
      // A trial hands nothing off.
      handoff: material.production.trialOf
        ? 0
        : cuts.filter((cut) => cut.blocking === 0 && (cut.handedOffAt === null || cut.changedSince > 0)).length,
    },
    clips: {
      total: clips.length,
      picture: pictures.length,
      withoutProxy: pictures.filter((clip) => clip.pairs.length === 0).length,
      bytes: clips.reduce((sum, clip) => sum + clip.files.reduce((inner, file) => inner + file.sizeBytes, 0), 0),
    },
    volumesAway: away,
    neverScanned: unscanned.map(({ label }) => label),
    growing: here.flatMap(({ label, growingFiles }) => (growingFiles ? [{ label, files: growingFiles }] : [])),
    onlyOnCard: [...atRisk].map(([{ id, label }, some]) => ({
      ...{ volumeId: id, label, clips: some.length },
      notCompared: Math.min(some.length, notCompared.get(id)?.clips ?? 0),
    })),
    gone,
    moved: here.flatMap(({ id, label }) => {
      const originals = moved.get(id)
      return originals ? [{ volumeId: id, label, originals }] : []
    }),
    pairVerdicts: [...verdicts].map(([verdict, count]) => ({ verdict, count })).sort((a, b) => b.count - a.count),
    cuts,
    done: isDone
      ? { ...(await releasable(database, material)), isArchived: await isArchived(database, productionId) }
      : null,
    problems: await countProblems(database, productionId),
  }
}

function presentCutLine(
  state: CutState,
  since: ReadonlyMap<string, Date> | undefined,
): Omit<Today['cuts'][number], 'handedOffAt' | 'changedSince'> {
  return {
    id: state.row.id,
    name: state.row.name,
    events: state.cut.events.length,
    onOriginal: state.resolutions.filter((resolution) => resolution.state === 'on original').length,
    fresh: state.findings.filter(({ key }) => isNew(since?.get(key))).length,
    blocking: preflight(state.findings, state.decisions).open.length,
  }
}

/** The newest handoff of each cut. */
async function lastHandoffs(
  database: Queryable,
  productionId: string,
): Promise<Map<string, { id: string; createdAt: Date }>> {
  const rows = await database
    .select({ cutId: handoffs.cutId, id: handoffs.id, createdAt: handoffs.createdAt })
    .from(handoffs)
    .where(eq(handoffs.productionId, productionId))
    .orderBy(asc(handoffs.createdAt), asc(handoffs.id))
  return new Map(rows.map((row) => [row.cutId, row]))
}

/** Whether a whole archive of the production was made: nothing was outstanding, and nothing came or was mended since. */
async function isArchived(database: Queryable, productionId: string): Promise<boolean> {
  const newest = sql`select greatest(
    (select max(created_at) from ${clips} where production_id = ${productionId}),
    (select max(greatest(created_at, undone_at)) from ${mends} where production_id = ${productionId}))`
  const isArchive = sql`${jobs.input}->>'kind' = 'pull' and ${jobs.input}->>'cutId' is null
    and ${jobs.result}->'outstanding' = '[]' and ${jobs.startedAt} > coalesce((${newest}), '-infinity')`
  return (await database.$count(jobs, and(eq(jobs.productionId, productionId), eq(jobs.state, 'done'), isArchive))) > 0
}

function countProblems(database: Queryable, productionId: string): Promise<number> {
  const ofProduction = database.select({ id: volumes.id }).from(volumes).where(eq(volumes.productionId, productionId))
  return database.$count(
    files,
    and(inArray(files.volumeId, ofProduction), isNotNull(files.problem), eq(files.isGone, false)),
  )
}
