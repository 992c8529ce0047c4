import type { BoxLabel } from '@ennick/contract'
import { normalDay } from '@ennick/core'
import { sql } from 'drizzle-orm'
import type { Transaction } from '../store/database.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { clipFiles, clips, files } from '../store/schema.ts'

/** A label as it is kept: empty words left out, a shoot day in its one way. */
export function keptLabel({ day, ...box }: BoxLabel): BoxLabel {
  const said = Object.entries({ ...box, day: normalDay(day ?? '') }).filter(([, value]) => value)
  return Object.fromEntries(said)
}

/**
 * Gives the clips that came from a volume what the label on its box says now, where they say what it said before or
 * nothing. What anybody said otherwise stays.
 * @returns the clips that changed
 */
export async function relabelClips(
  transaction: Transaction,
  volume: VolumeRow,
  after: { readonly label: string; readonly box: BoxLabel },
): Promise<string[]> {
  const ofVolume = sql`(${clips.described}->'cameFrom'->>'value' = ${volume.label} or exists (
    select from ${clipFiles} join ${files} on ${files.id} = ${clipFiles.fileId}
    where ${clipFiles.clipId} = ${clips.id} and ${files.volumeId} = ${volume.id}))
    and ${clips.productionId} = ${volume.productionId}`
  const changed = new Set<string>()
  const run = async (query: ReturnType<typeof sql>): Promise<void> => {
    const { rows } = await transaction.execute<{ id: string }>(query)
    for (const { id } of rows) changed.add(id)
  }
  for (const field of ['day', 'camera', 'unit'] as const) {
    const [before, now] = [volume.box[field] ?? '', after.box[field] ?? '']
    if (before === now) continue
    const value = JSON.stringify({ value: now, from: 'person' })
    const described =
      now === ''
        ? sql`${clips.described} - ${field}::text`
        : sql`jsonb_set(${clips.described}, array[${field}::text], ${value}::jsonb)`
    await run(sql`update ${clips} set described = ${described}
      where ${ofVolume} and coalesce(${clips.described}->${field}::text->>'value', '') in (${before}, '') returning id`)
  }
  const [before, now] = [volume.box.reel ?? '', after.box.reel ?? '']
  if (before !== now)
    await run(sql`update ${clips} set reel = ${now || null}, reel_from = ${now === '' ? null : 'person'}
      where ${ofVolume} and (${clips.reel} is null or ${clips.reel} = ${before} and ${clips.reelFrom} = 'person')
      and not exists (select from ${clipFiles} join ${files} on ${files.id} = ${clipFiles.fileId}
        where ${clipFiles.clipId} = ${clips.id} and ${files.facts}->>'kind' = 'still') returning id`)
  // Last, as what came from here is known by it; where it is not said, nobody knows where the clip came from.
  if (volume.label !== after.label)
    await run(sql`update ${clips}
      set described = jsonb_set(${clips.described}, '{cameFrom,value}', to_jsonb(${after.label}::text))
      where ${clips.productionId} = ${volume.productionId}
        and ${clips.described}->'cameFrom'->>'value' = ${volume.label} returning id`)
  return [...changed]
}
