import { type AwaitedOriginal, type CutEvent, resolveEvents } from '../cut/index.ts'
import { type FindingClip, type FindingContext, findTrouble } from '../findings/index.ts'
import { parseTimecode, rate } from '../time/index.ts'
import { plainEvent } from './cuts.ts'
import { pictureFacts } from './facts.ts'

/** A label of a list at 25 as its frame. */
export const frame = (label: string): number => parseTimecode(label, rate(25))

/** A use of a clip, from a second after its start unless said otherwise. */
export function event(change: Partial<CutEvent> & { start?: string; frames?: number } = {}): CutEvent {
  const { start = '10:00:01:00', frames = 25, ...rest } = change
  return plainEvent({
    source: { startFrame: frame(start), endFrame: frame(start) + frames },
    record: { startFrame: 0, endFrame: frames },
    location: 'line 1',
    ...rest,
  })
}

/** An original that is here, whole, and known by its name. */
export function clip(change: Partial<FindingClip> = {}): FindingClip {
  const name = change.name ?? 'A001C001.mov'
  return {
    id: name,
    name,
    formerNames: [],
    reel: 'A001',
    facts: pictureFacts(),
    presence: 'here',
    originalPaths: [`/bay/A001/${name}`],
    madePaths: [],
    parts: [],
    proxyPlays: false,
    role: 'original',
    roleReason: null,
    damage: null,
    volumeLabel: 'A001',
    volumeRoot: '/bay/A001',
    volumeHangs: false,
    fingerprint: change.id ?? name,
    content: change.id ?? name,
    volumeIsHere: true,
    soundLink: null,
    syncChange: null,
    soundUse: null,
    guidelessTracks: [],
    changedFiles: [],
    notOneClip: null,
    notices: [],
    lostFiles: [],
    pairs: [],
    ...change,
  }
}

/** What a proxy was made with, where that does not matter. */
export const made = { kind: 'proxy' as const, recipe: null, viewingLut: null }

/** What becomes of some events among some clips, and what is wrong with it. */
export function look(
  events: CutEvent[],
  clips: FindingClip[],
  change: {
    chosen?: [number, string][]
    awaited?: [number, AwaitedOriginal][]
    mappings?: { from: string; to: string }[]
    production?: FindingContext['production']
  } = {},
) {
  const resolutions = resolveEvents(events, {
    clips,
    mappings: change.mappings ?? [],
    suffixes: ['_proxy'],
    unreadable: [],
    chosen: new Map(change.chosen),
    awaited: new Map(change.awaited),
    recordRate: rate(25),
  })
  const context: FindingContext = {
    rate: rate(25),
    dropFrame: false,
    events,
    resolutions,
    clips: new Map(clips.map((item) => [item.id, item])),
    ...(change.production && { production: change.production }),
  }
  return { resolutions, findings: findTrouble(context) }
}
