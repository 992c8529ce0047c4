import { type CutEvent, exactNeeds, reachOf } from '../../cut/index.ts'
import { isOfKind } from '../../match/index.ts'
import { labelledRange } from '../../media/index.ts'
import { type ShotVersion, versionOfFile } from '../../naming/index.ts'
import { compareText, groupBy } from '../../text/index.ts'
import { describeShortfall, type ExactRange, formatRate, sameRate } from '../../time/index.ts'
import {
  type Check,
  eventNumbers,
  type Finding,
  type FindingClip,
  type FindingContext,
  fact,
  keyedOn,
  placeOf,
  usedClips,
} from '../finding.ts'

interface Versioned {
  readonly clip: FindingClip
  readonly of: ShotVersion
}

const versioned = (clip: FindingClip): Versioned[] => {
  const of = versionOfFile(clip.name)
  return of ? [{ clip, of }] : []
}

type Clips = FindingContext['clips']
const known = new WeakMap<Clips, Map<string, Versioned[]>>()

/** All originals that come in versions by their shots, put together once for all cuts of a production. */
function byShot(clips: Clips): Map<string, Versioned[]> {
  const shots = known.get(clips) ?? groupBy([...clips.values()].filter(isThere).flatMap(versioned), ({ of }) => of.shot)
  known.set(clips, shots)
  return shots
}

const isThere = ({ role, presence }: FindingClip): boolean => role === 'original' && presence !== 'gone'

/**
 * Shots of which the cut shows one version while a later one is known: plates, effects and mixes are delivered anew
 * under a higher number, and the list goes on naming the one that was cut with. A version may be meant all the same, so
 * nothing is taken by itself.
 */
export const newerVersion: Check = (context) => {
  const used = usedClips(context).flatMap(({ clip, events }) => versioned(clip).map((own) => ({ ...own, events })))
  if (used.length === 0) return []
  const shots = byShot(context.clips)
  const needed = exactNeeds(context.events, context.rate)
  return used.flatMap(({ clip, of, events }): Finding[] => {
    const newer = (shots.get(of.shot) ?? [])
      .filter((other) => other.of.version > of.version && isShownBy(context, events, other.clip))
      .sort((a, b) => b.of.version - a.of.version || compareText(a.clip.id, b.clip.id))
    return newer.length ? [newerFinding(context, { clip, of }, events, newer, needed)] : []
  })
}

/** A picture is no version of a sound. */
const isShownBy = ({ events: all }: FindingContext, events: readonly number[], { facts }: FindingClip): boolean =>
  events.every((position) => isOfKind(all[position]?.kind === 'sound' ? 'with sound' : 'picture or still', facts))

function newerFinding(
  context: FindingContext,
  { clip, of }: Versioned,
  events: number[],
  newer: readonly Versioned[],
  needed: readonly ExactRange[],
): Finding {
  const options = newer.map((option) => ({
    ...option,
    against: whatSpeaksAgainst(context, option.clip, events, needed),
  }))
  const [newest] = options as [(typeof options)[number]]
  const numbers = eventNumbers(context, events)
  const where = newest.clip.presence === 'away' ? `on “${newest.clip.volumeLabel}”, which is away` : 'here'
  return {
    // Who lets the version stand does so knowing the newest of today: the next one is told again.
    ...keyedOn(`newer version:${clip.id}`, newest.clip.id),
    kind: 'newer version',
    severity: 'needs a look',
    message:
      `${clip.name} carries ${numbers} as version ${of.version}, and version ${newest.of.version} is ${where}: ` +
      `${newest.clip.name}${newest.against ? `, but ${newest.against}` : ''}. Choose it if the cut is to show that.`,
    clipId: clip.id,
    pairIds: [],
    events,
    evidence: options.map((option) =>
      fact(
        'name',
        `version ${of.version}: ${placeOf(clip)}`,
        `version ${option.of.version}: ${placeOf(option.clip)}`,
        option.against ?? `covers ${numbers}`,
      ),
    ),
    mends: [],
    choices: options.map((option) => ({ clipId: option.clip.id, against: option.against })),
  }
}

/** Why a version cannot stand in for another one as it is; null where nothing is known that speaks against it. */
function whatSpeaksAgainst(
  { events: all }: FindingContext,
  clip: FindingClip,
  events: readonly number[],
  needed: readonly ExactRange[],
): string | null {
  if (clip.presence === 'away') return `“${clip.volumeLabel}” is away`
  if (clip.damage !== null) return `it is damaged: ${clip.damage}`
  for (const position of events) {
    const event = all[position] as CutEvent
    const rate = clip.facts.picture?.rate
    if (rate && !sameRate(rate, event.sourceRate))
      return `its rate is ${formatRate(rate)}, and event ${event.number} counts ${formatRate(event.sourceRate)}`
    // A still is as long as it is shown.
    if (clip.facts.kind !== 'still' && !labelledRange(clip.facts, event.sourceRate))
      return 'it does not say how long it is'
    const { lack } = reachOf(event, needed[position] as ExactRange, clip, [])
    if (lack) return `it lacks ${describeShortfall(lack)} of event ${event.number}`
  }
  return null
}
