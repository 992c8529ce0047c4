import { join } from 'node:path'
import {
  joinFacts,
  judgePair,
  type MediaFacts,
  mapPath,
  type PairVerdict,
  type PathMapping,
  type Presence,
  type Recipe,
  worstPresence,
} from '@ennick/core'
import { and, eq, inArray } from 'drizzle-orm'
import { notFound } from '../errors.ts'
import { clipCopies } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'
import { groupBy } from './group.ts'
import { lutAssignments } from './lut-schema.ts'
import { pairEvidence } from './pair-evidence.ts'
import { readRecipeVersions } from './recipes.ts'
import { clipFiles, clips, files, pairFiles, pairs, productions, volumes } from './schema.ts'

export type ProductionRow = typeof productions.$inferSelect
export type VolumeRow = typeof volumes.$inferSelect
export type ClipRow = typeof clips.$inferSelect
export type PairRow = typeof pairs.$inferSelect
export type LutAssignmentRow = typeof lutAssignments.$inferSelect

/** A file with where it is on this system and whether it is there. */
export type WorldFile = typeof files.$inferSelect & {
  readonly volume: VolumeRow
  /** The root of its volume. */
  readonly root: string
  /** For numbered stills the path of their pattern. */
  readonly fullPath: string
  readonly presence: Presence
}

export interface WorldPair extends PairRow {
  readonly files: readonly { readonly file: WorldFile; readonly part: 'whole' | 'picture' | 'sound' }[]
  /** The newest version of what it was made with; null for one that was adopted. */
  readonly recipe: Recipe | null
  readonly verdict: PairVerdict
}

export interface WorldClip extends ClipRow {
  readonly files: readonly WorldFile[]
  /** The first file; its facts speak for the clip, and for a spanned take they are those of all its parts together. */
  readonly main: WorldFile
  /** Files elsewhere with the same content. */
  readonly copies: readonly { readonly file: WorldFile; readonly isVerified: boolean }[]
  readonly presence: Presence
  /** Those in use; what a mend has replaced is left out. */
  readonly pairs: readonly WorldPair[]
}

/** What is known of one production's media at this moment, put together once and read from many sides. */
export interface World {
  /** Its suffixes are those of the production and of every recipe. */
  readonly production: ProductionRow
  /** The newest version of every recipe. */
  readonly recipes: ReadonlyMap<string, Recipe>
  readonly lutAssignments: readonly LutAssignmentRow[]
  readonly volumes: readonly VolumeRow[]
  readonly files: ReadonlyMap<string, WorldFile>
  readonly clips: ReadonlyMap<string, WorldClip>
  readonly pairs: ReadonlyMap<string, WorldPair>
}

export async function readProduction(database: Queryable, productionId: string): Promise<ProductionRow> {
  const [row] = await database.select().from(productions).where(eq(productions.id, productionId))
  if (!row) throw notFound('This production')
  return row
}

/**
 * @param clipIds reads these clips alone, with their files and pairs: much quicker than all of a large production
 * @param pathMap where this machine has folders that the ledger knows by another path
 * @throws PlainError when there is no such production.
 */
export async function readWorld(
  database: Queryable,
  productionId: string,
  clipIds: readonly string[] | null = null,
  pathMap: readonly PathMapping[] = [],
): Promise<World> {
  const production = await readProduction(database, productionId)
  const stored = await database
    .select()
    .from(volumes)
    .where(eq(volumes.productionId, productionId))
    .orderBy(volumes.createdAt, volumes.label)
  const volumeRows = stored.map((row) => ({ ...row, rootPath: mapPath(row.rootPath, pathMap) ?? row.rootPath }))
  const volumeById = new Map(volumeRows.map((row) => [row.id, row]))
  const versions = await readRecipeVersions(database)
  const recipes = new Map([...versions].map(([id, [newest]]) => [id, newest]))
  const suffixes = [...new Set([...production.proxySuffixes, ...[...recipes.values()].map((recipe) => recipe.suffix).filter(Boolean)])]
  const rows = await readRows(database, productionId, [...volumeById.keys()], clipIds)
  const fileById = new Map(rows.files.map((row) => [row.id, placeFile(row, volumeById.get(row.volumeId) as VolumeRow)]))

  const filesOfClip = groupBy(rows.clipFiles, (row) => row.link.clipId)
  const filesOfPair = groupBy(rows.pairFiles, (row) => row.link.pairId)
  const pairsOfClip = groupBy(rows.pairs, (row) => row.pair.clipId)
  const copiesOfClip = groupBy(rows.copies, (row) => row.link.clipId)
  const world = {
    production: { ...production, proxySuffixes: suffixes },
    recipes,
    lutAssignments: await database.select().from(lutAssignments).where(eq(lutAssignments.productionId, productionId)),
    volumes: volumeRows,
    files: fileById,
    clips: new Map<string, WorldClip>(),
    pairs: new Map<string, WorldPair>(),
  }
  for (const row of rows.clips) {
    const links = (filesOfClip.get(row.id) ?? []).filter(({ link }) => fileById.has(link.fileId))
    const own = links.map(({ link }) => fileById.get(link.fileId) as WorldFile)
    const first = own[0]
    if (!first) continue
    const main = links[0]?.link.part === 'span' ? { ...first, facts: factsOfSpan(own) } : first
    const presence = worstPresence(own.map((file) => file.presence))
    const tied = (pairsOfClip.get(row.id) ?? []).map(({ pair }): WorldPair => {
      const made = (filesOfPair.get(pair.id) ?? []).flatMap(({ link }) => {
        const file = fileById.get(link.fileId)
        return file ? [{ file, part: link.part }] : []
      })
      // What was compared once is compared with what is known now: a reel set since then counts at once.
      const recipe = recipes.get(pair.recipeId ?? '') ?? null
      const usedVersion = versions.get(pair.recipeId ?? '')?.find(({ version }) => version === pair.recipeVersion) ?? recipe
      const madeBy = pair.origin === 'made' ? usedVersion : null
      const comparison = pair.comparison === null ? null : (pairEvidence(row, main, made, pair, suffixes, madeBy) ?? pair.comparison)
      const proof = (pair.proof ?? []).filter(({ aspect }) => !comparison?.some((row) => row.aspect === aspect))
      const current = { ...pair, comparison: comparison && [...comparison, ...proof], recipe }
      return {
        ...current,
        files: made,
        verdict: judge(
          current,
          own,
          made.map(({ file }) => file),
          presence,
        ),
      }
    })
    for (const pair of tied) world.pairs.set(pair.id, pair)
    const copies = (copiesOfClip.get(row.id) ?? []).flatMap(({ link }) => {
      const file = fileById.get(link.fileId)
      return file ? [{ file, isVerified: link.isVerified }] : []
    })
    world.clips.set(row.id, { ...row, files: own, main, copies, presence, pairs: tied })
  }
  return world
}

