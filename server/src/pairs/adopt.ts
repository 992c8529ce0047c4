import { basename } from 'node:path'
import { describeFile, stampOf } from '../intake/describe-file.ts'
import { belowMade, placeOfKind } from '../make/made-item.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { placeFile } from '../store/place-file.ts'
import { files } from '../store/schema.ts'
import { tiePair } from '../store/tie-pair.ts'

/** Ties files that somebody else made, below the place of made files, to their original, with the evidence as it is. */
export async function adoptPair(
  database: Database,
  material: Material,
  clip: KnownClip,
  parts: readonly { path: string; part: 'whole' | 'picture' | 'sound' }[],
): Promise<string> {
  const made = placeOfKind(material, 'proxy')
  return database.transaction(async (transaction) => {
    const rows = []
    for (const { path, part } of parts) {
      const described = await describeFile(path, await stampOf(path))
      const [row] = await transaction
        .insert(files)
        .values({ ...described, volumeId: made.id, path: belowMade(made, path) })
        .returning()
      rows.push({ part, file: placeFile(row as typeof files.$inferSelect, made) })
    }
    const name = basename(parts[0]?.path ?? '')
    const item = { name, kind: 'proxy', origin: 'adopted' } as const
    const pairId = await tiePair(
      transaction,
      clip,
      item,
      rows.map(({ part, file }) => ({ ...file, part })),
    )
    await writeHistory(transaction, material.production.id, 'pair', pairId, `Adopted ${name} for ${clip.name}.`)
    return pairId
  })
}
