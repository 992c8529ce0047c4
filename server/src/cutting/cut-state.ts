import { basename } from 'node:path'
import {
  type Cut,
  type Decision,
  type Finding,
  type FindingClip,
  type FindingContext,
  findTrouble,
  type Resolution,
  resolveEvents,
  type Sighting,
} from '@ennick/core'
import { asc, eq } from 'drizzle-orm'
import { noticesOf } from '../catalogue/notices.ts'
import { notFound } from '../errors.ts'
import type { Queryable } from '../store/database.ts'
import { groupBy } from '../store/group.ts'
import { cuts, decisions, events } from '../store/schema.ts'
import { readWorld, type World, type WorldClip, type WorldFile } from '../store/world.ts'

export type CutRow = typeof cuts.$inferSelect

/** A cut as it stands now: its events, where each lands, and what is wrong. Derived whole each time, so never stale. */
export interface CutState {
  readonly row: CutRow
  readonly cut: Cut
  readonly resolutions: readonly Resolution[]
  readonly clips: ReadonlyMap<string, FindingClip>
  readonly findings: readonly Finding[]
  readonly decisions: readonly Decision[]
  readonly world: World
}

export async function readCutRow(database: Queryable, cutId: string): Promise<CutRow> {
  const [row] = await database.select().from(cuts).where(eq(cuts.id, cutId))
  if (!row) throw notFound('This cut')
  return row
}

export async function readCutState(database: Queryable, cutId: string): Promise<CutState> {
  const row = await readCutRow(database, cutId)
  const world = await readWorld(database, row.productionId)
  return stateOf(database, row, world, describeClips(world))
}

async function stateOf(database: Queryable, row: CutRow, world: World, clips: ReadonlyMap<string, FindingClip>): Promise<CutState> {
  const cutId = row.id
  const eventRows = await database.select().from(events).where(eq(events.cutId, cutId)).orderBy(asc(events.position))
  const decisionRows = await database.select().from(decisions).where(eq(decisions.cutId, cutId))
  const cut: Cut = {
    name: row.name,
    rate: { numerator: row.rateNumerator, denominator: row.rateDenominator },
    dropFrame: row.dropFrame,
    tracks: row.tracks,
    events: eventRows.map((event) => event.event),
  }
  const chosen = new Map(eventRows.flatMap((event) => (event.chosenClipId ? [[event.position, event.chosenClipId] as const] : [])))
  const resolutions = resolveEvents(cut.events, {
    clips: [...clips.values()],
    mappings: world.production.pathMappings,
    suffixes: world.production.proxySuffixes,
    chosen,
  })
  const context: FindingContext = { rate: cut.rate, dropFrame: cut.dropFrame, events: cut.events, resolutions, clips }
  return {
    row,
    cut,
    resolutions,
    clips,
    findings: findTrouble(context),
    decisions: decisionRows.map((decision) => ({
      findingKey: decision.findingKey,
      reason: decision.reason,
      decidedAt: decision.decidedAt.toISOString(),
    })),
    world,
  }
}

/** Every cut of a production; the clips are described once for all of them. */
export async function readAllCutStates(database: Queryable, world: World): Promise<CutState[]> {
  const rows = await database.select().from(cuts).where(eq(cuts.productionId, world.production.id)).orderBy(asc(cuts.createdAt))
  const clips = rows.length ? describeClips(world) : new Map<string, FindingClip>()
  const states: CutState[] = []
  for (const row of rows) states.push(await stateOf(database, row, world, clips))
  return states
}

/** The clips of a world as the core sees them, with where else their lost files were seen. */
function describeClips(world: World): Map<string, FindingClip> {
  const seen = [...world.files.values()].filter((file) => file.presence === 'here' && file.volume.kind !== 'made')
  const byContent = groupBy(seen, (file) => file.fingerprint)
  const byName = groupBy(seen, (file) => basename(file.path).toLowerCase())
  const described = new Map<string, FindingClip>()
  const today = new Date().toISOString().slice(0, 10)
  for (const clip of world.clips.values()) {
    if (!clip.main.facts) continue
    described.set(clip.id, {
      id: clip.id,
      name: basename(clip.main.path),
      formerNames: [clip.name],
      reel: clip.reel,
      facts: clip.main.facts,
      presence: clip.presence,
      originalPaths: clip.files.map((file) => file.fullPath),
      madePaths: clip.pairs.flatMap((pair) => pair.files.map(({ file }) => file.fullPath)),
      proxyPlays: clip.pairs.some((pair) => pair.files.length > 0 && pair.files.every(({ file }) => file.presence === 'here')),
      volumeLabel: clip.main.volume.label,
      notices: noticesOf(clip, today),
      lostFiles: clip.files
        .filter((file) => file.presence === 'gone')
        .map((file) => ({ path: file.fullPath, sightings: sightingsOf(clip, file, byContent, byName) })),
      pairs: clip.pairs.map((pair) => ({ id: pair.id, name: pair.name, verdict: pair.verdict, comparison: pair.comparison })),
    })
  }
  return described
}

function sightingsOf(clip: WorldClip, file: WorldFile, byContent: Map<string, WorldFile[]>, byName: Map<string, WorldFile[]>): Sighting[] {
  const own = new Set(clip.files.map((other) => other.id))
  const sighting = (other: WorldFile, sameContent: boolean): Sighting => ({
    path: other.fullPath,
    volumeLabel: other.volume.label,
    sameContent,
  })
  const content = (byContent.get(file.fingerprint) ?? []).filter((other) => !own.has(other.id))
  const named = (byName.get(basename(file.path).toLowerCase()) ?? []).filter((other) => !own.has(other.id) && !content.includes(other))
  return [...content.map((other) => sighting(other, true)), ...named.map((other) => sighting(other, false))]
}

/** The folders of the originals that are known, for suggesting path mappings. */
export const originalPaths = (world: World): string[] =>
  [...world.clips.values()].flatMap((clip) => [
    ...clip.files.map((file) => file.fullPath),
    ...clip.pairs.flatMap((pair) => pair.files.map(({ file }) => file.fullPath)),
  ])

/** How many events of the cuts use each clip. */
export function countUses(states: readonly CutState[]): Map<string, number> {
  const uses = new Map<string, number>()
  for (const state of states) for (const { clipId } of state.resolutions) if (clipId) uses.set(clipId, (uses.get(clipId) ?? 0) + 1)
  return uses
}
