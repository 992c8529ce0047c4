import { basename } from 'node:path'
import {
  type Cut,
  type Decision,
  EventResolver,
  type Finding,
  type FindingClip,
  type FindingContext,
  findTrouble,
  groupBy,
  pictureRange,
  type Resolution,
  type Sighting,
} from '@ennick/core'
import { asc, eq } from 'drizzle-orm'
import { noticesOf } from '../clips/notices.ts'
import { notFound } from '../errors.ts'
import type { Queryable } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import { type KnownClip, type KnownFile, type Material, readMaterial } from '../store/material.ts'
import { cuts, decisions, events } from '../store/schema.ts'

export type CutRow = typeof cuts.$inferSelect

/** A cut as it stands now: its events, where each lands, and what is wrong. Derived whole each time, so never stale. */
export interface CutState {
  readonly row: CutRow
  readonly cut: Cut
  readonly resolutions: readonly Resolution[]
  readonly clips: ReadonlyMap<string, FindingClip>
  readonly findings: readonly Finding[]
  readonly decisions: readonly Decision[]
  readonly material: Material
}

export async function readCutRow(database: Queryable, cutId: string): Promise<CutRow> {
  const [row] = await database.select().from(cuts).where(eq(cuts.id, cutId))
  if (!row) throw notFound('This cut')
  return row
}

/** @param kept where the material may be taken from, when it was read already and nothing has changed since */
export async function readCutState(database: Queryable, cutId: string, kept?: KeptMaterial): Promise<CutState> {
  const row = await readCutRow(database, cutId)
  return stateOf(database, row, await (kept?.read(row.productionId) ?? readMaterial(database, row.productionId)))
}

/** What follows from material alone, or from it and a cut that was read with it, is worked out once. */
interface Derived {
  readonly clips: ReadonlyMap<string, FindingClip>
  readonly resolver: EventResolver
  readonly states: Map<string, Promise<CutState>>
}
const derived = new WeakMap<Material, Derived>()

function derive(material: Material): Derived {
  const known = derived.get(material)
  if (known) return known
  const clips = describeClips(material)
  const resolver = new EventResolver({
    clips: [...clips.values()],
    mappings: material.production.pathMappings,
    suffixes: material.production.proxySuffixes,
    unreadable: unreadable(material),
  })
  const fresh = { clips, resolver, states: new Map() }
  derived.set(material, fresh)
  return fresh
}

function stateOf(database: Queryable, row: CutRow, material: Material): Promise<CutState> {
  const { states } = derive(material)
  const known = states.get(row.id)
  if (known) return known
  const state = makeState(database, row, material)
  states.set(row.id, state)
  state.catch(() => states.delete(row.id))
  return state
}

async function makeState(database: Queryable, row: CutRow, material: Material): Promise<CutState> {
  const { clips, resolver } = derive(material)
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
  const chosen = new Map(
    eventRows.flatMap((event) => (event.chosenClipId ? [[event.position, event.chosenClipId] as const] : [])),
  )
  const resolutions = resolver.resolve(cut.events, chosen, cut.rate)
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
    material,
  }
}

/** Every cut of a production; the clips are described once for all of them. */
export async function readAllCutStates(database: Queryable, material: Material): Promise<CutState[]> {
  const rows = await database
    .select()
    .from(cuts)
    .where(eq(cuts.productionId, material.production.id))
    .orderBy(asc(cuts.createdAt))
  const states: CutState[] = []
  for (const row of rows) states.push(await stateOf(database, row, material))
  return states
}

/** The clips of a production as the core sees them, with where else their lost files were seen. */
function describeClips(material: Material): Map<string, FindingClip> {
  const seen = [...material.files.values()].filter((file) => file.presence === 'here' && file.volume.kind !== 'made')
  const byContent = groupBy(seen, (file) => file.fingerprint)
  const byName = groupBy(seen, (file) => basename(file.path).toLowerCase())
  const described = new Map<string, FindingClip>()
  const today = new Date().toISOString().slice(0, 10)
  for (const clip of material.clips.values()) {
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
      parts: clip.isSpanned ? clip.files.flatMap(partOf) : [],
      proxyPlays: clip.pairs.some(
        (pair) => pair.files.length > 0 && pair.files.every(({ file }) => file.presence === 'here'),
      ),
      role: clip.role,
      roleReason: clip.roleReason,
      damage: clip.damage,
      volumeLabel: clip.main.volume.label,
      volumeIsHere: clip.main.volume.isHere,
      changedFiles: clip.files
        .filter((file) => file.firstFingerprint !== null && file.firstFingerprint !== file.fingerprint)
        .map((file) => ({ path: file.fullPath, fingerprint: file.fingerprint })),
      notices: noticesOf(clip, today),
      lostFiles: clip.files
        .filter((file) => file.presence === 'gone')
        .map((file) => ({ path: file.fullPath, sightings: sightingsOf(clip, file, byContent, byName) })),
      pairs: clip.pairs.map((pair) => ({
        id: pair.id,
        name: pair.name,
        verdict: pair.verdict,
        get comparison() {
          return pair.comparison
        },
        originalChanged: pair.originalChanged,
      })),
    })
  }
  return described
}

/** Where a part of a take over several files lies on the take's timecode. */
const partOf = ({ fullPath, facts }: KnownFile): FindingClip['parts'][number][] => {
  const range = facts ? pictureRange(facts) : null
  return range ? [{ path: fullPath, range }] : []
}

/** What was never read and belongs to nothing: one of them may be what an event asks for. */
const unreadable = (material: Material): { path: string; problem: string }[] =>
  [...material.files.values()].flatMap(({ facts, problem, fullPath, presence }) =>
    facts === null && problem !== null && presence === 'here' ? [{ path: fullPath, problem }] : [],
  )

function sightingsOf(
  clip: KnownClip,
  file: KnownFile,
  byContent: Map<string, KnownFile[]>,
  byName: Map<string, KnownFile[]>,
): Sighting[] {
  const own = new Set(clip.files.map((other) => other.id))
  const sighting = (other: KnownFile, sameContent: boolean): Sighting => ({
    path: other.fullPath,
    volumeLabel: other.volume.label,
    sameContent,
  })
  const content = (byContent.get(file.fingerprint) ?? []).filter((other) => !own.has(other.id))
  const named = (byName.get(basename(file.path).toLowerCase()) ?? []).filter(
    (other) => !own.has(other.id) && !content.includes(other),
  )
  return [...content.map((other) => sighting(other, true)), ...named.map((other) => sighting(other, false))]
}

/** The folders of the originals that are known, for suggesting path mappings. */
export const originalPaths = (material: Material): string[] =>
  [...material.clips.values()].flatMap((clip) => [
    ...clip.files.map((file) => file.fullPath),
    ...clip.pairs.flatMap((pair) => pair.files.map(({ file }) => file.fullPath)),
  ])
