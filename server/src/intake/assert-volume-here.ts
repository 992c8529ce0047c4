import { JobFailure } from '../queue/failure.ts'
import type { Database } from '../store/database.ts'
import type { VolumeRow } from '../store/material.ts'
import { lookForVolume } from '../store/volume-presence.ts'
import { lookAtVolumes } from './presence.ts'

/**
 * Makes sure that a volume is really in before anything is said of it or written to it.
 * @param then what becomes of the job when it is back, in a sentence
 * @throws JobFailure, which waits for the volume
 */
export async function assertVolumeHere(database: Database, volume: VolumeRow, then: string): Promise<void> {
  if (await lookForVolume(database, volume)) return
  await lookAtVolumes(database, [volume])
  const why = volume.isAllowed
    ? `${volume.rootPath} does not exist, or is an empty or another folder.`
    : `${volume.rootPath} lies outside the folders that Ennick may use.`
  throw new JobFailure(`Volume “${volume.label}” is away: ${why} ${then}`, { waitsForVolume: volume.id })
}
