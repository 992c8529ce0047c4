import type { Finding } from '../findings/index.ts'

/**
 * What a step of the work is: something to do with hands, something to look for, something to decide. In the order in
 * which they are done: what makes others go away by itself comes first.
 */
export const stepKinds = [
  ...(['put in', 'see to', 'take apart', 'choose', 'newer version', 'from the card', 'search', 'make again'] as const),
  ...(['trim', 'rename', 'offload', 'decide', 'look at'] as const),
] as const
export type StepKind = (typeof stepKinds)[number]

/** One step of the work on a cut. */
export interface WorkStep {
  readonly kind: StepKind
  /** The volume to put in, to see to as it does not answer, or to copy from. */
  readonly volumeLabel: string | null
  /** The findings that it is about, by their keys. */
  readonly keys: readonly string[]
  /** How many of those block the handoff. */
  readonly blocking: number
  /** The pairs that it makes again, or renames. */
  readonly pairIds: readonly string[]
  /** Of its findings those that silence at the end of a recording would cure as well. */
  readonly padKeys: readonly string[]
  /** How many findings that block are left when this step and all before it have cured what they are about. */
  readonly blockingAfter: number
}

/** Steps that are about one volume each. */
const ofVolumes: ReadonlySet<StepKind> = new Set<StepKind>(['put in', 'see to', 'from the card', 'offload'])

/** Steps that are done to pairs. */
const ofPairs: ReadonlySet<string> = new Set<StepKind>(['make again', 'rename'])

/**
 * The findings of a cut as a plan: first what makes others go away by itself, then what one search or one press does
 * for many, then what a person decides one by one. Each finding that nobody has decided about is in exactly one step.
 * @param decided keys of findings that a person let stand
 */
export function orderOfWork(findings: readonly Finding[], decided: ReadonlySet<string>): WorkStep[] {
  const open = findings.filter(({ key }) => !decided.has(key))
  const steps = new Map<string, { kind: StepKind; volumeLabel: string | null; findings: Finding[] }>()
  for (const finding of open) {
    const kind = stepOf(finding)
    const volumeLabel = ofVolumes.has(kind) ? (finding.volumeLabel ?? null) : null
    const id = `${kind}:${volumeLabel ?? ''}`
    const step = steps.get(id) ?? { kind, volumeLabel, findings: [] }
    step.findings.push(finding)
    steps.set(id, step)
  }
  let left = open.filter(blocks).length
  return [...steps.values()]
    .sort((a, b) => stepKinds.indexOf(a.kind) - stepKinds.indexOf(b.kind) || b.findings.length - a.findings.length)
    .map(({ kind, volumeLabel, findings: own }) => {
      const blocking = own.filter(blocks).length
      left -= blocking
      const pairIds = ofPairs.has(kind) ? [...new Set(own.flatMap((finding) => finding.pairIds))] : []
      const padKeys = own.filter(({ mends }) => mends.includes('pad')).map(({ key }) => key)
      return { kind, volumeLabel, keys: own.map(({ key }) => key), blocking, pairIds, padKeys, blockingAfter: left }
    })
}

const blocks = ({ severity }: Finding): boolean => severity === 'blocks handoff'

function stepOf({ kind, mends, severity, volumeHangs }: Finding): StepKind {
  if (kind === 'volume away') return volumeHangs ? 'see to' : 'put in'
  if (kind === 'ambiguous' || kind === 'another name' || kind === 'another original') return 'choose'
  if (kind === 'newer version') return 'newer version'
  if (mends.includes('take apart')) return 'take apart'
  if (mends.includes('trim')) return 'trim'
  if (mends.includes('repoint') && mends.includes('offload')) return 'from the card'
  if (mends.includes('repoint')) return 'search'
  if (mends.includes('make again')) return 'make again'
  if (mends.includes('rename')) return 'rename'
  if (mends.includes('offload')) return 'offload'
  return severity === 'blocks handoff' ? 'decide' : 'look at'
}
