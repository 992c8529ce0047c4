import { atRisk } from './checks/at-risk.ts'
import { cutFormat } from './checks/cut-format.ts'
import { equalNames } from './checks/equal-names.ts'
import { fileLost } from './checks/file-lost.ts'
import { fromProxies } from './checks/from-proxies.ts'
import { guideSound } from './checks/guide-sound.ts'
import { joinedFile } from './checks/joined-file.ts'
import { listRate } from './checks/list-rate.ts'
import { newerVersion } from './checks/newer-version.ts'
import { noGuide } from './checks/no-guide.ts'
import { notTheOriginal } from './checks/not-the-original.ts'
import { otherRate } from './checks/other-rate.ts'
import { pairMismatch } from './checks/pair-mismatch.ts'
import { proxyHidesLoss } from './checks/proxy-hides-loss.ts'
import { staleSync } from './checks/stale-sync.ts'
import { tooShort } from './checks/too-short.ts'
import { unresolved } from './checks/unresolved.ts'
import { variableRate } from './checks/variable-rate.ts'
import { volumeAway } from './checks/volume-away.ts'
import { wrongKind } from './checks/wrong-kind.ts'
import type { Check, Finding, FindingContext, Severity } from './finding.ts'

export * from './away-words.ts'
export * from './decision.ts'
export * from './finding.ts'

const checks: readonly Check[] = [
  unresolved,
  joinedFile,
  volumeAway,
  fileLost,
  proxyHidesLoss,
  notTheOriginal,
  wrongKind,
  tooShort,
  variableRate,
  pairMismatch,
  listRate,
  cutFormat,
  atRisk,
  otherRate,
  fromProxies,
  guideSound,
  staleSync,
  noGuide,
  equalNames,
  newerVersion,
]

const order: Record<Severity, number> = { 'blocks handoff': 0, 'needs a look': 1, note: 2 }

/** Runs every check over a cut. What blocks the handoff comes first. */
export function findTrouble(context: FindingContext): Finding[] {
  return checks.flatMap((check) => check(context)).sort((a, b) => order[a.severity] - order[b.severity])
}