async function readRows(database: Queryable, productionId: string, volumeIds: readonly string[], clipIds: readonly string[] | null) {
  const ofThese = clipIds
    ? and(eq(clips.productionId, productionId), inArray(clips.id, [...clipIds]))
    : eq(clips.productionId, productionId)
  const ofActivePairs = and(ofThese, eq(pairs.isActive, true))
  const read = {
    clips: await database.select().from(clips).where(ofThese).orderBy(clips.name, clips.id),
    clipFiles: await database
      .select({ link: clipFiles })
      .from(clipFiles)
      .innerJoin(clips, eq(clips.id, clipFiles.clipId))
      .where(ofThese)
      .orderBy(clipFiles.ordinal),
    copies: await database.select({ link: clipCopies }).from(clipCopies).innerJoin(clips, eq(clips.id, clipCopies.clipId)).where(ofThese),
    pairs: await database
      .select({ pair: pairs })
      .from(pairs)
      .innerJoin(clips, eq(clips.id, pairs.clipId))
      .where(ofActivePairs)
      .orderBy(pairs.createdAt),
    pairFiles: await database
      .select({ link: pairFiles })
      .from(pairFiles)
      .innerJoin(pairs, eq(pairs.id, pairFiles.pairId))
      .innerJoin(clips, eq(clips.id, pairs.clipId))
      .where(ofActivePairs)
      .orderBy(pairFiles.ordinal),
  }
  const linked = [...read.clipFiles, ...read.copies, ...read.pairFiles].map(({ link }) => link.fileId)
  const wanted = clipIds ? inArray(files.id, linked) : inArray(files.volumeId, [...volumeIds])
  const isNone = clipIds ? linked.length === 0 : volumeIds.length === 0
  return { ...read, files: isNone ? [] : await database.select().from(files).where(wanted) }
}

function factsOfSpan(parts: readonly WorldFile[]): MediaFacts | null {
  const facts = parts.flatMap((part) => part.facts ?? [])
  return facts.length === parts.length ? joinFacts(facts) : null
}

/** Where a file is, given what is known of it and whether its volume is in. */
export function placeFile(row: typeof files.$inferSelect, volume: VolumeRow): WorldFile {
  const presence = !volume.isHere ? 'away' : row.isGone ? 'gone' : 'here'
  return { ...row, volume, root: volume.rootPath, fullPath: join(volume.rootPath, row.path), presence }
}

function judge(
  pair: PairRow & { readonly recipe: Recipe | null },
  original: readonly WorldFile[],
  made: readonly WorldFile[],
  presence: Presence,
): PairVerdict {
  const differs = (recorded: readonly string[], now: readonly WorldFile[]): boolean =>
    recorded.some((fingerprint, index) => now[index]?.fingerprint !== fingerprint)
  return judgePair({
    original: presence,
    made: made.length ? worstPresence(made.map((file) => file.presence)) : 'gone',
    comparison: pair.comparison,
    originalChanged: differs(pair.originalFingerprints, original),
    madeChanged: differs(pair.madeFingerprints, made),
    recipeChanged: pair.recipe !== null && pair.recipeVersion !== null && pair.recipe.version > pair.recipeVersion,
  })
}

export const productionRate = (production: ProductionRow): { numerator: number; denominator: number } => ({
  numerator: production.rateNumerator,
  denominator: production.rateDenominator,
})

export const productionFormat = (production: ProductionRow) => ({
  rate: productionRate(production),
  width: production.width,
  height: production.height,
})
