import { isNoReel, listedReelLength } from '../../../naming/index.ts'
import { canonicalJson } from '../../../text/index.ts'
import { type Cut, type CutEvent, leavesInto } from '../../model.ts'
import type { Replaced, WriteOptions } from '../format.ts'

/** One numbered entry of a list: the same source at the same place on one track or several. */
export interface EdlEntry {
  readonly number: string
  /** Speaks for all its tracks. */
  readonly event: CutEvent
  readonly tracks: readonly string[]
  /** The entry out of which a transition leads; null where it comes out of black, or none leads. */
  readonly from: EdlEntry | null
  /** The number of the entry by which it goes to black. */
  readonly fadeNumber: string | null
}

export interface EdlPlan {
  /** In the order in which they are written. */
  readonly entries: readonly EdlEntry[]
  /** The word that stands for each reel in the field of an entry. */
  readonly reelWords: ReadonlyMap<string, string>
  readonly replaced: readonly Replaced[]
}

/**
 * How a cut stands in a list. Numbers stay as they are where the list can have them; an entry whose number is taken, or
 * is none, gets one above all others.
 * @param cut as the format carries it
 */
export function planEdl(cut: Cut, options: WriteOptions): EdlPlan {
  const shown = cut.events
  const groups = groupTracks(shown)
  /** The tracks on which each number stands: an event of several lines has one number on different tracks. */
  const taken = new Map<number, readonly string[]>()
  const take = (number: string, tracks: readonly string[]): boolean => {
    const on = taken.get(Number(number)) ?? []
    if (!isNumber(number) || tracks.some((track) => on.includes(track))) return false
    taken.set(Number(number), [...on, ...tracks])
    return true
  }
  const isNumber = (number: string): boolean => /^\d{1,6}$/.test(number)
  const highest = Math.max(0, ...shown.map(({ number }) => (isNumber(number) ? Number(number) : 0)))
  let next = highest
  const fresh = (): string => String(++next).padStart(3, '0')
  const replaced: Replaced[] = []
  const numberOf = ({ event, tracks }: Group): string => {
    if (take(event.number, tracks)) return event.number
    const given = fresh()
    replaced.push({ what: 'event number', from: event.number, to: given })
    return given
  }
  const inOrder = [...groups].sort(
    (a, b) =>
      order(a.event.number) - order(b.event.number) ||
      a.event.record.startFrame - b.event.record.startFrame ||
      Number(a.event.key?.part !== 'background') - Number(b.event.key?.part !== 'background'),
  )
  const entries = new Map<Group, EdlEntry>()
  for (const group of inOrder) {
    const number = numberOf(group)
    const entry = { number, event: group.event, tracks: group.tracks, from: null, fadeNumber: null }
    entries.set(group, entry)
  }
  const written = inOrder.map((group): EdlEntry => {
    const entry = entries.get(group) as EdlEntry
    const fade = group.event.fadeOut
    const own = fade?.number !== undefined && take(fade.number, group.tracks) ? fade.number : null
    return {
      ...entry,
      from: group.from ? (entries.get(group.from) as EdlEntry) : null,
      fadeNumber: fade ? (own ?? fresh()) : null,
    }
  })
  const reels = reelWords(shown, options)
  return {
    entries: written,
    reelWords: reels,
    replaced: [
      ...replaced,
      ...[...reels].flatMap(([from, to]) => (from === to ? [] : [{ what: 'reel' as const, from, to }])),
    ],
  }
}

const order = (number: string): number => (/^\d{1,6}$/.test(number) ? Number(number) : Number.MAX_SAFE_INTEGER)

interface Group {
  readonly event: CutEvent
  readonly tracks: string[]
  readonly from: Group | null
}

/** Events of one number that are the same but for their tracks, and come out of the same. */
function groupTracks(events: readonly CutEvent[]): Group[] {
  const groups = new Map<string, Group>()
  const list: Group[] = []
  const ids = new Map<Group, number>()
  const last = new Map<string, Group>()
  for (const event of events) {
    const before = last.get(event.track) ?? null
    const from = before && leavesInto(before.event, event) ? before : null
    const {
      track,
      kind: _,
      location: __,
      carried: ___,
      sourceChannel: ____,
      soundTimes: _____,
      level: ______,
      ...same
    } = event
    const key = canonicalJson([same, from ? ids.get(from) : null])
    const known = groups.get(key)
    // The field says one picture beside sound, and that is the first.
    const holdsPicture = known?.tracks.some(isPicture) ?? false
    const isAbove = [track, ...(known?.tracks ?? [])].some((each) => isPicture(each) && each !== 'V1')
    const isFree = known && !known.tracks.includes(track) && !isAbove && !(isPicture(track) && holdsPicture)
    const group = isFree ? known : { event, tracks: [], from }
    group.tracks.push(track)
    if (!isFree) {
      groups.set(key, group)
      ids.set(group, list.push(group))
    }
    last.set(track, group)
  }
  return list
}

const isPicture = (track: string): boolean => track.startsWith('V')

/** Each reel as one word of the field. Where reels are cut and two become one, the later ones get numbers. */
function reelWords(events: readonly CutEvent[], { edlReels = 'whole' }: WriteOptions): Map<string, string> {
  const words = new Map<string, string>()
  const taken = new Set<string>()
  for (const reel of new Set(events.flatMap((event) => event.reel ?? []))) {
    const word = isNoReel(reel) || reel.trim() === '' ? 'AX' : reel.trim().replace(/\s+/g, '_')
    const short = edlReels === 'whole' ? word : word.slice(0, listedReelLength)
    let unlike = short
    for (let count = 2; short !== 'AX' && taken.has(unlike.toUpperCase()); count++)
      unlike = `${short.slice(0, listedReelLength - String(count).length)}${count}`
    taken.add(unlike.toUpperCase())
    words.set(reel, unlike)
  }
  return words
}

/** The channels of an entry as its field says them, and those that need a line of their own (SMPTE ST 258). */
export function channelField(tracks: readonly string[]): { field: string; more: readonly number[] } {
  const picture = tracks.find(isPicture)
  const sound = tracks
    .filter((track) => !isPicture(track))
    .map((track) => Number(track.slice(1)))
    .sort((a, b) => a - b)
  if (sound.length === 0) return { field: picture === 'V1' || !picture ? 'V' : picture, more: [] }
  const slash = picture ? '/V' : ''
  const hasPair = sound[0] === 1 && sound[1] === 2
  const [first] = sound as [number]
  if (picture === 'V1' && sound.length === 1 && first === 1) return { field: 'B', more: [] }
  const field = hasPair ? `AA${slash}` : `A${first === 1 ? '' : first}${slash}`
  return { field, more: sound.slice(hasPair ? 2 : 1) }
}
