import type { SinceHandoff } from '@ennick/contract'
import {
  type ChangeSince,
  type Cut,
  changesSince,
  conformCut,
  type HandedCut,
  handedCut,
  preflight,
} from '@ennick/core'
import { desc, eq } from 'drizzle-orm'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { notFound } from '../errors.ts'
import type { Queryable } from '../store/database.ts'
import { handedCuts, handoffs } from '../store/handoff-schema.ts'
import { jobs } from '../store/job-schema.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import { contentOf } from '../store/known-material.ts'
import { cuts } from '../store/schema.ts'

/** The cut on its originals, as its lists say it. */
export function onOriginals({ cut, resolutions, clips, material }: CutState): Cut {
  const { width, height } = material.production
  return conformCut(cut, resolutions, clips, { name: cut.name, production: { width, height } })
}

/** What the lists of a cut would say now. */
export const handedNow = (state: CutState): HandedCut =>
  handedCut(
    onOriginals(state),
    state.resolutions.map(({ clipId }) => {
      const clip = clipId === null ? undefined : state.material.clips.get(clipId)
      return clip ? contentOf(clip) : null
    }),
  )

/** A state stays as it is, and so does a handoff: what lies between them is worked out once. */
const known = new WeakMap<CutState, Map<string, Promise<readonly ChangeSince[] | null>>>()

/** A handoff, whose lists point at originals, or the job of a pull, or of the check of a finished file. */
export type Handed = { readonly handoffId: string } | { readonly jobId: string }

/** What a cut says now that is another thing than was handed off; null where it was not kept what that was. */
export function changesSinceHandoff(
  database: Queryable,
  which: Handed,
  state: CutState,
): Promise<readonly ChangeSince[] | null> {
  const isHandoff = 'handoffId' in which
  const handedId = isHandoff ? which.handoffId : which.jobId
  const ofState = known.get(state) ?? new Map<string, Promise<readonly ChangeSince[] | null>>()
  known.set(state, ofState)
  const found =
    ofState.get(handedId) ??
    database
      .select()
      .from(handedCuts)
      .where(eq(isHandoff ? handedCuts.handoffId : handedCuts.jobId, handedId))
      .then(([row]) => (row ? changesSince(row.handed, handedNow(state), { withPlaces: isHandoff }) : null))
  ofState.set(handedId, found)
  found.catch(() => ofState.delete(handedId))
  return found
}

/** Whether what was handed off is still what the cut says, and whether the cut would still be let go. */
export async function readSinceHandoff(
  database: Queryable,
  material: KeptMaterial,
  which: Handed,
): Promise<SinceHandoff> {
  const state = await readCutState(database, await cutOf(database, which), material)
  const changes = await changesSinceHandoff(database, which, state)
  const [newest] = await database
    .select({ cutId: cuts.id, version: cuts.version })
    .from(cuts)
    .where(eq(cuts.lineId, state.row.lineId))
    .orderBy(desc(cuts.version))
    .limit(1)
  return {
    changes: changes && [...changes],
    blocking: preflight(state.findings, state.decisions).open.length,
    laterVersion: newest && newest.version > state.row.version ? newest : null,
  }
}

/** Keeps what a cut said when a job pulled of it, or held a finished file against it. */
export async function keepHanded(database: Queryable, jobId: string, handed: HandedCut): Promise<void> {
  const values = { jobId, handed }
  await database.insert(handedCuts).values(values).onConflictDoUpdate({ target: handedCuts.jobId, set: { handed } })
}

/** @throws PlainError for a handoff, or a job of a cut, that is not there */
async function cutOf(database: Queryable, which: Handed): Promise<string> {
  if ('handoffId' in which) {
    const [row] = await database.select().from(handoffs).where(eq(handoffs.id, which.handoffId))
    if (!row) throw notFound('This handoff')
    return row.cutId
  }
  const [job] = await database.select({ input: jobs.input }).from(jobs).where(eq(jobs.id, which.jobId))
  const input = job?.input
  const cutId = input?.kind === 'pull' || input?.kind === 'finished' ? input.cutId : null
  if (cutId === null) throw notFound('This pull, or check of a finished file,')
  return cutId
}
