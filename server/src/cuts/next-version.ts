import {
  type CutEvent,
  compareCuts,
  type EventChange,
  earlierWords,
  type FrameRange,
  findTrouble,
  framesInCommon,
  listedSource,
  type SourceOf,
  standingDecisions,
} from '@ennick/core'
import { and, desc, eq, isNotNull } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import type { Queryable } from '../store/database.ts'
import type { Material } from '../store/known-material.ts'
import { cuts, decisions, events } from '../store/schema.ts'
import { type CutRow, type CutState, cutColumns, findingContext, readOpenState } from './cut-state.ts'
import { carryFirstSeen } from './first-seen.ts'

/**
 * The place of a new version in its line, behind the newest. Nobody else adds one meanwhile.
 * @throws PlainError when the cut is gone or of another production
 */
export async function placeInLine(
  transaction: Queryable,
  productionId: string,
  cutId: string,
): Promise<{ lineId: string; version: number; before: CutRow }> {
  const [named] = await transaction.select(cutColumns).from(cuts).where(eq(cuts.id, cutId))
  if (named?.productionId !== productionId) throw notFound('The cut of which this is the next version')
  const inLine = eq(cuts.lineId, named.lineId)
  await transaction.select({ id: cuts.id }).from(cuts).where(inLine).orderBy(cuts.version).for('update')
  // Asked anew: a statement that waited for its locks does not see the version that somebody added meanwhile.
  const [before] = await transaction.select(cutColumns).from(cuts).where(inLine).orderBy(desc(cuts.version)).limit(1)
  if (!before)
    throw new PlainError('line-gone', 'The cut of which this is the next version was taken out.', { status: 409 })
  return { lineId: named.lineId, version: before.version + 1, before }
}

/** An event is known again by the clip that it landed on, or else by what its list says of its source. */
const sourcesOf =
  ({ resolutions }: CutState): SourceOf =>
  (event, position) =>
    resolutions[position]?.clipId ?? listedSource(event)

export const compareStates = (before: CutState, after: CutState) =>
  compareCuts(before.cut, after.cut, { before: sourcesOf(before), after: sourcesOf(after) })

/**
 * Takes what people decided and chose for the events of one version over to the same events of the next.
 * @returns how many choices and decisions went over, and how many decisions hold no more
 */
export async function carryOver(
  transaction: Queryable,
  beforeRow: CutRow,
  afterRow: CutRow,
  material: Material,
): Promise<{ choices: number; decisions: number; lapsed: number }> {
  const before = await readOpenState(transaction, beforeRow, material)
  const open = await readOpenState(transaction, afterRow, material)
  // A choice was made for what a list says: its event is known by that.
  const { changes } = compareCuts(before.cut, open.cut, { before: listedSource, after: listedSource })
  const choices = await carryChoices(transaction, before, open, changes)
  await carryAwaited(transaction, beforeRow, afterRow, changes)
  const after = await readOpenState(transaction, afterRow, material)
  const { held, lapsed } = await carryDecisions(transaction, before, after)
  return { choices, decisions: held.length, lapsed: lapsed.length }
}

/** Goes along to where the very frames are used again for which it was made; of others nobody has said anything. */
async function carryChoices(
  transaction: Queryable,
  before: CutState,
  after: CutState,
  changes: readonly EventChange[],
): Promise<number> {
  const framesOf = ({ cut }: CutState, position: number): FrameRange => (cut.events[position] as CutEvent).source
  const chosen = new Map(
    before.resolutions.flatMap(({ by, clipId }, position) =>
      by === 'choice' && clipId !== null ? [[position, clipId] as const] : [],
    ),
  )
  let carried = 0
  for (const { before: was, after: is, kinds } of changes) {
    const clipId = was === null ? undefined : chosen.get(was)
    if (clipId === undefined || was === null || is === null || kinds.includes('replaced')) continue
    if (framesInCommon(framesOf(before, was), framesOf(after, is)) === 0) continue
    await transaction
      .update(events)
      .set({ chosenClipId: clipId })
      .where(and(eq(events.cutId, after.row.id), eq(events.position, is)))
    carried++
  }
  return carried
}

/** What an archive lacks, the next version of the cut lacks too. */
async function carryAwaited(
  transaction: Queryable,
  before: CutRow,
  after: CutRow,
  changes: readonly EventChange[],
): Promise<void> {
  const rows = await transaction
    .select({ position: events.position, awaited: events.awaited })
    .from(events)
    .where(and(eq(events.cutId, before.id), isNotNull(events.awaited)))
  const isAt = new Map(
    changes.map(({ before: was, after: is, kinds }) => [was, kinds.includes('replaced') ? null : is]),
  )
  for (const { position, awaited } of rows) {
    const is = isAt.get(position) ?? null
    if (is === null) continue
    await transaction
      .update(events)
      .set({ awaited })
      .where(and(eq(events.cutId, after.id), eq(events.position, is)))
  }
}

/** A decision goes over to a finding that is the same but for where its events stand, and holds as far as it did. */
async function carryDecisions(
  transaction: Queryable,
  before: CutState,
  after: CutState,
): Promise<ReturnType<typeof standingDecisions>> {
  const { changes } = compareStates(before, after)
  const isAt = new Map(
    changes.flatMap(({ before: was, after: is }) => (was === null || is === null ? [] : [[was, is] as const])),
  )
  const context = findingContext(before.cut, before.resolutions, before.clips, before.material)
  const eventKey = (position: number): string => String(isAt.get(position) ?? `gone ${position}`)
  // The checks find the same in the same order, whatever stands for an event in their keys.
  const moved = findTrouble({ ...context, eventKey })
  const keys = new Map(before.findings.map(({ key }, index) => [key, moved[index]?.key]))
  const there = new Set(after.findings.map(({ key }) => key))
  const given = [...before.decisions, ...before.lapsed].flatMap((decision) => {
    const key = keys.get(decision.findingKey)
    return key === undefined ? [] : [{ ...decision, findingKey: key }]
  })
  // What was said of a matter as it was is told of it as it is.
  const earlier = before.findings.flatMap(({ key, subject }, index) => {
    const [word, now] = [before.earlier.get(key), moved[index]?.subject]
    return word && subject && now ? [{ ...word, findingKey: now + word.findingKey.slice(subject.length) }] : []
  })
  const told = new Set(earlierWords(after.findings, [...given, ...earlier]).values())
  const kept = given.filter(({ findingKey }) => there.has(findingKey))
  const still = [...keys].filter((pair): pair is [string, string] => pair[1] !== undefined && there.has(pair[1]))
  await carryFirstSeen(transaction, before.row.id, after.row.id, still)
  for (const { decidedAt, ...decision } of [...kept, ...told])
    await transaction
      .insert(decisions)
      .values({ cutId: after.row.id, ...decision, decidedAt: new Date(decidedAt) })
      .onConflictDoNothing()
  return standingDecisions(after.cut.events, after.findings, kept)
}

/** The version before a cut in its line; null for the first. */
export async function versionBefore(database: Queryable, row: CutRow): Promise<CutRow | null> {
  const line = await database.select(cutColumns).from(cuts).where(eq(cuts.lineId, row.lineId)).orderBy(cuts.version)
  return line.filter(({ version }) => version < row.version).at(-1) ?? null
}
