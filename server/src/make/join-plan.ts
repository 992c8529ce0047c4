import type { JoinOffer } from '@ennick/contract'
import {
  compareText,
  formatTimecode,
  groupBy,
  type JoinPart,
  joinedEntries,
  joinTroubles,
  legalWords,
  type PictureFacts,
  type Recipe,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import { ifSoon } from '../disk/answering.ts'
import { freeBytes } from '../disk/free-space.ts'
import { whyNoRoom } from '../disk/room.ts'
import { canJoin } from '../engine/join-files.ts'
import { notFound } from '../errors.ts'
import type { Database } from '../store/database.ts'
import { makeBatches } from '../store/job-schema.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { Material, VolumeRow } from '../store/known-material.ts'
import { itemsOfMakes, type MadeItem, makesOfBatch } from './made-in-batch.ts'
import { placeOfRecipe } from './made-item.ts'

/** An item that can be a part of a joined file. */
export interface JoinItem extends MadeItem {
  readonly part: JoinPart
}

/** What of a batch can be joined: what it has made with one recipe and is in use, in the order of shooting. */
export interface Joinable {
  readonly recipe: Recipe
  readonly items: readonly JoinItem[]
  /** Why it cannot be done. */
  readonly troubles: readonly string[]
}

/** Of long lists so many are named one by one. */
const mostNamed = 50

/** What each recipe of a batch has made that could be one file. */
export async function offerJoins(database: Database, kept: KeptMaterial, batchId: string): Promise<JoinOffer[]> {
  const { material, joinable } = await readJoinable(database, kept, batchId)
  return Promise.all(
    joinable.map(async ({ recipe, items, troubles }) => {
      const place = placeOfRecipe(material, recipe)
      const { bytes, free, noRoom } = await roomFor(items, place)
      const all = [...troubles, ...(noRoom === null ? [] : [noRoom])]
      const entries = joinedEntries(items.map(({ part }) => part))
      const frames = entries.reduce((sum, entry) => sum + entry.frames, 0)
      const { rate } = (items[0] as JoinItem).part.facts.picture as PictureFacts
      return {
        ...{ recipeId: recipe.id, recipe: recipe.name, total: items.length, troubles: all.slice(0, mostNamed) },
        names: items.slice(0, mostNamed).map(({ pair }) => pair.name),
        ...{ frames, duration: formatTimecode(frames, rate, false) },
        ...{ bytes, place: place.label, freeBytes: free },
        name: legalWords(`${material.production.name} ${recipe.name} joined`),
      }
    }),
  )
}

/** The recipes of a batch with what they have made, those alone of which two items or more are files of their own. */
export async function readJoinable(
  database: Database,
  kept: KeptMaterial,
  batchId: string,
): Promise<{ productionId: string; material: Material; joinable: Joinable[] }> {
  const [batch] = await database.select().from(makeBatches).where(eq(makeBatches.id, batchId))
  if (!batch) throw notFound('The batch')
  const { productionId } = batch
  const makes = await makesOfBatch(database, productionId, batchId)
  const material = await kept.read(productionId)
  return { productionId, material, joinable: joinableOf(material, itemsOfMakes(material, makes)) }
}

/** Which of some made items can be one file, recipe by recipe. */
export function joinableOf(material: Material, made: readonly MadeItem[]): Joinable[] {
  const parts = made.flatMap(({ clip, pair }): JoinItem[] => {
    const [only, ...others] = pair.files
    const facts = only?.file.facts
    if (!pair.recipe || !canJoin(pair.recipe.container) || others.length || !facts?.picture) return []
    return [{ clip, pair, part: { name: pair.name, clipName: clip.name, clipId: clip.id, reel: clip.reel, facts } }]
  })
  const byRecipe = groupBy(parts, ({ pair }) => pair.recipeId as string)
  return [...byRecipe].flatMap(([recipeId, found]) => {
    if (found.length < 2) return []
    const items = [...found].sort(asShot)
    return [{ recipe: material.recipes.get(recipeId) as Recipe, items, troubles: troublesOf(items) }]
  })
}

function troublesOf(items: readonly JoinItem[]): string[] {
  const away = items.filter(({ pair }) => pair.files[0]?.file.presence !== 'here')
  return [...away.map(({ pair }) => `${pair.name} is not here.`), ...joinTroubles(items.map(({ part }) => part))]
}

/** How large the file of some items will be, about, and why its place has no room for it; null where it has. */
export async function roomFor(
  items: readonly JoinItem[],
  place: VolumeRow,
): Promise<{ bytes: number; free: number | null; noRoom: string | null }> {
  const bytes = items.reduce((sum, { pair }) => sum + (pair.files[0]?.file.sizeBytes ?? 0), 0)
  const free = await ifSoon(freeBytes(place.rootPath))
  const noRoom = free === null ? null : whyNoRoom('The joined file', bytes, free, `on “${place.label}”`)
  return { bytes, free, noRoom }
}

/** By day, reel and timecode, as they were shot; then by name. */
const asShot = (a: JoinItem, b: JoinItem): number =>
  compareText(a.clip.described.day?.value ?? '', b.clip.described.day?.value ?? '') ||
  compareText(a.clip.reel ?? '', b.clip.reel ?? '') ||
  (a.part.facts.startFrame ?? 0) - (b.part.facts.startFrame ?? 0) ||
  compareText(a.clip.name, b.clip.name)
