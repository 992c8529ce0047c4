import {
  type Cut,
  type CutEvent,
  type CutFormat,
  type Resolution,
  type ResolvableClip,
  resolveEvents,
} from '../cut/index.ts'
import { fileName } from '../naming/index.ts'
import { groupBy } from '../text/index.ts'
import { type ExactRange, type FrameRange, framesPerDay, rangeLength } from '../time/index.ts'
import { pieceStart } from './pieces.ts'

/**
 * What a room that has nothing but copies knows of a clip by reading them: what the files say, and nothing that was
 * said of it here.
 * @param placed the clip with the paths of its copies
 * @param pieces where it goes as stretches: frames from its first, in the order of its paths
 */
export function arrivedOf(placed: ResolvableClip, pieces: readonly FrameRange[] | null): ResolvableClip[] {
  const { facts, originalPaths, tracks, firstStill } = placed
  const arrived: ResolvableClip = {
    ...placed,
    ...{ reel: facts.reel, presence: 'here', madePaths: [], proxyPlays: false, role: 'original', roleReason: null },
    damage: null,
  }
  const { picture } = facts
  if (!pieces || !picture) {
    const isNamedByAll = tracks !== undefined || firstStill !== undefined
    const [first = placed.name] = originalPaths
    const name = isNamedByAll ? placed.name : fileName(first)
    return [{ ...arrived, name, formerNames: isNamedByAll ? placed.formerNames : originalPaths.map(fileName) }]
  }
  return pieces.map((piece, index) => {
    const path = originalPaths[index] as string
    const own = { startFrame: pieceStart(facts, piece), picture: { ...picture, frames: rangeLength(piece) } }
    return {
      // Reels that were said here are written into stretches.
      ...{ ...arrived, reel: placed.reel, id: `${placed.id} ${index}` },
      ...{ name: fileName(path), formerNames: [], originalPaths: [path], parts: [], facts: { ...facts, ...own } },
    }
  })
}

/** An event of a written list that does not come to the frames that it comes to here. */
export interface NotLanded {
  /** Of the event. */
  readonly number: string
  readonly reason: string
}

/**
 * Reads a written list as a room that has nothing but copies would, and holds what its events land on there against
 * what those of the cut land on here.
 * @param arrived what that room has, by the clips that it is of
 * @returns the events that do not land on the same frames of the same clip; of those that are short or open here
 * nothing is asked
 */
export function opensAlone(
  text: string,
  format: CutFormat,
  cut: Cut,
  landed: readonly Resolution[],
  arrived: ReadonlyMap<string, readonly ResolvableClip[]>,
): NotLanded[] {
  const again = format.read(text, { rate: cut.rate, fileName: cut.name })
  const clips = [...arrived.values()].flat()
  const origin = new Map([...arrived].flatMap(([id, each]) => each.map((clip) => [clip.id, id] as const)))
  const context = { clips, mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: cut.rate }
  const resolved = resolveEvents(again.events, context).map((resolution, at) => ({ resolution, at }))
  const there = groupBy(resolved, ({ at }) => placeOf(again.events[at] as CutEvent))
  const facts = new Map(clips.map((clip) => [clip.id, clip.facts]))
  const labelled = ({ start, end }: ExactRange, clipId: string): string => {
    const { picture = null, dropFrame = false } = facts.get(clipId) ?? {}
    const day = picture ? BigInt(framesPerDay(picture.rate, dropFrame)) : null
    const frame = day === null ? start.numerator : start.numerator % (day * start.denominator)
    return `${frame}/${start.denominator} ${end.numerator * start.denominator - start.numerator * end.denominator}`
  }
  return cut.events.flatMap((event, position) => {
    const here = landed[position] as Resolution
    const found = there.get(placeOf(event))?.shift()?.resolution
    if (here.state !== 'on original' || here.clipId === null) return []
    const not = (reason: string): NotLanded[] => [{ number: event.number, reason }]
    if (!found) return not('it is not in the list')
    if (found.clipId === null || found.state !== 'on original') return not(`it is ${found.state}`)
    if (origin.get(found.clipId) !== here.clipId) return not('it lands on another clip')
    // Sound between frames begins on one in all formats but OTIO, and that is told.
    if (event.soundTimes && format.id !== 'otio') return []
    const isSame = labelled(found.exactNeed, found.clipId) === labelled(here.exactNeed, found.clipId)
    return isSame ? [] : not('it lands on other frames')
  })
}

const placeOf = ({ track, record }: CutEvent): string => `${track} ${record.startFrame}`
