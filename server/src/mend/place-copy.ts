import { basename, join } from 'node:path'
import { explainFileError, isFileError } from '../errors.ts'
import { lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { belowMade, holdMade } from '../make/made-item.ts'
import { NotOurs, recoverPlace, withPlacements } from '../placements/placements.ts'
import { dropUnfinished, partPath, prepareFolder, removeParts } from '../placements/unfinished-files.ts'
import { holdAttempt } from '../queue/attempt.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { Transaction } from '../store/database.ts'
import type { KnownFile, VolumeRow } from '../store/known-material.ts'
import { placeOf } from '../store/place-words.ts'

/** A copy that a mend has put into the place of made files. */
export interface PlacedCopy<Described> {
  readonly described: Described
  readonly place: VolumeRow
  /** Below the place. */
  readonly path: string
  readonly fullPath: string
}

/**
 * Writes a copy of a file into a place of made files, under a temporary name until it is proven; its name and what it
 * means are written in one act.
 * @param folder below the place
 * @param write makes and proves the copy at a path at which nothing is
 * @param settle what it means, in the transaction of the act
 * @throws JobFailure when the file changed, or something is in the way: then nothing is left of the copy
 */
export async function placeCopy<Described>(
  { database, job }: WorkContext,
  { place, file, folder: below }: { readonly place: VolumeRow; readonly file: KnownFile; readonly folder: string },
  write: (to: string) => Promise<Described>,
  settle: (transaction: Transaction, copy: PlacedCopy<Described>) => Promise<void>,
): Promise<void> {
  const seen = await lookForPlaced(file)
  if (!seen || !sameStamp(file, seen)) throw new JobFailure(`${placeOf(file)} has changed: check again first.`)
  await recoverPlace(database, place)
  const root = await holdMade(place)
  const folder = await prepareFolder(root, below).catch(async (error) => {
    await root.release()
    throw error
  })
  const fullPath = join(place.rootPath, below, basename(file.path))
  const part = partPath(fullPath, job.id, job.attempts)
  const open = folder.at(basename(part))
  try {
    await removeParts(folder, job.id)
    await folder.assertTakes(basename(fullPath), basename(part))
    const described = await write(open)
    await folder.assertThere()
    await withPlacements(database, [place], `job ${job.id}, attempt ${job.attempts}`, async (transaction, moves) => {
      await holdAttempt(transaction, job)
      const path = belowMade(place, fullPath)
      await moves.giveName(place.id, belowMade(place, part), path)
      await settle(transaction, { described, place, path, fullPath })
    })
  } catch (error) {
    if (error instanceof NotOurs) throw new JobFailure(error.message)
    if (isFileError(error)) throw new JobFailure(explainFileError(error, fullPath))
    throw error
  } finally {
    await dropUnfinished(open)
    await folder.release()
    await root.release()
  }
}
