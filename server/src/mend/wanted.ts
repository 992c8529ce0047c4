import { basename } from 'node:path'
import { channelCount, type Finding, type Wanted } from '@ennick/core'
import type { CutState } from '../cuts/cut-state.ts'
import { hasChanged, heldContent } from '../store/backups.ts'
import type { SearchedThing } from '../store/job-types.ts'
import type { KnownFile } from '../store/known-material.ts'

/** Something a repoint could mend, as the search sees it and as people read it. */
export interface WantedThing {
  readonly thing: SearchedThing
  readonly wanted: Wanted
}

/**
 * What a repoint could mend among some findings: lost originals by clip, and events without a fitting original by
 * source.
 * @param others the other cuts of the production: what is found for a clip must cover what they use of it too
 */
export function wantedThings(
  state: CutState,
  others: readonly CutState[],
  keys: readonly string[] | null,
): WantedThing[] {
  const things = new Map<string, WantedThing>()
  for (const finding of state.findings) {
    if (!finding.mends.includes('repoint') || (keys !== null && !keys.includes(finding.key))) continue
    const items =
      finding.kind === 'too short' || finding.clipId === null
        ? wantedEvents(state, finding)
        : wantedFiles(state, others, finding)
    for (const item of items) if (!things.has(item.thing.id)) things.set(item.thing.id, item)
  }
  return [...things.values()]
}

function uses(state: CutState, positions: readonly number[], ofCut = ''): Wanted['uses'] {
  return positions.flatMap((position) => {
    const event = state.cut.events[position]
    const resolution = state.resolutions[position]
    return event && resolution
      ? [
          {
            label: `event ${event.number} on ${event.track}${ofCut}`,
            rate: event.sourceRate,
            range: resolution.exactNeed,
          },
        ]
      : []
  })
}

const positionsOf = (state: CutState, clipId: string): number[] =>
  state.resolutions.flatMap((resolution, position) => (resolution.clipId === clipId ? [position] : []))

/** The files of a clip that are not there, or are not what they were; each is looked for by what it itself was. */
function wantedFiles(state: CutState, others: readonly CutState[], finding: Finding): WantedThing[] {
  const clip = state.material.clips.get(finding.clipId as string)
  if (!clip) return []
  const positions = positionsOf(state, clip.id)
  const isWhole = clip.files.length === 1
  const amiss = clip.files.filter((file) => file.presence !== 'here' || isAmiss(file))
  return (amiss.length ? amiss : clip.files.slice(0, 1)).flatMap((file): WantedThing[] => {
    const { facts } = file
    if (!facts) return []
    const ordinal = clip.files.indexOf(file)
    const id = isWhole ? `clip:${clip.id}` : `clip:${clip.id}:${ordinal}`
    const { picture } = facts
    return [
      {
        thing: { id, label: basename(file.path), clipId: clip.id, ordinal, positions },
        wanted: {
          id,
          names: isWhole ? [basename(file.path), clip.name] : [basename(file.path)],
          path: file.fullPath,
          kind: facts.kind,
          reel: clip.reel ?? facts.reel,
          rate: picture?.rate ?? null,
          startFrame: facts.startFrame,
          dropFrame: facts.dropFrame,
          frames: picture?.frames ?? null,
          channels: channelCount(facts),
          fingerprint: heldContent(file),
          pictures: null,
          picture: picture && {
            width: picture.width,
            height: picture.height,
            codec: picture.codec,
            pixelFormat: picture.pixelFormat,
          },
          // Of a take over several files no use says which of them it needs.
          uses: isWhole
            ? [
                ...uses(state, positions),
                ...others.flatMap((other) => uses(other, positionsOf(other, clip.id), ` of “${other.row.name}”`)),
              ]
            : [],
        },
      },
    ]
  })
}

const isAmiss = (file: KnownFile): boolean => file.problem !== null || hasChanged(file)

function wantedEvents(state: CutState, finding: Finding): WantedThing[] {
  const event = state.cut.events[finding.events[0] as number]
  if (!event) return []
  const names = [event.clipName, event.path === null ? null : basename(event.path.replaceAll('\\', '/'))].filter(
    (name): name is string => name !== null,
  )
  return [
    {
      thing: {
        id: `events:${finding.key}`,
        label: names[0] ?? event.reel ?? `event ${event.number}`,
        clipId: null,
        ordinal: null,
        positions: [...finding.events],
      },
      wanted: {
        id: `events:${finding.key}`,
        names,
        path: event.path,
        kind: event.kind === 'sound' ? 'with sound' : 'picture or still',
        reel: event.reel,
        rate: event.kind === 'picture' ? event.sourceRate : null,
        startFrame: null,
        dropFrame: false,
        frames: null,
        channels: null,
        fingerprint: null,
        pictures: null,
        picture: null,
        uses: uses(state, finding.events),
      },
    },
  ]
}
