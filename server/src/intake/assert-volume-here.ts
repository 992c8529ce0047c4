import { doesNotAnswer } from '@ennick/core'
import { JobFailure } from '../queue/failure.ts'
import type { Database } from '../store/database.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { presenceOf } from '../store/volume-presence.ts'
import { lookAtVolumes } from './presence.ts'

/**
 * Makes sure that a volume is really in before anything is said of it or written to it.
 * @param then what becomes of the job when it is back, in a sentence
 * @throws JobFailure, which waits for the volume
 */
export async function assertVolumeHere(database: Database, volume: VolumeRow, then: string): Promise<void> {
  const presence = await presenceOf(database, volume)
  if (presence === 'here') return
  await lookAtVolumes(database, [volume])
  if (presence === 'not answering')
    throw new JobFailure(`Volume “${volume.label}” ${doesNotAnswer}. ${then}`, {
      waitsForVolume: volume.id,
    })
  const why = volume.isAllowed
    ? `${volume.rootPath} does not exist, or is an empty or another folder.`
    : `${volume.rootPath} lies outside the folders that Ennick may use.`
  throw new JobFailure(`Volume “${volume.label}” is away: ${why} ${then}`, { waitsForVolume: volume.id })
}
