import { join } from 'node:path'
import { builtInRecipes, judgePair, type PairVerdict, type Presence, worstPresence } from '@ennick/core'
import { and, eq, inArray } from 'drizzle-orm'
import { notFound } from '../errors.ts'
import type { Queryable } from './database.ts'
import { groupBy } from './group.ts'
import { pairEvidence } from './pair-evidence.ts'
import { clipFiles, clips, files, pairFiles, pairs, productions, volumes } from './schema.ts'

export type ProductionRow = typeof productions.$inferSelect
export type VolumeRow = typeof volumes.$inferSelect
export type ClipRow = typeof clips.$inferSelect
export type PairRow = typeof pairs.$inferSelect

/** A file with where it is on this system and whether it is there. */
export type WorldFile = typeof files.$inferSelect & { readonly volume: VolumeRow; readonly fullPath: string; readonly presence: Presence }

export interface WorldPair extends PairRow {
  readonly files: readonly { readonly file: WorldFile; readonly part: 'whole' | 'picture' | 'sound' }[]
  readonly verdict: PairVerdict
}

export interface WorldClip extends ClipRow {
  readonly files: readonly WorldFile[]
  /** The first file, whose facts speak for the clip. */
  readonly main: WorldFile
  readonly presence: Presence
  /** Those in use; what a mend has replaced is left out. */
  readonly pairs: readonly WorldPair[]
}

/** What is known of one production's media at this moment, put together once and read from many sides. */
export interface World {
  readonly production: ProductionRow
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

/** @throws PlainError when there is no such production. */
export async function readWorld(database: Queryable, productionId: string): Promise<World> {
  const production = await readProduction(database, productionId)
  const volumeRows = await database
    .select()
    .from(volumes)
    .where(eq(volumes.productionId, productionId))
    .orderBy(volumes.createdAt, volumes.label)
  const volumeById = new Map(volumeRows.map((row) => [row.id, row]))
  const volumeIds = [...volumeById.keys()]
  const fileRows = volumeIds.length ? await database.select().from(files).where(inArray(files.volumeId, volumeIds)) : []
  const fileById = new Map(fileRows.map((row) => [row.id, placeFile(row, volumeById.get(row.volumeId) as VolumeRow)]))

  const clipRows = await database.select().from(clips).where(eq(clips.productionId, productionId)).orderBy(clips.name, clips.id)
  const ofThis = eq(clips.productionId, productionId)
  const clipFileRows = await database
    .select({ link: clipFiles })
    .from(clipFiles)
    .innerJoin(clips, eq(clips.id, clipFiles.clipId))
    .where(ofThis)
    .orderBy(clipFiles.ordinal)
  const pairRows = await database
    .select({ pair: pairs })
    .from(pairs)
    .innerJoin(clips, eq(clips.id, pairs.clipId))
    .where(and(ofThis, eq(pairs.isActive, true)))
    .orderBy(pairs.createdAt)
  const pairFileRows = await database
    .select({ link: pairFiles })
    .from(pairFiles)
    .innerJoin(pairs, eq(pairs.id, pairFiles.pairId))
    .innerJoin(clips, eq(clips.id, pairs.clipId))
    .where(and(ofThis, eq(pairs.isActive, true)))
    .orderBy(pairFiles.ordinal)

  const filesOfClip = groupBy(clipFileRows, (row) => row.link.clipId)
  const filesOfPair = groupBy(pairFileRows, (row) => row.link.pairId)
  const pairsOfClip = groupBy(pairRows, (row) => row.pair.clipId)
  const world = {
    production,
    volumes: volumeRows,
    files: fileById,
    clips: new Map<string, WorldClip>(),
    pairs: new Map<string, WorldPair>(),
  }
  for (const row of clipRows) {
    const own = (filesOfClip.get(row.id) ?? []).map(({ link }) => fileById.get(link.fileId)).filter((file) => file !== undefined)
    const main = own[0]
    if (!main) continue
    const presence = worstPresence(own.map((file) => file.presence))
    const tied = (pairsOfClip.get(row.id) ?? []).map(({ pair }): WorldPair => {
      const made = (filesOfPair.get(pair.id) ?? []).flatMap(({ link }) => {
        const file = fileById.get(link.fileId)
        return file ? [{ file, part: link.part }] : []
      })
      // What was compared once is compared with what is known now: a reel set since then counts at once.
      const comparison =
        pair.comparison === null ? null : (pairEvidence(row, main, made, pair, production.proxySuffixes) ?? pair.comparison)
      const current = { ...pair, comparison }
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
    world.clips.set(row.id, { ...row, files: own, main, presence, pairs: tied })
  }
  return world
}

/** Where a file is, given what is known of it and whether its volume is in. */
export function placeFile(row: typeof files.$inferSelect, volume: VolumeRow): WorldFile {
  return { ...row, volume, fullPath: join(volume.rootPath, row.path), presence: !volume.isHere ? 'away' : row.isGone ? 'gone' : 'here' }
}

function judge(pair: PairRow, original: readonly WorldFile[], made: readonly WorldFile[], presence: Presence): PairVerdict {
  const differs = (recorded: readonly string[], now: readonly WorldFile[]): boolean =>
    recorded.some((fingerprint, index) => now[index]?.fingerprint !== fingerprint)
  const recipe = builtInRecipes.find((candidate) => candidate.id === pair.recipeId)
  return judgePair({
    original: presence,
    made: made.length ? worstPresence(made.map((file) => file.presence)) : 'gone',
    comparison: pair.comparison,
    originalChanged: differs(pair.originalFingerprints, original),
    madeChanged: differs(pair.madeFingerprints, made),
    recipeChanged: recipe !== undefined && pair.recipeVersion !== null && recipe.version > pair.recipeVersion,
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
