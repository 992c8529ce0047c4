import { contentOf } from './disk.ts'
import { ask } from './stage.ts'
import type { Scene } from './troubles.ts'

interface KnownMade {
  readonly path: string
  readonly is_active: boolean
  readonly clip_id: string
  readonly size: string
}

/** The files of pairs in a production's places of what is made, as the ledger has them. */
export const knownMade = ({ ennick, productionId }: Scene): Promise<KnownMade[]> =>
  ask<KnownMade & { [key: string]: unknown }>(
    ennick,
    `select files.path, pairs.is_active, pairs.clip_id, files.size_bytes as size from files
     join pair_files on file_id = files.id join pairs on pairs.id = pair_id
     join volumes on volumes.id = volume_id where volumes.production_id = $1 and volumes.kind = 'made'`,
    [productionId],
  )

/** In what the disk and the ledger do not say the same of what was made; and what of it is being moved still. */
export async function madeUnlikeLedger(scene: Scene): Promise<string[]> {
  const known = await knownMade(scene)
  const onDisk = await contentOf(scene.made)
  onDisk.delete('.ennick-volume.json')
  const wrong: string[] = []
  for (const { path, size } of known)
    if (!onDisk.get(path)?.startsWith(`${size} bytes`))
      wrong.push(`The ledger knows ${path} with ${size} bytes, the disk ${onDisk.get(path) ?? 'nothing'}.`)
  for (const path of onDisk.keys())
    if (!known.some((row) => row.path === path)) wrong.push(`${path} is on the disk, and the ledger does not know it.`)
  const open = await ask<{ by: string }>(scene.ennick, `select by from placements where state = 'open'`)
  for (const { by } of open) wrong.push(`What ${by} began to move is still open.`)
  return wrong
}
