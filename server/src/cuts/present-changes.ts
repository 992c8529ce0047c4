import type { CutChanges } from '@ennick/contract'
import {
  describeChange,
  type FrameRange,
  formatTimecode,
  mergeRanges,
  rangeLength,
  reversedTracks,
  sameRate,
  sourceLabels,
} from '@ennick/core'
import type { CutState } from './cut-state.ts'
import { compareStates } from './next-version.ts'

/** What became of each event from one version of a cut to another, and what that needs. */
export function presentChanges(before: CutState, after: CutState): CutChanges {
  const { changes, counts, levelsLost } = compareStates(before, after)
  return {
    before: versionOf(before),
    after: versionOf(after),
    counts: { ...counts },
    levelsLost,
    reversed: reversedTracks(before.cut, after.cut, changes),
    changes: changes
      .filter(({ kinds }) => !kinds.includes('same'))
      .map((change) => ({
        kinds: [...change.kinds],
        words: describeChange(change, after.cut.rate),
        before: change.before === null ? null : briefly(before, change.before),
        after: change.after === null ? null : briefly(after, change.after),
      })),
    needs: newNeeds(before, after),
  }
}

const versionOf = ({ row }: CutState) => ({ id: row.id, name: row.name, version: row.version })

function briefly(state: CutState, position: number): NonNullable<CutChanges['changes'][number]['before']> {
  const event = state.cut.events[position] as CutState['cut']['events'][number]
  const clipId = state.resolutions[position]?.clipId ?? null
  const clip = clipId === null ? undefined : state.clips.get(clipId)
  const source = sourceLabels(event, state.cut, clip)
  const record = (frame: number): string => formatTimecode(frame, state.cut.rate, state.cut.dropFrame)
  return {
    position,
    number: event.number,
    track: event.track,
    name: clip?.name ?? event.clipName ?? event.path ?? 'no name',
    source: `${source(event.source.startFrame)} – ${source(event.source.endFrame)}`,
    record: `${record(event.record.startFrame)} – ${record(event.record.endFrame)}`,
  }
}

/** Stretches of clips that one version needs and the other did not. */
function newNeeds(before: CutState, after: CutState): CutChanges['needs'] {
  const [was, is] = [needsOf(before), needsOf(after)]
  return [...is].flatMap(([clipId, { ranges, label }]) => {
    const clip = after.clips.get(clipId)
    const known = was.get(clipId)
    const fresh = ranges.flatMap((range) => without(range, known?.ranges ?? []))
    if (!clip || fresh.length === 0) return []
    return [
      {
        clipId,
        clipName: clip.name,
        isNew: !known,
        ranges: fresh.map((range) => `${label(range.startFrame)} – ${label(range.endFrame)}`),
        volumeLabel: clip.volumeLabel,
        presence: clip.presence,
        hasProxy: clip.proxyPlays,
      },
    ]
  })
}

function needsOf(state: CutState): Map<string, { ranges: FrameRange[]; label: (frame: number) => string }> {
  const needs = new Map<string, { ranges: FrameRange[]; label: (frame: number) => string }>()
  state.resolutions.forEach(({ clipId, needed }, position) => {
    const event = state.cut.events[position]
    const clip = clipId === null ? undefined : state.clips.get(clipId)
    if (!event || !clip) return
    const known = needs.get(clip.id)
    // What counts at another rate than the clip is told by the finding on rates.
    if (!known) needs.set(clip.id, { ranges: [needed], label: sourceLabels(event, state.cut, clip) })
    else if (!clip.facts.picture || sameRate(clip.facts.picture.rate, event.sourceRate)) known.ranges.push(needed)
  })
  for (const need of needs.values()) need.ranges = mergeRanges(need.ranges)
  return needs
}

/** What of a range lies in none of others, which are in order and apart. */
function without(range: FrameRange, others: readonly FrameRange[]): FrameRange[] {
  const left: FrameRange[] = []
  let at = range.startFrame
  for (const other of others) {
    if (other.endFrame <= at || other.startFrame >= range.endFrame) continue
    if (other.startFrame > at) left.push({ startFrame: at, endFrame: other.startFrame })
    at = Math.max(at, other.endFrame)
  }
  if (at < range.endFrame) left.push({ startFrame: at, endFrame: range.endFrame })
  return left.filter((part) => rangeLength(part) > 0)
}
