import { doesNotAnswer } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { isFileError } from '../errors.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { Database } from '../store/database.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { whyAway } from '../store/place-words.ts'
import { volumes } from '../store/schema.ts'
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

/** For so long it is waited until whoever watches volumes has seen what a worker has met. */
const watchTries = 12
const watchMilliseconds = 500

/**
 * Does a job's work. When that fails and a volume that it works with is not in any more, the job is done again when
 * that is back. Of a volume that this worker alone does not reach nothing is waited for.
 * @param worked says which volumes these are, as this worker has them
 * @param then what becomes of the job when it is back, in a sentence
 * @throws what the work throws, or a JobFailure that waits for the volume
 */
export async function orWait<T>(
  { database, signal }: Pick<WorkContext, 'database' | 'signal'>,
  worked: () => readonly VolumeRow[] | Promise<readonly VolumeRow[]>,
  then: string,
  work: () => Promise<T>,
): Promise<T> {
  try {
    return await work()
  } catch (error) {
    signal.throwIfAborted()
    throw await asWaiting(database, error, await worked(), then)
  }
}

async function asWaiting(
  database: Database,
  error: unknown,
  worked: readonly VolumeRow[],
  then: string,
): Promise<unknown> {
  const isOfJob = error instanceof JobFailure
  if (!(isOfJob || isFileError(error)) || (isOfJob && error.waitsForVolume !== null)) return error
  for (const volume of worked) {
    // One that was noted as away when it was read may be back by now: what found it away is done again all the same.
    if (volume.isHere && (await presenceOf(database, volume)) === 'here') continue
    const away = volume.isHere ? await seenAway(database, volume.id) : volume
    if (away) return new JobFailure(`${whyAway(away)} ${then}`, { waitsForVolume: away.id, cause: error })
  }
  return error
}

/** A volume as it is noted once it is known to be away; null when it is not. */
async function seenAway(database: Database, volumeId: string): Promise<VolumeRow | null> {
  for (let tries = 0; tries < watchTries; tries++) {
    const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
    if (!volume?.isHere) return volume ?? null
    await new Promise((resolve) => setTimeout(resolve, watchMilliseconds))
  }
  return null
}
