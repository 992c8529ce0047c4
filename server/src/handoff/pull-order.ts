import { extname, join, parse } from 'node:path'
import {
  arrivedOf,
  count,
  cutFormats,
  type FindingClip,
  type HandedCut,
  opensAlone,
  preflight,
  type WrittenList,
  writeDelimited,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import { type CutRow, type CutState, readCutState } from '../cuts/cut-state.ts'
import type { VerifiedCopy } from '../intake/copier.ts'
import type { WorkContext } from '../queue/context.ts'
import type { Queryable } from '../store/database.ts'
import type { Coverage, JobInput, Lacking, OpenedList } from '../store/job-types.ts'
import type { KnownFile } from '../store/known-material.ts'
import { cuts } from '../store/schema.ts'
import { papersOf, safeName, takeWritten, type WrittenFile, writeLists } from './hand-off.ts'
import { damageOf, onNoOriginal, type PulledClip, type PullOf, type PullPlan, placesOf, planPull } from './pull-plan.ts'
import { handedNow } from './since.ts'
import { readUsedLuts, type UsedLuts } from './used-luts.ts'

/** What is copied, and what goes along with it. */
export interface PullOrder {
  readonly plan: PullPlan
  /** The events that use each clip, in words. */
  readonly eventsOf: ReadonlyMap<string, readonly string[]>
  readonly luts: UsedLuts
  coverage(clipsInIt: ReadonlySet<string>): Coverage
  /** What is written beside the copies. */
  along(copied: {
    /** Where everything went to. */
    readonly folder: string
    readonly outstanding: readonly Lacking[]
    readonly copies: ReadonlyMap<string, VerifiedCopy>
  }): Promise<{
    readonly written: readonly WrittenFile[]
    readonly without: string | null
    /** What does not land where there is nothing but the copies, by list; absent where no list is on them. */
    readonly opened?: readonly OpenedList[]
  }>
  /** What the cut said of which it is; absent where it is of no single one. */
  readonly handed?: HandedCut
  readonly record: { readonly subject: 'cut' | 'production'; readonly subjectId: string; readonly what: string }
}

type PullInput = Extract<JobInput, { kind: 'pull' }>

/** What one cut needs. */
export async function orderPull(
  { database }: WorkContext,
  { cutId, of, handles }: PullInput & { readonly cutId: string },
): Promise<PullOrder> {
  const state = await readCutState(database, cutId)
  const plan = planPull(state, of, handles)
  return {
    plan,
    eventsOf: eventsByClip(state, (number) => number),
    luts: await readUsedLuts(database, plan),
    coverage: (clipsInIt) => coverageOf([state], of, clipsInIt),
    along: async ({ folder, outstanding }) => {
      // The list that was read names proxies.
      if (of === 'proxies') return { written: [await listAsRead(database, state.row)], without: null }
      return listsOnCopies(database, state, plan, { folder, isComplete: outstanding.length === 0 })
    },
    handed: handedNow(state),
    record: { subject: 'cut', subjectId: cutId, what: `Pulled the ${of} of “${state.row.name}”` },
  }
}

/**
 * An event is covered when all files of its clip are in the copy, and the clip is as long as it needs; where originals
 * are copied, it has to be whole too: a damaged one goes along as it is.
 */
export function coverageOf(states: readonly CutState[], of: PullOf, clipsInIt: ReadonlySet<string>): Coverage {
  const all = states.flatMap(({ resolutions }) => resolutions)
  const inIt = all.filter(({ clipId }) => clipId !== null && clipsInIt.has(clipId))
  const short = inIt.filter(({ state }) => state === 'short').length
  const damaged = of === 'proxies' ? 0 : inIt.filter(({ state }) => state === 'original damaged').length
  return { of: all.length, covered: inIt.length - short - damaged, short, damaged }
}

/** The events that use each clip of a cut. */
export function eventsByClip(
  { cut, resolutions }: CutState,
  inWords: (number: string) => string,
): Map<string, string[]> {
  const events = new Map<string, string[]>()
  resolutions.forEach(({ clipId }, position) => {
    if (clipId === null) return
    const number = inWords(cut.events[position]?.number ?? '')
    events.set(clipId, [...(events.get(clipId) ?? []), number])
  })
  return events
}

/** What is in the copy, and what is not, for a person and their table (RFC 4180). */
export function tableOf({ plan, eventsOf, luts }: PullOrder, copies: ReadonlyMap<string, VerifiedCopy>): string {
  const rows = plan.clips.flatMap((pulled) => {
    const { clip, outstanding } = pulled
    const told = [clip.name, clip.reel ?? '', (eventsOf.get(clip.id) ?? []).join(' ')]
    const lut = luts.namesOf(clip)
    if (outstanding !== null) return [[...told, 'outstanding', clip.main.volume.label, '', '', '', lut, outstanding]]
    return placesOf(plan, pulled).map((path, index) => {
      const copy = copies.get(path)
      const of = [clip.main.volume.label, path, String(copy?.sizeBytes ?? ''), copy?.hash ?? '']
      return [...told, copy ? 'copied and read back' : 'not copied', ...of, lut, remarkOn(pulled, index)]
    })
  })
  const unknown = plan.unknown.map(({ event, name }) => [
    ...[name, '', event, 'outstanding', '', '', '', '', '', onNoOriginal(event)],
  ])
  const columns = [
    'Clip',
    'Reel',
    'Events',
    'State',
    'Volume',
    'File',
    'Bytes',
    'Checksum',
    'LUT of its proxies',
    'Remark',
  ]
  return writeDelimited(',', columns, [...rows, ...unknown])
}

/** Of a file that is copied; a damaged original goes along as it is. */
function remarkOn(pulled: PulledClip, index: number): string {
  const damage = damageOf(pulled)
  return [stretchInWords(pulled, index), damage === null ? '' : `damaged: ${damage}`].filter(Boolean).join('; ')
}

/** A stretch may have shorter handles than were asked for, where its file has no more. */
function stretchInWords({ clip, pieces }: PulledClip, index: number): string {
  const piece = pieces?.[index]
  if (!piece) return ''
  const isFirst = piece.startFrame === 0
  const isLast = piece.endFrame === clip.main.facts?.picture?.frames
  const ends = [isFirst ? ', from its first frame' : '', isLast ? ', to its last frame' : '']
  return `a stretch of it${ends.join('')}`
}

/** The cut on these very copies, once nothing is missing and nothing is in the way of a handoff. */
async function listsOnCopies(
  database: Queryable,
  state: CutState,
  plan: PullPlan,
  { folder, isComplete }: { folder: string; isComplete: boolean },
): ReturnType<PullOrder['along']> {
  if (!isComplete) return { written: [], without: 'Something is outstanding: the lists go along when all is copied.' }
  const { open } = preflight(state.findings, state.decisions)
  if (open.length)
    return { written: [], without: `${count(open.length, 'finding')} in the way of a handoff: mend, and pull again.` }
  const there = placedIn(state, plan, folder)
  const lists = await writeLists(there, {})
  // The folder of the lists stands beside those of the volumes, wherever all of it is carried to.
  const beside = placedIn(state, plan, '..')
  const relative = (await writeLists(beside, {}, 'otio')).map((list) => ({ ...list, name: `${list.name}${byPlace}` }))
  const [taken, further] = [takeWritten(lists, state.cut.name), takeWritten(relative, state.cut.name, byPlace)]
  const all = {
    ...taken,
    written: [...taken.written, ...further.written],
    leftOut: [...taken.leftOut, ...further.leftOut],
  }
  if (all.written.length === 0)
    return { written: [], without: all.leftOut[0]?.reason ?? 'No format can say this cut.', opened: [] }
  const opened = [
    ...lists.flatMap((list) => openedAlone(list, there, plan)),
    ...relative.flatMap((list) => openedAlone(list, beside, plan)),
  ]
  return {
    written: [...all.written, ...(await papersOf(database, there, all, new Date()))],
    ...{ without: null, opened },
  }
}

/** What stands behind the name of a list that finds the copies from where it lies itself. */
const byPlace = ', relative paths'

/** A cut as it is where its clips are their copies in a folder. */
function placedIn(state: CutState, plan: PullPlan, folder: string): CutState {
  const placed = new Map(plan.clips.map((pulled) => [pulled.clip.id, placedClip(pulled, plan, folder)]))
  return {
    ...state,
    clips: new Map([...state.clips].map(([id, clip]) => [id, { ...clip, ...placed.get(id)?.(clip) }])),
  }
}

/** A list as it is read where nothing but the copies is. */
function openedAlone({ text, name, format: id }: WrittenList, state: CutState, plan: PullPlan): OpenedList[] {
  const format = cutFormats.find((each) => each.id === id)
  if (text === null || !format) return []
  const arrived = new Map(
    plan.clips.flatMap(({ clip: { id }, pieces }) => {
      const placed = state.clips.get(id)
      return placed ? [[id, arrivedOf(placed, pieces)] as const] : []
    }),
  )
  return [{ name, missed: opensAlone(text, format, state.cut, state.resolutions, arrived) }]
}

/** What lists say of a clip whose copies lie in a folder: their paths, and of stretches where each lies on its timecode. */
const placedClip =
  (pulled: PulledClip, plan: PullPlan, folder: string) =>
  ({ originalPaths, parts, tracks, facts }: FindingClip): Partial<FindingClip> => {
    const places = placesOf(plan, pulled).map((path) => join(folder, path))
    if (pulled.pieces) {
      const first = facts.startFrame ?? 0
      const stretches = pulled.pieces.map(({ startFrame, endFrame }, index) => ({
        path: places[index] as string,
        range: { startFrame: first + startFrame, endFrame: first + endFrame },
      }))
      return { originalPaths: places, parts: stretches }
    }
    // Of numbered stills a list names the pattern.
    const files = new Map(pulled.files.map((file) => [file.fullPath, join(folder, placeIn(plan, file))]))
    const moved = (path: string): string => files.get(path) ?? path
    return {
      originalPaths: originalPaths.map(moved),
      parts: parts.map((part) => ({ ...part, path: moved(part.path) })),
      ...(tracks && { tracks: tracks.map(moved) }),
    }
  }

/** Where a file that goes as a whole lies in the copy; of numbered stills their pattern. */
export const placeIn = (plan: PullPlan, { volumeId, path }: KnownFile): string =>
  join(plan.volumes.find(({ volume }) => volume.id === volumeId)?.folder ?? '', path)

/**
 * The list of a cut as it was read, text or bytes.
 * @param before what stands before its name
 */
export async function listAsRead(database: Queryable, row: CutRow, before = ''): Promise<WrittenFile> {
  const [list] = await database
    .select({ text: cuts.sourceText, bytes: cuts.sourceBytes })
    .from(cuts)
    .where(eq(cuts.id, row.id))
  const name = `${safeName(`${before}${parse(row.fileName).name}`)}${extname(row.fileName)}`
  return { name, content: list?.bytes ?? list?.text ?? '' }
}
