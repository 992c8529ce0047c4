import { readdir } from 'node:fs/promises'
import { count, removableKinds } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { JobFailure } from '../queue/failure.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { files } from '../store/schema.ts'
import { clipsOnItAlone, holdsNothingByContent, othersAtItsPlace } from '../store/volume-presence.ts'
import { lookAtVolumes } from './presence.ts'

const known = (volume: VolumeRow) => and(eq(files.volumeId, volume.id), eq(files.isGone, false))

/**
 * Whether something is known of a box that leaves again, and nothing of that is at its place: another box is in, as
 * cards are often mounted under one name, or it was formatted.
 */
export const holdsNothingKnown = async (database: Queryable, volume: VolumeRow): Promise<boolean> =>
  removableKinds.has(volume.kind) && holdsNothingByContent(database, volume)

/**
 * Makes sure that what lies at a box's place is that box, before it is said of anything that it is gone.
 * @throws JobFailure where it holds nothing of what is known of it, and some of that is nowhere else
 */
export async function assertSameBox(database: Database, volume: VolumeRow): Promise<void> {
  const there = await readdir(volume.rootPath).catch(() => [])
  if (there.length === 0 || !(await holdsNothingKnown(database, volume))) return
  // That another one is in is known already: it is away.
  if ((await othersAtItsPlace(database, volume)).length) return
  const alone = await clipsOnItAlone(database, volume)
  if (alone === 0) return
  // Nobody has to wait for the next look until it is told to be away.
  await lookAtVolumes(database, [volume])
  throw new JobFailure(
    `What lies at ${volume.rootPath} holds nothing of what is known of “${volume.label}”, and ` +
      `${count(alone, 'clip of that was', 'clips of that were')} copied nowhere. If another card is in, add it as a ` +
      `volume of its own: “${volume.label}” is asked for then. If it was formatted, say so in its details.`,
  )
}

/**
 * A person says that a box was formatted: nothing that was on it is there any more, and what comes to a place on it is
 * something else.
 */
export async function noteFormatted(database: Database, volume: VolumeRow): Promise<void> {
  await database.transaction(async (transaction) => {
    const { rowCount } = await transaction.update(files).set({ isGone: true, isReplaced: true }).where(known(volume))
    const what = `“${volume.label}” was formatted, as somebody said: ${count(rowCount ?? 0, 'file')} gone from it.`
    await writeHistory(transaction, volume.productionId, 'volume', volume.id, what)
  })
  await announce(database, volume.productionId, 'volumes', 'clips', 'pairs', 'cuts')
}
