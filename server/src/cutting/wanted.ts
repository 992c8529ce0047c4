import { basename } from 'node:path'
import { channelCount, exactRange, type Finding, type Wanted } from '@ennick/core'
import type { SearchedThing } from '../store/job-schema.ts'
import type { CutState } from './cut-state.ts'

/** Something a repoint could mend, as the search sees it and as people read it. */
export interface WantedThing {
  readonly thing: SearchedThing
  readonly wanted: Wanted
}

/** What a repoint could mend among some findings: lost originals by clip, and events without a fitting original by source. */
export function wantedThings(state: CutState, keys: readonly string[] | null): WantedThing[] {
  const things = new Map<string, WantedThing>()
  for (const finding of state.findings) {
    if (!finding.mends.includes('repoint') || (keys !== null && !keys.includes(finding.key))) continue
    const item = finding.kind === 'too short' || finding.clipId === null ? wantedEvents(state, finding) : wantedClip(state, finding)
    if (item && !things.has(item.thing.id)) things.set(item.thing.id, item)
  }
  return [...things.values()]
}

function uses(state: CutState, positions: readonly number[]): Wanted['uses'] {
  return positions.flatMap((position) => {
    const event = state.cut.events[position]
    const resolution = state.resolutions[position]
    return event && resolution
      ? [{ label: `event ${event.number} on ${event.track}`, rate: event.sourceRate, range: exactRange(resolution.needed) }]
      : []
  })
}

function wantedClip(state: CutState, finding: Finding): WantedThing | null {
  const clip = state.world.clips.get(finding.clipId as string)
  const facts = clip?.main.facts
  if (!clip || !facts) return null
  const positions = state.resolutions.flatMap((resolution, position) => (resolution.clipId === clip.id ? [position] : []))
  return {
    thing: { id: `clip:${clip.id}`, label: basename(clip.main.path), clipId: clip.id, positions },
    wanted: {
      id: `clip:${clip.id}`,
      names: [basename(clip.main.path)],
      path: clip.main.fullPath,
      kind: facts.kind,
      reel: clip.reel,
      rate: facts.picture?.rate ?? null,
      startFrame: facts.startFrame,
      dropFrame: facts.dropFrame,
      frames: facts.picture?.frames ?? null,
      channels: channelCount(facts),
      fingerprint: clip.main.fingerprint,
      uses: uses(state, positions),
    },
  }
}

function wantedEvents(state: CutState, finding: Finding): WantedThing | null {
  const event = state.cut.events[finding.events[0] as number]
  if (!event) return null
  const names = [event.clipName, event.path === null ? null : basename(event.path.replaceAll('\\', '/'))].filter(
    (name): name is string => name !== null,
  )
  return {
    thing: {
      id: `events:${finding.key}`,
      label: names[0] ?? event.reel ?? `event ${event.number}`,
      clipId: null,
      positions: [...finding.events],
    },
    wanted: {
      id: `events:${finding.key}`,
      names,
      path: event.path,
      kind: event.kind === 'sound' ? null : 'picture',
      reel: event.reel,
      rate: event.kind === 'picture' ? event.sourceRate : null,
      startFrame: null,
      dropFrame: false,
      frames: null,
      channels: null,
      fingerprint: null,
      uses: uses(state, finding.events),
    },
  }
}
