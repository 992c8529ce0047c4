import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { pause, say } from '../bench/measure.ts'
import { contentOf, differences } from './disk.ts'
import { openSlowStore } from './slow-store.ts'
import { ask, insist, recipeId, untilDone } from './stage.ts'
import { killsAndFreezes, type Scene, theDestinationLeaves, thePlaceOfMadeLeaves } from './troubles.ts'

/**
 * Makes one file of what was made, and fetches the card's clips from a store, while workers die and disks leave.
 * @returns what did not hold: one joined file whose parts stay, every file as the store has it, and nothing besides
 */
export async function joinAndFetch(scene: Scene): Promise<string[]> {
  const { ennick, chance, productionId, card, storage, made, offload } = scene
  const content = await contentOf(join(card, 'CLIPS'))
  const files = new Map<string, Buffer>()
  for (const name of content.keys()) files.set(name, await readFile(join(card, 'CLIPS', name)))
  const store = await openSlowStore(files)
  try {
    const parts = await contentOf(made)
    const batchId = await wholeBatch(scene)
    if (batchId !== null)
      await insist(ennick, 'POST', `/batches/${batchId}/join`, { recipeId, name: 'all in one' }).catch(unlessAway)
    const { destinationId } = offload.body as { destinationId: string }
    await insist(ennick, 'POST', `/volumes/${destinationId}/fetch`, { address: store.list, folder: 'fetched' })
    const chosen = [
      chance.pick(killsAndFreezes),
      chance.pick([...killsAndFreezes, theDestinationLeaves, thePlaceOfMadeLeaves]),
    ]
    for (const trouble of chosen) {
      await pause(chance.below(700))
      await trouble.make(scene)
    }
    say(`    and ${batchId === null ? '' : 'joining and '}fetching: ${chosen.map(({ name }) => name).join(', ')}`)
    const told = await untilDone(ennick, productionId)
    const fetched = await contentOf(join(storage, 'fetched'))
    for (const path of [...fetched.keys()]) if (path.startsWith('ascmhl/')) fetched.delete(path)
    told.push(...differences(content, fetched).map((line) => `Of what was fetched, ${line}.`))
    return [...told, ...(await inspectJoined(scene, parts, batchId !== null))]
  } finally {
    await store.close()
  }
}

/** A batch of which everything is there that was asked for; null when troubles have left none. */
async function wholeBatch({ ennick, productionId }: Scene): Promise<string | null> {
  const batches: { id: string }[] = await insist(ennick, 'GET', `/productions/${productionId}/batches`)
  for (const { id } of batches) {
    const offers: { total: number; troubles: string[] }[] = await insist(ennick, 'GET', `/batches/${id}/join`)
    if (offers.some(({ total, troubles }) => total > 1 && troubles.length === 0)) return id
  }
  return null
}

function unlessAway(error: Error): void {
  if (!/away/.test(error.message)) throw error
}

/** Whether the parts stay as they were, and the joined file is there once, as the ledger has it. */
async function inspectJoined(
  { ennick, productionId, made }: Scene,
  parts: ReadonlyMap<string, string>,
  isOrdered: boolean,
): Promise<string[]> {
  const known = await ask<{ path: string; size: string }>(
    ennick,
    `select path, size_bytes as size from joined_files where production_id = $1`,
    [productionId],
  )
  const now = await contentOf(made)
  const wrong: string[] = []
  if (isOrdered && known.length !== 1) wrong.push(`${known.length} joined files are in the ledger.`)
  for (const { path, size } of known) {
    if (!now.get(path)?.startsWith(`${size} bytes`))
      wrong.push(`The ledger knows the joined file ${path} with ${size} bytes, the disk ${now.get(path) ?? 'nothing'}.`)
    now.delete(path)
  }
  wrong.push(...differences(parts, now).map((line) => `Beside the joined file, ${line}.`))
  const folders = await readdir(made)
  if (folders.some((name) => name.endsWith('.ennick-part'))) wrong.push('Half a joined file lies about.')
  return wrong
}
