import type { AwaitedOriginal, CutEvent, Resolution } from '../../cut/index.ts'
import { compareText, groupBy } from '../../text/index.ts'
import { type Check, eventNumbers, type Finding, type FindingContext, fact, keyOfEvent, placeOf } from '../finding.ts'

/**
 * Events that no clip could be found for, or that several clips claim. Those that ask for the same source are one
 * finding. Those of a joined file are told by another check.
 */
export const unresolved: Check = (context) => {
  const open = context.resolutions.flatMap(({ state, rivals, awaited }, position) =>
    state === 'unresolved' && !context.joined?.of(context.events[position] as CutEvent)
      ? [{ position, rivals, awaited }]
      : [],
  )
  const groups = groupBy(open, ({ position, rivals, awaited }) => {
    const event = context.events[position] as CutEvent
    return JSON.stringify([event.clipName, event.reel, event.path, rivals, awaited])
  })
  return [...groups.values()].map((list) =>
    unresolvedFinding(
      context,
      list.map(({ position }) => position),
    ),
  )
}

function unresolvedFinding(context: FindingContext, events: number[]): Finding {
  const first = events[0] as number
  const event = context.events[first] as CutEvent
  const resolution = context.resolutions[first] as (typeof context.resolutions)[number]
  const name = event.clipName ?? event.path ?? `reel ${event.reel ?? 'not known'}`
  // By their paths, so that they stand in the same order each time somebody looks.
  const rivals = resolution.rivals
    .flatMap((id) => context.clips.get(id) ?? [])
    .sort((a, b) => compareText(a.originalPaths[0] ?? '', b.originalPaths[0] ?? ''))
  const { awaited } = resolution
  const kind = kindOf(resolution, rivals.length)
  const uses = eventNumbers(context, events)
  return {
    key: `${kind}:${event.clipName ?? ''}:${event.reel ?? ''}:${event.path ?? ''}:${keyOfEvent(context, first)}`,
    kind,
    severity: 'blocks handoff',
    message: {
      ambiguous: `${name}: ${rivals.length} originals fit ${uses} equally well. Choose one.`,
      'another name':
        `${name}: ${rivals[0]?.name} fits ${uses} by reel and timecode, and is called otherwise. ` +
        'Choose it if it is the same shot.',
      'another original': `${name}: ${awaited && whatLacks(awaited, uses, rivals[0]?.name)}`,
      unresolved: `${name}: no known original fits ${uses}${awaited ? `; the archive lacks ${calledOf(awaited)}` : ''}.`,
    }[kind],
    clipId: null,
    pairIds: [],
    events,
    evidence: [
      ...resolution.evidence,
      ...rivals.map((clip) => fact('place', 'one original', placeOf(clip), againstRival[kind])),
    ],
    mends: ['repoint', 'replace from the start'],
    choices: rivals.map((clip) => ({ clipId: clip.id, against: null })),
  }
}

const againstRival = {
  ...{ ambiguous: 'fits as well as the others', 'another name': 'called otherwise' },
  ...{ 'another original': 'not what was archived', unresolved: null },
} as const

const calledOf = ({ name, volumeLabel }: AwaitedOriginal): string => `${name} of “${volumeLabel}”`

const whatLacks = (awaited: AwaitedOriginal, uses: string, fitting: string | undefined): string =>
  (awaited.content === null
    ? `the archive lacks ${calledOf(awaited)}, one of several that fitted ${uses}. ${fitting} is the one that fits here. `
    : `the archive lacks ${calledOf(awaited)}, which ${uses} used. ${fitting} fits, and holds something else. `) +
  'Choose it if it is the same shot.'

function kindOf({ awaited }: Resolution, rivals: number): keyof typeof againstRival {
  if (rivals > 1) return 'ambiguous'
  if (rivals === 0) return 'unresolved'
  return awaited ? 'another original' : 'another name'
}
