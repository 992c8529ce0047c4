import type { ProductionChange } from '@ennick/contract'
import { count, formatRate, type Rate, sameRate } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { productionRate, readProduction } from '../store/production-row.ts'
import { assertNameFree } from '../store/productions.ts'
import { cuts, productions } from '../store/schema.ts'

/** What a production is to be called, and what its finish is to be. */
interface Finish {
  readonly name: string
  readonly rate: Rate
  readonly width: number
  readonly height: number
}

/**
 * Corrects the name, the rate or the raster of a production, or says what that would change. No file and no list is
 * touched by it: what was made stays as it is.
 */
export async function changeProduction(
  database: Database,
  material: Material,
  finish: Finish,
  apply: boolean,
): Promise<ProductionChange> {
  const { id } = material.production
  const before = await readProduction(database, id)
  await assertNameFree(database, finish.name, id)
  const listed = await database.$count(cuts, eq(cuts.productionId, id))
  const changes = whatChanges(material, finish, listed)
  if (!apply || changes.length === 0) return { changes, applied: false }
  const { rate, ...rest } = finish
  await database
    .update(productions)
    .set({ ...rest, rateNumerator: rate.numerator, rateDenominator: rate.denominator })
    .where(eq(productions.id, id))
  const words = ({ name, width, height }: Omit<Finish, 'rate'>, at: Rate): string =>
    `“${name}”, ${formatRate(at)} fps, ${width} × ${height}`
  await writeHistory(
    database,
    ...([id, 'production', id] as const),
    `The production was ${words(before, productionRate(before))}, and is ${words(finish, rate)} now.`,
  )
  await announce(database, id, 'productions', 'clips', 'pairs', 'cuts', 'volumes')
  return { changes, applied: true }
}

/** Everything that a correction changes, and what somebody might expect to change and does not, in sentences. */
function whatChanges({ production, clips, recipes }: Material, finish: Finish, listed: number): string[] {
  const changes: string[] = []
  if (finish.name !== production.name)
    changes.push(`It is called “${finish.name}”. The folder of what was made keeps its name.`)
  const originals = [...clips.values()].filter(({ role }) => role === 'original')
  const before = productionRate(production)
  if (!sameRate(before, finish.rate)) changes.push(...rateChanges(originals, before, finish.rate, listed))
  const hasNearest = [...recipes.values()].some(({ size }) => size.kind === 'nearest')
  if (production.width !== finish.width || production.height !== finish.height)
    changes.push(...rasterChanges(originals, production, finish, hasNearest))
  return changes
}

function rateChanges(originals: readonly KnownClip[], before: Rate, now: Rate, listed: number): string[] {
  const pictures = originals.flatMap(({ main }) => (main.facts?.kind === 'picture' ? (main.facts.picture ?? []) : []))
  const at = (rate: Rate): number => pictures.filter((picture) => sameRate(picture.rate, rate)).length
  const sounds = originals.filter(({ main }) => main.facts?.kind === 'sound').length
  const stills = originals.filter(({ main }) => main.sequence !== null).length
  const [was, is] = [formatRate(before), formatRate(now)]
  return [
    `At ${is}: ${at(now)} of ${count(pictures.length, 'picture')}; at ${was}: ${at(before)}.`,
    ...(sounds
      ? [`${count(sounds, 'recording')} ${sounds === 1 ? 'is' : 'are'} counted at ${is}, not at ${was}.`]
      : []),
    ...(listed
      ? [`${count(listed, 'cut')} ${listed === 1 ? 'keeps the rate' : 'keep the rates'} of the list that was read.`]
      : []),
    ...(stills
      ? [`${count(stills, 'clip')} of numbered stills ${stills === 1 ? 'keeps' : 'keep'} the rate of their scan.`]
      : []),
  ]
}

/** Sizes of recipes that follow from the production's raster. */
const isOfRaster: ReadonlySet<string> = new Set(['production', 'nearest'])

function rasterChanges(
  originals: readonly KnownClip[],
  before: { width: number; height: number },
  now: Finish,
  hasNearest: boolean,
): string[] {
  const made = originals
    .flatMap(({ pairs }) => pairs)
    .filter(({ recipe, origin }) => origin === 'made' && isOfRaster.has(recipe?.size.kind ?? '')).length
  return [
    `Recipes at the production’s raster make ${now.width} × ${now.height}, not ${before.width} × ${before.height}.`,
    ...(hasNearest ? ['Recipes at the smallest step not below the production go by the new raster.'] : []),
    ...(made
      ? [
          made === 1
            ? '1 item that was made so stays as before, until made again.'
            : `${count(made, 'item')} that were made so stay as before, until made again.`,
        ]
      : []),
    'A cut leaves for the finish in the new raster.',
  ]
}
