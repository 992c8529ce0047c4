import type { NeedsReport } from '@ennick/contract'
import { dataRate, decodeSteps, describePixelAspect, groupBy, type PictureFacts, suggest } from '@ennick/core'
import { and, eq, inArray, sql } from 'drizzle-orm'
import { codecOf } from '../clips/index-row.ts'
import { streamsDelivered } from '../clips/streams.ts'
import { anyOf } from '../store/any-of.ts'
import { readSpeeds } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { KnownClip } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { offeredRecipes } from '../store/recipes.ts'
import { MakeSpeeds } from './make-speeds.ts'
import { playsOf, readDecodeSpeeds } from './plays.ts'
import { SizeSamples } from './size-samples.ts'

/** Which of some clips need a proxy to be cut with here, and what each way of helping them costs. */
export async function readNeeds(
  database: Database,
  productionId: string,
  clipIds: readonly string[],
): Promise<NeedsReport> {
  const material = await readMaterial(database, productionId, clipIds)
  const clips = [...material.clips.values()]
  const speeds = await readDecodeSpeeds(database, clips)
  const measured = await database
    .select()
    .from(readSpeeds)
    .where(
      anyOf(
        readSpeeds.volumeId,
        material.volumes.map(({ id }) => id),
      ),
    )
  const volumes = new Map(measured.map((row) => [row.volumeId, row.bytesPerSecond]))
  const rows = clips.map((clip): NeedsReport['clips'][number] => {
    const { facts } = clip.main
    const plays = playsOf(clip, speeds)
    const size = clip.files.reduce((sum, file) => sum + file.sizeBytes, 0)
    const bitsPerSecond = facts ? dataRate(facts, size) : null
    const delivered = volumes.get(clip.main.volumeId)
    const reads = delivered === undefined ? null : streamsDelivered(bitsPerSecond, delivered)
    return {
      clipId: clip.id,
      name: clip.name,
      codec: facts ? codecOf(facts) : 'not readable',
      ...{ plays, reads, dataRate: bitsPerSecond },
      ...suggest(facts, { plays, reads }, material.production.width),
      ...(plays === null && facts?.kind === 'picture' && clip.presence !== 'here'
        ? { reason: `its file is ${clip.presence}: it can be measured when it is here` }
        : {}),
    }
  })
  const suggestionOf = new Map(rows.map((row) => [row.clipId, row.suggestion]))
  const wanting = clips.filter((clip) => !['cut as it is', 'not measured'].includes(suggestionOf.get(clip.id) ?? ''))
  // Where none needs help, the cost is that of helping all the same.
  const weighed = wanting.length ? wanting : clips.filter((clip) => clip.main.facts?.kind === 'picture')
  const offered = (await offeredRecipes(database)).map(({ recipe }) => recipe)
  const samples = await SizeSamples.read(database, productionId, offered)
  const choices = []
  const made = await MakeSpeeds.read(database)
  for (const recipe of offered) {
    // What is made for cutting or in place of an original; review copies and deliverables help nobody cut.
    if (recipe.purpose !== 'finishing' && !recipe.purpose.startsWith('cutting')) continue
    const sizes = weighed.map((clip) => samples.estimate(material, clip, recipe))
    const usual = made.together(recipe.id, weighed.length)
    choices.push({
      name: recipe.name,
      clips: weighed.length,
      bytes: sizes.reduce((sum, size) => sum + (size?.bytes ?? 0), 0),
      minutes: minutesFor(usual, weighed, speeds),
      atLeast: usual === null,
      exact: sizes.every((size) => (size?.basis ?? 'exact') === 'exact'),
    })
  }
  const [measuring] = await database
    .select({ id: jobs.id })
    .from(jobs)
    .where(
      and(
        eq(jobs.productionId, productionId),
        sql`${jobs.input}->>'kind' = 'measure'`,
        inArray(jobs.state, ['waiting', 'running']),
      ),
    )
    .limit(1)
  return {
    clips: rows,
    choices: [
      { name: 'Cut as it is', clips: clips.length - wanting.length, bytes: 0, minutes: 0, atLeast: false, exact: true },
      ...choices,
    ],
    rasters: rastersOf(clips, material.production),
    unmeasured: rows.filter(
      (row) => row.suggestion === 'not measured' && material.clips.get(row.clipId)?.presence === 'here',
    ).length,
    measureJobId: measuring?.id ?? null,
  }
}

/** What a player that decodes only a part of the pixels shows of each raster, in the production's timeline. */
function rastersOf(
  clips: readonly KnownClip[],
  timeline: { readonly width: number; readonly height: number },
): NeedsReport['rasters'] {
  const moving = clips.flatMap(({ main: { facts } }) =>
    facts?.kind === 'picture' && facts.picture ? [facts.picture] : [],
  )
  const byShape = groupBy(moving, ({ width, height, pixelAspect, rotation }) =>
    [width, height, describePixelAspect(pixelAspect), rotation].join(' '),
  )
  return [...byShape.values()].map((own) => {
    const [first] = own as [PictureFacts, ...PictureFacts[]]
    return {
      raster: `${first.width} × ${first.height}`,
      clips: own.length,
      steps: decodeSteps(first, timeline).map(({ raster, ...step }) => ({ ...step, raster: { ...raster } })),
    }
  })
}

/**
 * By how fast the recipe was made here before; else by how fast the originals decode, which it cannot beat. What was
 * not measured counts as the others do.
 */
function minutesFor(
  usual: number | null,
  clips: readonly KnownClip[],
  speeds: ReadonlyMap<string, number>,
): number | null {
  if (clips.length === 0) return 0
  const measured = clips.flatMap((clip) => speeds.get(clip.main.fingerprint) ?? [])
  const average = measured.reduce((sum, speed) => sum + speed, 0) / measured.length
  if (usual === null && measured.length === 0) return null
  let seconds = 0
  for (const clip of clips) {
    const speed = usual ?? speeds.get(clip.main.fingerprint) ?? average
    seconds += (clip.main.facts?.picture?.frames ?? 0) / speed
  }
  return seconds / 60
}
