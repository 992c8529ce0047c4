import type { Cut, CutEvent } from '../cut/index.ts'
import type { FrameRange } from '../time/index.ts'

/** Record frames in which the picture of one event is seen, and nothing of another. */
export interface ShownSpan {
  /** Of the event in its list. */
  readonly position: number
  readonly record: FrameRange
}

/** What a cut shows, as far as one event alone says it. */
export interface ShownSpans {
  /** In the order of the record; no two of them overlap. */
  readonly spans: readonly ShownSpan[]
  /** The events that are seen alone somewhere, by their positions. */
  readonly seen: ReadonlySet<number>
  /** Events of picture that are never seen alone, by their positions, and why. */
  readonly hidden: ReadonlyMap<number, string>
}

/**
 * Which event is seen at which record frames of a cut. The picture track of the highest number is the uppermost, and
 * what lies on it hides what lies below. Transitions, fades, keys, and what the list makes of itself show more than one
 * picture: frames of them belong to nobody.
 */
export function shownSpans(cut: Cut): ShownSpans {
  const heights = new Map(
    cut.tracks.flatMap(({ name, kind }) => (kind === 'picture' ? [[name, Number(name.slice(1)) || 0] as const] : [])),
  )
  const layers: Layer[] = []
  cut.events.forEach((event, position) => {
    const height = heights.get(event.track)
    if (height === undefined || event.isDisabled) return
    for (const range of mixedRanges(event)) layers.push({ height, range, position: null })
    const alone = {
      startFrame: event.record.startFrame + (event.transition?.durationFrames ?? 0),
      endFrame: event.record.endFrame,
    }
    layers.push({ height, range: event.key ? event.record : alone, position: event.key ? null : position })
  })
  for (const { track, record } of cut.generators ?? [])
    layers.push({ height: heights.get(track) ?? Number.POSITIVE_INFINITY, range: record, position: null })
  return seenFromAbove(cut, layers, heights)
}

interface Layer {
  readonly height: number
  readonly range: FrameRange
  /** Of the event that is seen there alone; null of what shows more than that. */
  readonly position: number | null
}

/** Where an event is seen together with another, or with black. */
function mixedRanges({ record, transition, fadeOut }: CutEvent): FrameRange[] {
  const into = transition
    ? [
        {
          startFrame: record.startFrame,
          endFrame: Math.min(record.endFrame, record.startFrame + transition.durationFrames),
        },
      ]
    : []
  return fadeOut ? [...into, { startFrame: record.endFrame, endFrame: record.endFrame + fadeOut.durationFrames }] : into
}

function seenFromAbove(cut: Cut, layers: readonly Layer[], heights: ReadonlyMap<string, number>): ShownSpans {
  const ordered = layers
    .filter(({ range }) => range.endFrame > range.startFrame)
    .sort((a, b) => a.range.startFrame - b.range.startFrame)
  const spans: ShownSpan[] = []
  // Of those that run, the highest is seen; of two on one track neither is seen alone.
  const edges = [...new Set(ordered.flatMap(({ range }) => [range.startFrame, range.endFrame]))].sort((a, b) => a - b)
  let running: Layer[] = []
  let next = 0
  edges.forEach((edge, index) => {
    running = running.filter(({ range }) => range.endFrame > edge)
    for (; (ordered[next]?.range.startFrame ?? Number.POSITIVE_INFINITY) <= edge; next++)
      running.push(ordered[next] as Layer)
    const top = Math.max(...running.map(({ height }) => height))
    const highest = running.filter(({ height }) => height === top)
    const [only] = highest
    const end = edges[index + 1]
    if (highest.length !== 1 || !only || only.position === null || end === undefined) return
    const last = spans.at(-1)
    if (last?.position === only.position && last.record.endFrame === edge)
      spans[spans.length - 1] = { ...last, record: { ...last.record, endFrame: end } }
    else spans.push({ position: only.position, record: { startFrame: edge, endFrame: end } })
  })
  const seen = new Set(spans.map(({ position }) => position))
  const hidden = new Map<number, string>()
  cut.events.forEach((event, position) => {
    if (heights.has(event.track) && !event.isDisabled && !seen.has(position))
      hidden.set(
        position,
        event.key ? 'It is a part of a key.' : 'Others lie over it, or it is in a transition throughout.',
      )
  })
  return { spans, seen, hidden }
}
