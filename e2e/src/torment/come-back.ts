import { basename } from 'node:path'
import { pause, say } from '../bench/measure.ts'
import { contentOf, differences } from './disk.ts'
import { ask, insist, untilDone } from './stage.ts'
import { killsAndFreezes, type Scene, theTravelDiskLeaves } from './troubles.ts'

/**
 * Puts a production together again from its archive, while workers die and the disk leaves. @returns what did not hold:
 * the archive as it was, every clip with what was said of it, the cut on the same originals
 */
export async function comeBack(scene: Scene): Promise<string[]> {
  const { ennick, chance, travel, pull } = scene
  const archive = `${travel}/pull`
  const before = await contentOf(archive)
  const body = { folder: archive, name: `${basename(travel)} again`, verifies: true }
  const { productionId }: { productionId: string } = await insist(ennick, 'POST', '/restores', body)
  const chosen = [chance.pick(killsAndFreezes), chance.pick([...killsAndFreezes, theTravelDiskLeaves])]
  for (const trouble of chosen) {
    await pause(chance.below(600))
    await trouble.make({ ...scene, productionId })
  }
  say(`    and its restore: ${chosen.map(({ name }) => name).join(', ')}`)
  const told = await untilDone(ennick, productionId)
  const { outcome } = await insist(ennick, 'GET', `/productions/${productionId}/restore`)
  if (outcome?.troubleCount !== 0)
    told.push(`The restore found fault with the archive: ${JSON.stringify(outcome?.trouble)}.`)
  const cuts: { events: number; onOriginal: number }[] = outcome?.cuts ?? []
  if (cuts.length !== 1 || cuts.some(({ events, onOriginal }) => events !== onOriginal))
    told.push(`Of a restored production the cuts land so: ${JSON.stringify(cuts)}.`)
  told.push(...differences(await clipsOf(scene, scene.productionId), await clipsOf(scene, productionId)))
  told.push(...differences(before, await contentOf(archive)).map((line) => `Of the archive at ${pull.path}, ${line}.`))
  return told
}

/** Every clip of a production by its name: the file it is, and what was said of it. */
async function clipsOf({ ennick }: Scene, productionId: string): Promise<Map<string, string>> {
  const rows = await ask<{ name: string; said: string }>(
    ennick,
    `select clips.name, jsonb_build_array(files.path, files.fingerprint, clips.reel, clips.described)::text as said
     from clips join clip_files on clip_id = clips.id join files on files.id = file_id where production_id = $1`,
    [productionId],
  )
  return new Map(rows.map(({ name, said }) => [`Clip ${name}`, said]))
}
