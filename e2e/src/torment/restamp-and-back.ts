import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { pause, run, say } from '../bench/measure.ts'
import { contentOf, differences } from './disk.ts'
import { madeUnlikeLedger } from './made-as-known.ts'
import { ask, insist, timecodeOf, untilDone, untilIdle } from './stage.ts'
import { killsAndFreezes, type Scene, thePlaceOfMadeLeaves } from './troubles.ts'

/**
 * Pairs proxies of another hand whose timecode is another, puts restamped copies in their place and takes that back,
 * while workers die and the place of the copies leaves. @returns what did not hold: the proxies as they were, each clip
 * with one of the two in use, and nothing besides
 */
export async function restampAndBack(scene: Scene): Promise<string[]> {
  const { ennick, productionId, card, travel } = scene
  const vendor = join(travel, 'vendor')
  await mkdir(vendor)
  for (const [index] of scene.clipIds.entries()) await makeShifted(scene, index, join(vendor, `K${index}_proxy.mov`))
  const of = `/productions/${productionId}`
  const { id: volumeId } = await insist(ennick, 'POST', `${of}/volumes`, {
    ...{ label: 'VENDOR', kind: 'drive', rootPath: vendor },
  })
  await insist(ennick, 'PUT', `/volumes/${volumeId}/role`, { path: '', role: 'proxy' })
  await insist(ennick, 'POST', `/volumes/${volumeId}/scan`)
  await untilIdle(ennick, productionId)
  const offers: { fileId: string; clipId: string | null; rivals: { clipId: string }[] }[] = await insist(
    ennick,
    'GET',
    `${of}/offers`,
  )
  const choices = offers.map(({ fileId, clipId, rivals }) => ({ fileId, clipId: clipId ?? rivals[0]?.clipId }))
  await insist(ennick, 'POST', `${of}/offers`, { fileIds: [], choices })
  const adopted = await ask<{ id: string }>(
    ennick,
    `select pairs.id from pairs join clips on clips.id = clip_id
     where production_id = $1 and is_active and origin = 'adopted'`,
    [productionId],
  )
  if (adopted.length !== scene.clipIds.length)
    return [`Of ${scene.clipIds.length} proxies of another hand ${adopted.length} were paired.`]
  const before = [await contentOf(vendor), await contentOf(card)] as const

  const mends: { id: string }[] = await insist(ennick, 'POST', `${of}/restamp`, {
    pairIds: adopted.map(({ id }) => id),
  })
  const told = await beset(scene, 'restamping')
  told.push(...(await madeUnlikeLedger(scene)), ...(await inUse(scene, 'made')))
  for (const { id } of mends) await insist(ennick, 'POST', `/mends/${id}/undo`, {})
  told.push(...(await beset(scene, 'taking it back')))
  told.push(...(await madeUnlikeLedger(scene)), ...(await inUse(scene, 'adopted')))
  told.push(...differences(before[0], await contentOf(vendor)).map((line) => `Of another hand’s proxies, ${line}.`))
  told.push(...differences(before[1], await contentOf(card)).map((line) => `Of the originals, ${line}.`))
  return told
}

/** A small copy of a clip of the card that begins a second late by its timecode. */
async function makeShifted({ card, ...scene }: Scene, index: number, path: string): Promise<void> {
  const [clip] = await ask<{ reel: string }>(
    scene.ennick,
    `select reel from clips where production_id = $1 and name = $2`,
    [scene.productionId, `K${index}.mov`],
  )
  const seed = Number(clip?.reel.slice(1))
  const code = await run('ffmpeg', [
    ...['-v', 'error', '-y', '-i', join(card, 'CLIPS', `K${index}.mov`), '-map', '0:v', '-map', '0:a'],
    ...['-vf', 'scale=160:90', '-c:v', 'mjpeg', '-q:v', '8', '-c:a', 'copy'],
    ...['-timecode', timecodeOf(seed, 1), '-metadata:s:v:0', `reel_name=T${seed}`, path],
  ])
  if (code !== 0) throw new Error(`The encoder could not make ${path}.`)
}

async function beset(scene: Scene, what: string): Promise<string[]> {
  const chosen = [scene.chance.pick(killsAndFreezes), scene.chance.pick([...killsAndFreezes, thePlaceOfMadeLeaves])]
  for (const trouble of chosen) {
    await pause(scene.chance.below(500))
    await trouble.make(scene)
  }
  say(`    and ${what}: ${chosen.map(({ name }) => name).join(', ')}`)
  return untilDone(scene.ennick, scene.productionId)
}

/** Whether each clip has one item in use that came so, of those that the other hand’s proxies are or became. */
async function inUse({ ennick, productionId, clipIds }: Scene, origin: 'made' | 'adopted'): Promise<string[]> {
  const rows = await ask<{ clip_id: string; origin: string }>(
    ennick,
    `select clip_id, origin from pairs join clips on clips.id = clip_id
     where production_id = $1 and is_active and recipe_id is null`,
    [productionId],
  )
  return clipIds.flatMap((id) => {
    const own = rows.filter(({ clip_id }) => clip_id === id)
    return own.length === 1 && own[0]?.origin === origin
      ? []
      : [`A clip has ${own.map((row) => row.origin).join(' and ') || 'none'} in use, where one ${origin} is wanted.`]
  })
}
