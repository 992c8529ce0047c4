import type { Trial } from '@ennick/contract'
import { count, preflight } from '@ennick/core'
import type { CutState } from '../cuts/cut-state.ts'
import type { Queryable } from '../store/database.ts'
import { readProduction } from '../store/production-row.ts'
import { netChanges } from './keep-trial.ts'
import { isKept, type TrialState } from './trial-state.ts'

/** Links that are named one by one. */
const mostShown = 50

/** How a trial stands to the cut that it is of: what blocks here and there, and what keeping it would change. */
export async function presentTrial(database: Queryable, trial: TrialState): Promise<Trial> {
  const { tried, origin, trialOf, mends } = trial
  const production = origin && (await readProduction(database, origin.row.productionId))
  const links = netChanges(trial)
  const left = mends.filter((mend) => !isKept(mend)).length
  return {
    productionName: production?.name ?? null,
    cutName: tried.row.name,
    mends: mends.length,
    blocking: { before: origin ? blocking(origin) : 0, now: blocking(tried) },
    findings: { before: origin?.findings.length ?? 0, now: tried.findings.length },
    keeps: links.slice(0, mostShown).map(({ label }) => label),
    keepCount: links.length,
    asVersion: tried.row.id !== trialOf.copyId,
    stays: [
      ...(left > 0 ? [`${count(left, 'mend')} of made files: do them again there.`] : []),
      ...(decided(tried) > (origin ? decided(origin) : 0) ? ['Decisions: what stays open is decided there.'] : []),
    ],
  }
}

const decided = ({ decisions }: CutState): number => decisions.length
const blocking = ({ findings, decisions }: CutState): number => preflight(findings, decisions).open.length
