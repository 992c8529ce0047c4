import { basename } from 'node:path'
import type { ProxyOffer } from '@ennick/contract'
import { and, asc, eq, inArray, notExists, sql } from 'drizzle-orm'
import { announce } from '../store/announce.ts'
import { cameraProxies } from '../store/catalogue-schema.ts'
import type { Database, Queryable } from '../store/database.ts'
import { record } from '../store/history.ts'
import { pairEvidence } from '../store/pair-evidence.ts'
import { files, pairFiles, pairs } from '../store/schema.ts'
import { placeFile, readWorld, type World, type WorldClip, type WorldFile } from '../store/world.ts'

interface Offer {
  readonly file: WorldFile
  readonly clip: WorldClip | null
}

/** Camera proxies that belong to no pair yet, with the clips that they fit. */
export async function listOffers(database: Queryable, productionId: string): Promise<ProxyOffer[]> {
  const { world, offers } = await readOffers(database, productionId, null)
  return offers.map(({ file, clip }) => {
    const picture = file.facts?.picture
    const rows = clip ? evidenceOf(world, clip, file) : []
    const differing = rows.filter((row) => !row.agrees)
    return {
      fileId: file.id,
      path: file.path,
      volumeLabel: file.volume.label,
      raster: picture ? `${picture.width}×${picture.height}` : '',
      clipId: clip?.id ?? null,
      clipName: clip?.name ?? null,
      agrees: clip !== null && differing.length === 0,
      differences: differing.map((row) => `${row.aspect}: ${row.expected} / ${row.found}`),
    }
  })
}

/** Ties camera proxies to the clips that they fit, with the evidence as it is. They stay where they are. */
export async function acceptOffers(database: Database, productionId: string, fileIds: readonly string[]): Promise<number> {
  return database.transaction(async (transaction) => {
    const { world, offers } = await readOffers(transaction, productionId, fileIds)
    let paired = 0
    for (const { file, clip } of offers) {
      if (!clip) continue
      const name = basename(file.path)
      const [pair] = await transaction
        .insert(pairs)
        .values({
          clipId: clip.id,
          name,
          kind: 'proxy',
          origin: 'adopted',
          originalFingerprints: clip.files.map((original) => original.fingerprint),
          madeFingerprints: [file.fingerprint],
          comparison: evidenceOf(world, clip, file),
          checkedAt: new Date(),
        })
        .returning({ id: pairs.id })
      const pairId = (pair as { id: string }).id
      await transaction.insert(pairFiles).values({ pairId, ordinal: 0, fileId: file.id, part: 'whole' })
      await record(transaction, productionId, 'pair', pairId, `Paired the camera’s own proxy ${name} with ${clip.name}.`)
      paired++
    }
    await announce(transaction, productionId, 'volumes', 'clips', 'pairs', 'cuts')
    return paired
  })
}

const evidenceOf = (world: World, clip: WorldClip, file: WorldFile) =>
  pairEvidence(clip, clip.main, [{ file, part: 'whole' }], { contentWidth: null, contentHeight: null }, world.production.proxySuffixes) ??
  []

async function readOffers(
  database: Queryable,
  productionId: string,
  fileIds: readonly string[] | null,
): Promise<{ world: World; offers: Offer[] }> {
  const rows = await database
    .select({ file: files, clipId: cameraProxies.clipId })
    .from(cameraProxies)
    .innerJoin(files, eq(files.id, cameraProxies.fileId))
    .where(
      and(
        eq(cameraProxies.productionId, productionId),
        eq(files.isGone, false),
        notExists(database.select({ one: sql`1` }).from(pairFiles).where(eq(pairFiles.fileId, files.id))),
        fileIds ? inArray(files.id, [...fileIds]) : undefined,
      ),
    )
    .orderBy(asc(files.path))
  const clipIds = rows.flatMap((row) => row.clipId ?? [])
  const world = await readWorld(database, productionId, clipIds)
  const volumeById = new Map(world.volumes.map((volume) => [volume.id, volume]))
  const offers = rows.flatMap(({ file, clipId }): Offer[] => {
    const volume = volumeById.get(file.volumeId)
    return volume ? [{ file: placeFile(file, volume), clip: clipId ? (world.clips.get(clipId) ?? null) : null }] : []
  })
  return { world, offers }
}
