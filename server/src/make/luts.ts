import { stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Lut, LutAssignments } from '@ennick/contract'
import type { LutFile } from '@ennick/core'
import { and, count, eq, isNull, sql } from 'drizzle-orm'
import { type Config, lutFolder } from '../config.ts'
import { keepInCache } from '../disk/cache.ts'
import { builtInLut, builtInLutPath } from '../engine/luts.ts'
import { scratchPath } from '../engine/scratch.ts'
import { PlainError } from '../errors.ts'
import { NotRead, readApart } from '../reading/read-apart.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Queryable } from '../store/database.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { lutAssignments, luts } from '../store/lut-schema.ts'
import { readableId } from '../store/readable-id.ts'
import { offeredRecipes } from '../store/recipes.ts'
import { clips } from '../store/schema.ts'

/** The LUTs to choose from, by group and name; the built-in one first. */
export async function listLuts(database: Queryable): Promise<Lut[]> {
  const rows = await database.select().from(luts).where(isNull(luts.retiredAt)).orderBy(luts.group, luts.name)
  return [
    { ...builtInLut, isBuiltIn: true },
    ...rows.map(({ id, name, group, kind, size }) => ({ id, name, group, kind, size, isBuiltIn: false })),
  ]
}

/** @throws PlainError for a text that is no usable .cube file, with its line */
export async function checkCube(text: string) {
  try {
    return await readApart('cube', { text })
  } catch (error) {
    if (error instanceof NotRead) throw new PlainError('no-lut', `This LUT cannot be used. ${error.message}`)
    throw error
  }
}

/** Adds a LUT to the library. */
export async function addLut(database: Database, given: { name: string; group: string; text: string }): Promise<Lut> {
  const { kind, size } = await checkCube(given.text)
  const id = readableId(given.name, 'lut')
  await database.transaction(async (transaction) => {
    if ((await listLuts(transaction)).some((lut) => lut.name.toLowerCase() === given.name.toLowerCase()))
      throw new PlainError('name-taken', `There is a LUT “${given.name}” already: give it another name.`, {
        status: 409,
      })
    await transaction.insert(luts).values({ id, name: given.name, group: given.group, kind, size, cube: given.text })
    await announce(transaction, null, 'luts')
  })
  return { id, name: given.name, group: given.group, kind, size, isBuiltIn: false }
}

/** Offers a LUT no more. @throws PlainError while something is still to pass through it */
export async function retireLut(database: Database, id: string): Promise<void> {
  const lut = (await listLuts(database)).find((candidate) => candidate.id === id)
  if (!lut) throw new PlainError('not-found', 'This LUT is not there any more.', { status: 404 })
  if (lut.isBuiltIn) throw new PlainError('built-in', 'The built-in LUT cannot be removed.')
  const recipes = (await offeredRecipes(database))
    .filter(({ recipe }) => recipe.viewingLut === id)
    .map(({ recipe }) => `recipe “${recipe.name}”`)
  const assigned = await database.$count(lutAssignments, eq(lutAssignments.lutId, id))
  const users = [...recipes, ...(assigned ? ['cameras or clips that were given it'] : [])]
  if (users.length)
    throw new PlainError('in-use', `“${lut.name}” is still used by ${users.join(', ')}. Give them another first.`, {
      status: 409,
    })
  await database.update(luts).set({ retiredAt: new Date() }).where(eq(luts.id, id))
  await announce(database, null, 'luts')
}

/** A LUT as a file on this machine; null when there is none of that name. */
export async function lutFile(database: Queryable, config: Config, id: string | null): Promise<LutFile | null> {
  if (id === null) return null
  if (id === builtInLut.id) return { path: builtInLutPath, kind: builtInLut.kind }
  const [row] = await database.select().from(luts).where(eq(luts.id, id))
  if (!row) return null
  const path = join(lutFolder(config.dataFolder), `${row.id}.cube`)
  if (!(await stat(path).catch(() => null))) {
    const part = await scratchPath()
    await writeFile(part, row.cube, { flag: 'wx' })
    await keepInCache(lutFolder(config.dataFolder), path, part)
  }
  return { path, kind: row.kind }
}

/**
 * Which LUT a clip was given, itself or by its camera; null for none at all, undefined where the recipe's own counts.
 */
export function assignedLut(material: Material, clip: KnownClip): string | null | undefined {
  const camera = clip.described.camera?.value
  const own = material.lutAssignments.find((row) => row.clipId === clip.id)
  return (own ?? (camera ? material.lutAssignments.find((row) => row.camera === camera) : undefined))?.lutId
}

/** What cameras and clips of a production were given. */
export async function readAssignments(database: Queryable, productionId: string): Promise<LutAssignments> {
  const camera = sql<string>`${clips.described}->'camera'->>'value'`
  const counted = await database
    .select({ camera, clips: count() })
    .from(clips)
    .where(and(eq(clips.productionId, productionId), sql`${camera} <> ''`))
    .groupBy(camera)
    .orderBy(camera)
  const given = await database
    .select({
      camera: lutAssignments.camera,
      clipId: lutAssignments.clipId,
      lutId: lutAssignments.lutId,
      name: clips.name,
    })
    .from(lutAssignments)
    .leftJoin(clips, eq(clips.id, lutAssignments.clipId))
    .where(eq(lutAssignments.productionId, productionId))
    .orderBy(lutAssignments.camera, clips.name)
  return {
    cameras: given.flatMap(({ camera, lutId }) =>
      camera === null ? [] : [{ camera, lutId, clips: counted.find((row) => row.camera === camera)?.clips ?? 0 }],
    ),
    open: counted.filter((row) => !given.some(({ camera }) => camera === row.camera)),
    clips: given.flatMap(({ clipId, name, lutId }) =>
      clipId === null || name === null ? [] : [{ clipId, name, lutId }],
    ),
  }
}

/** Gives cameras and clips a LUT, or lets the recipe's own count again. */
export async function assignLuts(
  database: Database,
  productionId: string,
  given: { cameras: readonly string[]; clipIds: readonly string[]; choice: { lutId: string | null } | 'remove' },
): Promise<void> {
  const { cameras, clipIds, choice } = given
  if (
    choice !== 'remove' &&
    choice.lutId !== null &&
    !(await listLuts(database)).some((lut) => lut.id === choice.lutId)
  )
    throw new PlainError('no-lut', 'This LUT is not in the library any more.', { status: 409 })
  await database.transaction(async (transaction) => {
    const ofProduction = eq(lutAssignments.productionId, productionId)
    if (cameras.length)
      await transaction.delete(lutAssignments).where(and(ofProduction, anyOf(lutAssignments.camera, cameras)))
    if (clipIds.length)
      await transaction.delete(lutAssignments).where(and(ofProduction, anyOf(lutAssignments.clipId, clipIds)))
    if (choice !== 'remove') {
      const rows = [
        ...cameras.map((camera) => ({ productionId, camera, lutId: choice.lutId })),
        ...clipIds.map((clipId) => ({ productionId, clipId, lutId: choice.lutId })),
      ]
      for (let at = 0; at < rows.length; at += 5000)
        await transaction.insert(lutAssignments).values(rows.slice(at, at + 5000))
    }
    await announce(transaction, productionId, 'luts')
  })
}
