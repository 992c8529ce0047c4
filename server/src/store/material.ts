import { join } from 'node:path'
import {
  type EvidenceRow,
  type FileRole,
  groupBy,
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
import { and, eq, isNotNull } from 'drizzle-orm'
import { notFound } from '../errors.ts'
import { anyOf } from './any-of.ts'
import { clipCopies, originalTrials } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'
import { lutAssignments } from './lut-schema.ts'
import { pairEvidence } from './pair-evidence.ts'
import { readRecipeVersions } from './recipes.ts'
import { readRoles } from './roles.ts'
import { clipFiles, clips, files, pairFiles, pairs, productions, volumes } from './schema.ts'

export type ProductionRow = typeof productions.$inferSelect
export type VolumeRow = typeof volumes.$inferSelect
export type ClipRow = typeof clips.$inferSelect
export type PairRow = typeof pairs.$inferSelect
export type LutAssignmentRow = typeof lutAssignments.$inferSelect

/** A file with where it is on this system and whether it is there. */
export type KnownFile = typeof files.$inferSelect & {
  readonly volume: VolumeRow
  /** The root of its volume. */
  readonly root: string
  /** For numbered stills the path of their pattern. */
  readonly fullPath: string
  readonly presence: Presence
}

export interface KnownPair extends PairRow {
  readonly files: readonly { readonly file: KnownFile; readonly part: 'whole' | 'picture' | 'sound' }[]
  /** The newest version of what it was made with; null for one that was adopted. */
  readonly recipe: Recipe | null
  /** How it compares with its original now; null when that was never looked at. */
  readonly comparison: EvidenceRow[] | null
  readonly verdict: PairVerdict
  /** Whether the original's content is another than it was made of. */
  readonly originalChanged: boolean
}

export interface KnownClip extends ClipRow {
  readonly files: readonly KnownFile[]
  /** The first file; its facts speak for the clip, and for a spanned take they are those of all its parts together. */
  readonly main: KnownFile
  /** Files elsewhere with the same content. */
  readonly copies: readonly { readonly file: KnownFile; readonly isVerified: boolean }[]
  readonly presence: Presence
  /** Whether its files are the parts of one take, one after another. */
  readonly isSpanned: boolean
  /** What its file is for; only originals are resolved to. */
  readonly role: FileRole
  readonly roleReason: string | null
  /** What a person said of its very file. */
  readonly declaredRole: FileRole | null
  /** Why one of its files cannot be read any more. */
  readonly damage: string | null
  /** Those in use; what a mend has replaced is left out. */
  readonly pairs: readonly KnownPair[]
}

/** What is known of one production's material at this moment, put together once and read from many sides. */
export interface Material {
  /** Its suffixes are those of the production and of every recipe. */
  readonly production: ProductionRow
  /** The newest version of every recipe. */
  readonly recipes: ReadonlyMap<string, Recipe>
  readonly lutAssignments: readonly LutAssignmentRow[]
  readonly volumes: readonly VolumeRow[]
  readonly files: ReadonlyMap<string, KnownFile>
  readonly clips: ReadonlyMap<string, KnownClip>
  readonly pairs: ReadonlyMap<string, KnownPair>
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
export async function readMaterial(
  database: Queryable,
  productionId: string,
  clipIds: readonly string[] | null = null,
  pathMap: readonly PathMapping[] = [],
): Promise<Material> {
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
  const suffixes = [
    ...new Set([...production.proxySuffixes, ...[...recipes.values()].map((recipe) => recipe.suffix).filter(Boolean)]),
  ]
  const rows = await readRows(database, productionId, [...volumeById.keys()], clipIds)
  const fileById = new Map(rows.files.map((row) => [row.id, placeFile(row, volumeById.get(row.volumeId) as VolumeRow)]))

  const filesOfClip = groupBy(rows.clipFiles, (row) => row.link.clipId)
  const filesOfPair = groupBy(rows.pairFiles, (row) => row.link.pairId)
  const pairsOfClip = groupBy(rows.pairs, (row) => row.pair.clipId)
  const copiesOfClip = groupBy(rows.copies, (row) => row.link.clipId)
  const material = {
    production: { ...production, proxySuffixes: suffixes },
    recipes,
    lutAssignments: await database.select().from(lutAssignments).where(eq(lutAssignments.productionId, productionId)),
    volumes: volumeRows,
    files: fileById,
    clips: new Map<string, KnownClip>(),
    pairs: new Map<string, KnownPair>(),
  }
  const complaints = await readComplaints(database)
  for (const row of rows.clips) {
    const links = (filesOfClip.get(row.id) ?? []).filter(({ link }) => fileById.has(link.fileId))
    const own = links.map(({ link }) => fileById.get(link.fileId) as KnownFile)
    const first = own[0]
    if (!first) continue
    const isSpanned = links[0]?.link.part === 'span'
    const main = isSpanned ? { ...first, facts: factsOfSpan(own) } : first
    const presence = worstPresence(own.map((file) => file.presence))
    const tied = (pairsOfClip.get(row.id) ?? []).map(({ pair }): KnownPair => {
      const made = (filesOfPair.get(pair.id) ?? []).flatMap(({ link }) => {
        const file = fileById.get(link.fileId)
        return file ? [{ file, part: link.part }] : []
      })
      // What was compared once is compared with what is known now: a reel set since then counts at once.
      const recipe = recipes.get(pair.recipeId ?? '') ?? null
      const usedVersion =
        versions.get(pair.recipeId ?? '')?.find(({ version }) => version === pair.recipeVersion) ?? recipe
      const madeBy = pair.origin === 'made' ? usedVersion : null
      const compare = (): EvidenceRow[] | null => {
        const compared = pair.isCompared ? pairEvidence(row, main, made, pair, suffixes, madeBy) : null
        const proof = (pair.proof ?? []).filter(({ aspect }) => !compared?.some((row) => row.aspect === aspect))
        return compared && [...compared, ...proof]
      }
      return {
        ...pair,
        recipe,
        files: made,
        originalChanged: differs(pair.originalFingerprints, own),
        verdict: judge(
          { ...pair, comparison: compare(), recipe },
          own,
          made.map(({ file }) => file),
          presence,
        ),
        // The evidence of a whole production is larger than all else that is known of it, and seldom looked at.
        get comparison() {
          return compare()
        },
      }
    })
    for (const pair of tied) material.pairs.set(pair.id, pair)
    const copies = (copiesOfClip.get(row.id) ?? []).flatMap(({ link }) => {
      const file = fileById.get(link.fileId)
      return file ? [{ file, isVerified: link.isVerified }] : []
    })
    const damages = own.map((file) => file.problem ?? complaints.get(`${file.id} ${file.fingerprint}`))
    material.clips.set(row.id, {
      ...row,
      ...{ files: own, main, copies, presence, isSpanned, pairs: tied },
      ...{
        role: 'original',
        roleReason: null,
        declaredRole: null,
        damage: damages.find((damage) => damage !== undefined) ?? null,
      },
    })
  }
  const mains = [...material.clips.values()].map(({ id, main }) => ({ ...main, id }))
  for (const [id, role] of await readRoles(database, material, mains))
    if (role.role !== 'original' || role.declaredRole)
      material.clips.set(id, { ...(material.clips.get(id) as KnownClip), ...role })
  return material
}

/** What was found damaged when it was tried, by file and content. */
async function readComplaints(database: Queryable): Promise<Map<string, string>> {
  const rows = await database.select().from(originalTrials).where(isNotNull(originalTrials.complaint))
  return new Map(rows.map(({ fileId, fingerprint, complaint }) => [`${fileId} ${fingerprint}`, complaint as string]))
}

async function readRows(
  database: Queryable,
  productionId: string,
  volumeIds: readonly string[],
  clipIds: readonly string[] | null,
) {
  const ofThese = clipIds
    ? and(eq(clips.productionId, productionId), anyOf(clips.id, clipIds))
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
    copies: await database
      .select({ link: clipCopies })
      .from(clipCopies)
      .innerJoin(clips, eq(clips.id, clipCopies.clipId))
      .where(ofThese),
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
  const wanted = clipIds ? anyOf(files.id, linked) : anyOf(files.volumeId, volumeIds)
  const isNone = clipIds ? linked.length === 0 : volumeIds.length === 0
  return { ...read, files: isNone ? [] : await database.select().from(files).where(wanted) }
}

function factsOfSpan(parts: readonly KnownFile[]): MediaFacts | null {
  const facts = parts.flatMap((part) => part.facts ?? [])
  return facts.length === parts.length ? joinFacts(facts) : null
}

/** Where a file is, given what is known of it and whether its volume is in. */
export function placeFile(row: typeof files.$inferSelect, volume: VolumeRow): KnownFile {
  // What was gone before its volume left is gone, and not on it.
  const presence = row.isGone ? 'gone' : volume.isHere ? 'here' : 'away'
  return { ...row, volume, root: volume.rootPath, fullPath: join(volume.rootPath, row.path), presence }
}

const differs = (recorded: readonly string[], now: readonly KnownFile[]): boolean =>
  recorded.some((fingerprint, index) => now[index]?.fingerprint !== fingerprint)

function judge(
  pair: PairRow & { readonly recipe: Recipe | null; readonly comparison: EvidenceRow[] | null },
  original: readonly KnownFile[],
  made: readonly KnownFile[],
  presence: Presence,
): PairVerdict {
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
