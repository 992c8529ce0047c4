import { eq } from 'drizzle-orm'
import { type CutRow, type CutState, cutColumns, readAllCutStates, readCutState } from '../cuts/cut-state.ts'
import { notFound, PlainError } from '../errors.ts'
import type { MendRow } from '../mend/links.ts'
import { isVersionMend } from '../mend/version-mend.ts'
import type { Queryable } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import { readProduction } from '../store/production-row.ts'
import { cuts, mends } from '../store/schema.ts'
import type { TrialOf } from '../store/trial.ts'

/** A trial as it stands: its cut in its newest version, the cut that it is of, and what was mended in it. */
export interface TrialState {
  readonly trialOf: TrialOf
  /** Every version of the cut in the trial, by its id. */
  readonly versions: ReadonlyMap<string, CutState>
  /** The newest version in the trial. */
  readonly tried: CutState
  /** The newest version of the cut in its own production; null when that was taken out. */
  readonly origin: CutState | null
  /** Mends that are done, the first one first. */
  readonly mends: readonly MendRow[]
}

export async function readTrial(database: Queryable, kept: KeptMaterial, productionId: string): Promise<TrialState> {
  const { trialOf } = await readProduction(database, productionId)
  if (!trialOf) throw new PlainError('no-trial', 'This production is no trial.', { status: 404 })
  const triedRow = await newestVersionOf(database, trialOf.copyId)
  if (!triedRow) throw notFound('The cut of this trial')
  const originRow = await newestVersionOf(database, trialOf.cutId)
  const done = await database.select().from(mends).where(eq(mends.productionId, productionId)).orderBy(mends.createdAt)
  const tried = await readCutState(database, triedRow.id, kept)
  const versions = await readAllCutStates(database, tried.material)
  return {
    ...{ trialOf, tried },
    versions: new Map(versions.map((state) => [state.row.id, state])),
    origin: originRow && (await readCutState(database, originRow.id, kept)),
    mends: done.filter(({ state }) => state === 'done'),
  }
}

async function newestVersionOf(database: Queryable, cutId: string): Promise<CutRow | null> {
  const [row] = await database.select(cutColumns).from(cuts).where(eq(cuts.id, cutId))
  if (!row) return null
  const line = await database.select(cutColumns).from(cuts).where(eq(cuts.lineId, row.lineId)).orderBy(cuts.version)
  return line.at(-1) ?? null
}

/** What of a mend is kept: links to originals, and versions of the cut. What was made stays with the trial. */
export const isKept = (mend: MendRow): boolean => mend.kind === 'repoint' || isVersionMend(mend)
