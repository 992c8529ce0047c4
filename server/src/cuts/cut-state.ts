import { basename } from 'node:path'
import {
  type Cut,
  type DecisionOnUses,
  EventResolver,
  earlierWords,
  type Finding,
  type FindingClip,
  type FindingContext,
  findTrouble,
  groupBy,
  latestDate,
  type MediaFacts,
  normalName,
  pictureRange,
  type Resolution,
  removableKinds,
  type Sighting,
  standingDecisions,
} from '@ennick/core'
import { asc, eq, getTableColumns } from 'drizzle-orm'
import { noticesOf } from '../clips/notices.ts'
import { notFound } from '../errors.ts'
import { hasChanged, heldContent, heldContents, isAsGood } from '../store/backups.ts'
import type { Queryable } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import { type KnownClip, type KnownFile, type Material, playsNow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { type ProductionRow, productionRate } from '../store/production-row.ts'
import { cuts, decisions, events } from '../store/schema.ts'
import { soundLinkOf, soundUseOf } from '../store/sound-link.ts'
import { stayingFirst } from '../store/stays.ts'
import { newestOf } from './newest-versions.ts'
import { PairInFindings } from './pair-in-findings.ts'

/** A cut without its list, which may be long and is asked for by itself. */
export type CutRow = Omit<typeof cuts.$inferSelect, 'sourceText' | 'sourceBytes'>

const { sourceText: _, sourceBytes: __, ...columnsOfCut } = getTableColumns(cuts)
export const cutColumns = columnsOfCut

/** A cut as it stands now: its events, where each lands, and what is wrong. Derived whole each time, so never stale. */
export interface CutState {
  readonly row: CutRow
  readonly cut: Cut
  readonly resolutions: readonly Resolution[]
  readonly clips: ReadonlyMap<string, FindingClip>
  readonly findings: readonly Finding[]
  readonly decisions: readonly DecisionOnUses[]
  /** Decisions that were made on less than what their findings touch by now. */
  readonly lapsed: readonly DecisionOnUses[]
  /** What was said of the matters of findings when they stood otherwise, by the findings' keys. */
  readonly earlier: ReadonlyMap<string, DecisionOnUses>
  readonly material: Material
}

export async function readCutRow(database: Queryable, cutId: string): Promise<CutRow> {
  const [row] = await database.select(cutColumns).from(cuts).where(eq(cuts.id, cutId))
  if (!row) throw notFound('This cut')
  return row
}

/** @param kept where the material may be taken from, when it was read already and nothing has changed since */
export async function readCutState(database: Queryable, cutId: string, kept?: KeptMaterial): Promise<CutState> {
  const row = await readCutRow(database, cutId)
  return stateOf(database, row, await (kept?.read(row.productionId) ?? readMaterial(database, row.productionId)))
}

/** What follows from material alone is worked out once; what follows from a cut too, once for each of its revisions. */
interface Derived {
  readonly clips: ReadonlyMap<string, FindingClip>
  readonly resolver: EventResolver
  readonly states: Map<string, { readonly revision: number; readonly state: Promise<CutState> }>
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

/** A cut as it stands within a transaction, before anybody else sees it. */
export const readOpenState = (database: Queryable, row: CutRow, material: Material): Promise<CutState> =>
  makeState(database, row, material)

function stateOf(database: Queryable, row: CutRow, material: Material): Promise<CutState> {
  const { states } = derive(material)
  const known = states.get(row.id)
  if (known?.revision === row.revision) return known.state
  const made = { revision: row.revision, state: makeState(database, row, material) }
  states.set(row.id, made)
  made.state.catch(() => {
    if (states.get(row.id) === made) states.delete(row.id)
  })
  return made.state
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
    ...row.besides,
  }
  const chosen = new Map(
    eventRows.flatMap((event) => (event.chosenClipId ? [[event.position, event.chosenClipId] as const] : [])),
  )
  const awaited = new Map(eventRows.flatMap(({ position, awaited }) => (awaited ? [[position, awaited] as const] : [])))
  const resolutions = resolver.resolve(cut.events, { chosen, awaited }, cut.rate)
  const findings = findTrouble(findingContext(cut, resolutions, clips, material))
  const decided = decisionRows.map(({ findingKey, reason, decidedAt, uses }) => ({
    ...{ findingKey, reason, uses },
    decidedAt: decidedAt.toISOString(),
  }))
  const { held, lapsed } = standingDecisions(cut.events, findings, decided)
  const earlier = earlierWords(findings, decided)
  return { row, cut, resolutions, clips, findings, decisions: held, lapsed, earlier, material }
}

/** What the checks look at. */
export const findingContext = (
  cut: Cut,
  resolutions: readonly Resolution[],
  clips: ReadonlyMap<string, FindingClip>,
  { production, joined }: Material,
): FindingContext => ({
  ...{ rate: cut.rate, dropFrame: cut.dropFrame, raster: cut.raster, events: cut.events, resolutions, clips },
  joined,
  production: { rate: productionRate(production), width: production.width, height: production.height },
})

/** Every cut of a production, each of its versions; the clips are described once for all of them. */
export const readAllCutStates = async (database: Queryable, material: Material): Promise<CutState[]> =>
  statesOf(database, await readCutRows(database, material.production.id), material)

/** The newest version of every cut of a production: where only those count, the older ones need not be looked at. */
export const readNewestCutStates = async (database: Queryable, material: Material): Promise<CutState[]> =>
  statesOf(database, newestOf(await readCutRows(database, material.production.id)), material)

/** Every cut of a production, each of its versions, in the order in which they were read. */
export const readCutRows = (database: Queryable, productionId: string): Promise<CutRow[]> =>
  database.select(cutColumns).from(cuts).where(eq(cuts.productionId, productionId)).orderBy(asc(cuts.createdAt))

async function statesOf(database: Queryable, rows: readonly CutRow[], material: Material): Promise<CutState[]> {
  const states: CutState[] = []
  for (const row of rows) states.push(await stateOf(database, row, material))
  return states
}

/** Clips described before: what is not changed by anything else is described once. */
const descriptions = new WeakMap<KnownClip, { readonly today: string; readonly clip: FindingClip }>()

/** The clips of a production as the core sees them, with where else their lost files were seen. */
function describeClips(material: Material): Map<string, FindingClip> {
  const sightings = new Sightings(material)
  const described = new Map<string, FindingClip>()
  const today = latestDate(new Date())
  for (const clip of material.clips.values()) {
    if (!clip.main.facts) continue
    const known = descriptions.get(clip)
    if (known?.today === today) {
      described.set(clip.id, known.clip)
      continue
    }
    const fresh = describeClip(material.production, clip, clip.main.facts, today, sightings)
    described.set(clip.id, fresh)
    // Where a lost file was seen follows from other files.
    if (fresh.lostFiles.length === 0) descriptions.set(clip, { today, clip: fresh })
  }
  return described
}

/**
 * Where a clip that is away has its content on a volume that stays. Of several files each has a place of its own, which
 * no line says.
 */
function copyHere({ files, presence, copies }: KnownClip): FindingClip['copyHere'] {
  const [file, ...further] = files
  if (presence !== 'away' || !file || further.length) return undefined
  const here = copies.find(({ file: copy }) => isAsGood(copy, file))
  return here && { path: here.file.path, volumeLabel: here.file.volume.label }
}

const describeClip = (
  production: ProductionRow,
  clip: KnownClip,
  facts: MediaFacts,
  today: string,
  sightings: Sightings,
): FindingClip => ({
  ...{ id: clip.id, ...namesOf(clip), reel: clip.reel, facts },
  presence: clip.presence,
  originalPaths: clip.files.map((file) => file.fullPath),
  madePaths: clip.pairs.flatMap((pair) => pair.files.map(({ file }) => file.fullPath)),
  firstStill: clip.main.sequence?.ranges[0]?.startFrame,
  parts: clip.isSpanned ? clip.files.flatMap(partOf) : [],
  ...(clip.isTrackSet && { tracks: clip.files.map(({ fullPath }) => fullPath) }),
  proxyPlays: clip.pairs.some(playsNow),
  ...{ role: clip.role, roleReason: clip.roleReason, damage: clip.damage },
  ...{ volumeLabel: clip.main.volume.label, volumeRoot: clip.main.volume.rootPath },
  volumeHangs: !clip.main.volume.isAnswering,
  volumeIsHere: clip.main.volume.isHere,
  ...{ soundLink: soundLinkOf(clip), soundUse: soundUseOf(clip), guidelessTracks: clip.guidelessTracks },
  fingerprint: clip.files.length === 1 ? clip.main.fingerprint : null,
  content: heldContents(clip),
  changedFiles: clip.files.filter(hasChanged).map((file) => ({ path: file.fullPath, fingerprint: file.fingerprint })),
  notOneClip: clip.notOneClip,
  syncChange: clip.syncChange,
  notices: noticesOf(clip, today),
  copyHere: copyHere(clip),
  lostFiles: clip.files
    .filter((file) => file.presence === 'gone')
    .map((file) => ({ path: file.fullPath, sightings: sightings.of(clip, file) })),
  pairs: clip.pairs.map((pair) => new PairInFindings(production, clip, pair)),
})

/** A clip of several files is known by each of them; one whose tracks they are is called as they all are. */
function namesOf({ isTrackSet, name, main, files }: KnownClip): Pick<FindingClip, 'name' | 'formerNames'> {
  const each = files.length > 1 ? files.map(({ path }) => basename(path)) : []
  return isTrackSet ? { name, formerNames: each } : { name: basename(main.path), formerNames: [name, ...each] }
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

/** Where else lost files were seen; the files that are here are put in order when the first one is asked for. */
class Sightings {
  readonly #material: Material
  #seen: { byContent: Map<string, KnownFile[]>; byName: Map<string, KnownFile[]> } | null = null

  constructor(material: Material) {
    this.#material = material
  }

  of(clip: KnownClip, file: KnownFile): Sighting[] {
    this.#seen ??= this.#putInOrder()
    const { byContent, byName } = this.#seen
    const own = new Set([...clip.files, ...clip.unlikeCopies].map((other) => other.id))
    const sighting = (other: KnownFile, sameContent: boolean): Sighting => ({
      ...{ path: other.path, volumeLabel: other.volume.label, sameContent },
      isRemovable: removableKinds.has(other.volume.kind),
    })
    // What stays is named before a card.
    const content = (byContent.get(heldContent(file)) ?? []).filter((other) => !own.has(other.id)).sort(stayingFirst)
    const named = (byName.get(normalName(basename(file.path))) ?? []).filter(
      (other) => !own.has(other.id) && !content.includes(other),
    )
    return [...content.map((other) => sighting(other, true)), ...named.map((other) => sighting(other, false))]
  }

  #putInOrder() {
    const here = [...this.#material.files.values()].filter(
      (file) => file.presence === 'here' && file.volume.kind !== 'made',
    )
    return {
      byContent: groupBy(here, (file) => file.fingerprint),
      byName: groupBy(here, (file) => normalName(basename(file.path))),
    }
  }
}

/** The folders of the originals that are known, for suggesting path mappings. */
export const originalPaths = (material: Material): string[] =>
  [...material.clips.values()].flatMap((clip) => [
    ...clip.files.map((file) => file.fullPath),
    ...clip.pairs.flatMap((pair) => pair.files.map(({ file }) => file.fullPath)),
  ])
