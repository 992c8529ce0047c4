import { basename } from 'node:path'
import { isDeepStrictEqual } from 'node:util'
import { JoinedSources, mapPath, type PathMapping } from '@ennick/core'
import { eq, is } from 'drizzle-orm'
import { PgTransaction } from 'drizzle-orm/pg-core'
import {
  type AssembledClip,
  assembleClip,
  type ClipRules,
  isSameParts,
  linkedFiles,
  partsOf,
  type WhatIsSaid,
} from './assemble-clip.ts'
import { readComplaints } from './complaints.ts'
import type { Queryable } from './database.ts'
import { readGuidelessTracks } from './guideless-tracks.ts'
import { joinedFiles } from './job-schema.ts'
import {
  contentOf,
  type KnownClip,
  type KnownFile,
  type KnownPair,
  type Material,
  type VolumeRow,
} from './known-material.ts'
import { lutAssignments } from './lut-schema.ts'
import { type MaterialRows, readRows } from './material-rows.ts'
import { placeFile } from './place-file.ts'
import { type ProductionRow, readProduction } from './production-row.ts'
import { readRecipeVersions } from './recipes.ts'
import { findTwins, type KeptTwins, type KnownRole, type RoleSigns, readRoleSigns, roleBySigns } from './roles.ts'
import { volumes } from './schema.ts'
import { recordingMarks, soundUseOf } from './sound-link.ts'

/** What a production's material is put together from, besides the rows of its clips, files and pairs. */
interface Besides extends WhatIsSaid {
  readonly production: ProductionRow
  readonly volumes: readonly VolumeRow[]
  /** The production's name, suffixes and recipes: when they change, everything is judged anew. */
  readonly rules: string
  readonly lutAssignments: Material['lutAssignments']
  readonly joined: readonly (typeof joinedFiles.$inferSelect)[]
}

/** What was put together last of a production, from which the next reading takes what has not changed. */
interface Remembered {
  readonly rows: MaterialRows
  readonly besides: Besides
  /** The same for as long as nothing of them changes: every pair holds on to those that it was judged by. */
  readonly clipRules: ClipRules
  readonly clips: ReadonlyMap<string, AssembledClip>
  readonly twins: KeptTwins
  readonly signs: RoleSigns
  readonly material: Material
}

/** So many productions are remembered, those that were read last. */
const mostRemembered = 2
/** What nobody has read in so long is let go. */
const idleMilliseconds = 300_000
const remembered = new Map<string, Remembered>()
let idle: NodeJS.Timeout | null = null

function remember(productionId: string, what: Remembered): void {
  remembered.delete(productionId)
  remembered.set(productionId, what)
  for (const id of [...remembered.keys()].slice(0, -mostRemembered)) remembered.delete(id)
  if (idle) clearTimeout(idle)
  idle = setTimeout(() => remembered.clear(), idleMilliseconds).unref()
}

/**
 * Of a whole production only what has changed since the last reading is read and put together again: what is the same
 * is the same object, in which others may keep what follows from it. Where nothing has changed, so is all of it; but a
 * transaction always gets an object of its own, as what follows from it there may be taken back.
 * @param clipIds reads these clips alone, with their files and pairs: much quicker than all of a large production
 * @param pathMap where this machine has folders that the ledger knows by another path
 * @throws PlainError when there is no such production.
 */
export async function readMaterial(
  database: Queryable,
  productionId: string,
  clipIds: readonly string[] | null = null,
  pathMap: readonly PathMapping[] = [],
): Promise<Material> {
  const isWhole = clipIds === null && pathMap.length === 0
  const before = isWhole ? (remembered.get(productionId) ?? null) : null
  const now = await readAndAssemble(database, productionId, { clipIds, pathMap, before })
  if (isWhole) remember(productionId, now)
  return is(database, PgTransaction) ? { ...now.material } : now.material
}

