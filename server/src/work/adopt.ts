import { basename } from 'node:path'
import type { Database } from '../store/database.ts'
import { record } from '../store/history.ts'
import { pairEvidence } from '../store/pair-evidence.ts'
import { files, pairFiles, pairs } from '../store/schema.ts'
import { placeFile, type World, type WorldClip } from '../store/world.ts'
import { describeFile, stampOf } from './describe-file.ts'
import { belowMade, madeVolume } from './made-item.ts'

/** Ties files that somebody else made, below the place of made files, to their original, with the evidence as it is. */
export async function adoptPair(
  database: Database,
  world: World,
  clip: WorldClip,
  parts: readonly { path: string; part: 'whole' | 'picture' | 'sound' }[],
): Promise<string> {
  const made = madeVolume(world)
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
    const comparison = pairEvidence(clip, clip.main, rows, { contentWidth: null, contentHeight: null }, world.production.proxySuffixes)
    const name = basename(parts[0]?.path ?? '')
    const [pair] = await transaction
      .insert(pairs)
      .values({
        clipId: clip.id,
        name,
        kind: 'proxy',
        origin: 'adopted',
        originalFingerprints: clip.files.map((file) => file.fingerprint),
        madeFingerprints: rows.map(({ file }) => file.fingerprint),
        comparison,
        checkedAt: new Date(),
      })
      .returning({ id: pairs.id })
    const pairId = (pair as { id: string }).id
    for (const [ordinal, { file, part }] of rows.entries())
      await transaction.insert(pairFiles).values({ pairId, ordinal, fileId: file.id, part })
    await record(transaction, world.production.id, 'pair', pairId, `Adopted ${name} for ${clip.name}.`)
    return pairId
  })
}