async function readAndAssemble(
  database: Queryable,
  productionId: string,
  {
    clipIds,
    pathMap,
    before,
  }: { clipIds: readonly string[] | null; pathMap: readonly PathMapping[]; before: Remembered | null },
): Promise<Remembered> {
  const production = await readProduction(database, productionId)
  const volumeRows = await readVolumes(database, productionId, pathMap, before)
  const volumeById = new Map(volumeRows.map((row) => [row.id, row]))
  const versions = await readRecipeVersions(database)
  const recipes = new Map([...versions].map(([id, [newest]]) => [id, newest]))
  const suffixes = [
    ...new Set([...production.proxySuffixes, ...[...recipes.values()].map((recipe) => recipe.suffix).filter(Boolean)]),
  ]
  const rules = JSON.stringify([production.name, suffixes, [...versions]])
  const known = before?.besides.rules === rules ? before : null
  const rows = await readRows(database, productionId, [...volumeById.keys()], clipIds, before?.rows ?? null)
  const files = placeFiles(rows, volumeById, known)
  const besides = {
    ...{ production, volumes: volumeRows, rules, ...(await readWhatIsSaid(database, rows, files)) },
    lutAssignments: await database.select().from(lutAssignments).where(eq(lutAssignments.productionId, productionId)),
    joined: await readJoined(database, production),
  }
  const isSame = before !== null && rows === before.rows && isDeepStrictEqual(besides, before.besides)
  const last = isSame ? before : null
  const clipRules = known?.clipRules ?? { recipes, versions, suffixes }
  const clips = last?.clips ?? assemble(rows, files, besides, clipRules, known)
  const mains = last?.twins.of ?? [...clips.values()].map(({ subject }) => subject)
  const signs = await readRoleSigns(database, { productionId, volumes: volumeRows }, mains)
  if (last && isDeepStrictEqual(signs, last.signs)) return last
  const twins = last?.twins ?? findTwins(mains, suffixes, before?.twins ?? null)
  const withRoles = new Map<string, AssembledClip>()
  const allClips = new Map<string, KnownClip>()
  const allPairs = new Map<string, KnownPair>()
  const roleOf = roleBySigns(signs, twins.twins)
  for (const [id, assembled] of clips) {
    const { clip, withRole } = assembled
    const role = roleOf(assembled.subject)
    const isUsual = role.role === 'original' && role.declaredRole === null
    const isAsBefore = Object.entries(role).every(([key, value]) => withRole[key as keyof KnownRole] === value)
    const now = isUsual ? clip : isAsBefore ? withRole : { ...clip, ...role }
    withRoles.set(id, now === withRole ? assembled : { ...assembled, withRole: now })
    allClips.set(id, now)
    for (const pair of now.pairs) allPairs.set(pair.id, pair)
  }
  const material = {
    ...{ production: { ...production, proxySuffixes: suffixes }, recipes, lutAssignments: besides.lutAssignments },
    ...{ volumes: volumeRows, files, clips: allClips, pairs: allPairs, joined: joinedSources(besides.joined) },
  }
  return { rows, besides, clipRules, clips: withRoles, twins, signs, material }
}

/** The volumes of a production, each where this machine has it; what has not changed is the same. */
async function readVolumes(
  database: Queryable,
  productionId: string,
  pathMap: readonly PathMapping[],
  before: Remembered | null,
): Promise<VolumeRow[]> {
  const rows = await database
    .select()
    .from(volumes)
    .where(eq(volumes.productionId, productionId))
    .orderBy(volumes.createdAt, volumes.label)
  const known = new Map(before?.besides.volumes.map((row) => [row.id, row]))
  return rows.map((row) => {
    const placed = { ...row, rootPath: mapPath(row.rootPath, pathMap) ?? row.rootPath }
    const last = known.get(row.id)
    return last && isDeepStrictEqual(last, placed) ? last : placed
  })
}

async function readWhatIsSaid(
  database: Queryable,
  rows: MaterialRows,
  fileById: ReadonlyMap<string, KnownFile>,
): Promise<WhatIsSaid> {
  const complaints = await readComplaints(database)
  const marks = await recordingMarks(database, rows.pairs.rows, rows.clips.rows)
  // Asked of clips alone that a guide is promised on.
  const promised = rows.clips.rows.filter((row) => soundUseOf(row) === 'guide')
  const contents = promised.map(({ id }) =>
    contentOf({ files: linkedFiles(rows.filesOfClip.groups.get(id), fileById, (file) => file) }),
  )
  return { complaints, marks, guideless: await readGuidelessTracks(database, contents) }
}

/** Every clip that has a file, put together; one of which nothing has changed is the same. */
function assemble(
  rows: MaterialRows,
  files: ReadonlyMap<string, KnownFile>,
  said: WhatIsSaid,
  rules: ClipRules,
  known: Remembered | null,
): ReadonlyMap<string, AssembledClip> {
  const assembled = new Map<string, AssembledClip>()
  for (const row of rows.clips.rows) {
    const parts = partsOf(row, rows, files, said)
    if (parts.own.length === 0) continue
    const last = known?.clips.get(row.id)
    if (last && isSameParts(last.parts, parts)) assembled.set(row.id, last)
    else {
      const clip = assembleClip(parts, rules)
      const { path, volume, fingerprint, facts } = clip.main
      assembled.set(row.id, { parts, clip, subject: { id: row.id, path, volume, fingerprint, facts }, withRole: clip })
    }
  }
  return assembled
}

/** The joined files of a production; a trial knows those of the one that it is of. */
const readJoined = (database: Queryable, { id, trialOf }: ProductionRow) =>
  database
    .select()
    .from(joinedFiles)
    .where(eq(joinedFiles.productionId, trialOf?.productionId ?? id))

const joinedSources = (rows: Besides['joined']): JoinedSources =>
  new JoinedSources(
    rows.map((row) => ({
      ...{ id: row.id, name: basename(row.path), entries: row.entries },
      rate: { numerator: row.rateNumerator, denominator: row.rateDenominator },
    })),
  )

/** Every file with where it is; what has not changed is the same. */
function placeFiles(
  { files: read }: MaterialRows,
  volumeById: ReadonlyMap<string, VolumeRow>,
  known: Remembered | null,
): ReadonlyMap<string, KnownFile> {
  const areSame = known?.rows.files === read
  const placed = new Map<string, KnownFile>()
  for (const row of read.rows) {
    const volume = volumeById.get(row.volumeId) as VolumeRow
    const last = known?.material.files.get(row.id)
    const isSame = last?.volume === volume && (areSame || known?.rows.files.byId.get(row.id)?.row === row)
    placed.set(row.id, isSame ? last : placeFile(row, volume))
  }
  return placed
}
