import { dirname, join } from 'node:path'
import { claimsToBeMedia, findSequences, type StillSequence, sequencePath } from '@ennick/core'
import { explainFileError } from '../errors.ts'
import type { PlacedFile } from '../intake/describe-file.ts'
import { pathIn, type Unreadable, walkFolders } from '../intake/walk.ts'
import { JobFailure } from '../queue/failure.ts'
import type { FoundFile } from '../store/job-types.ts'

/** A file, or numbered stills, where a search came upon them. */
export type MediaPlace = Pick<FoundFile, 'path'> & { readonly sequence: StillSequence | null }

/** Where the files of a place are read. */
export const asPlaced = ({ path, sequence = null }: Pick<FoundFile, 'path' | 'sequence'>): PlacedFile => ({
  ...{ fullPath: path, root: dirname(path), sequence },
})

/** Numbered stills as a search speaks of them: of their folder their path says all. */
export const besideEachOther = ({ sequence }: Pick<PlacedFile, 'sequence'>): StillSequence | null =>
  sequence && { ...sequence, folder: '' }

/**
 * The media in a folder, and in those below; numbered stills together.
 * @param options.isShallow leaves out what is below
 * @param options.unreadable is told of each folder that could not be read
 * @throws JobFailure when the folder itself cannot be read
 */
export async function mediaPlaces(
  folder: string,
  options: { isShallow: boolean; unreadable: Unreadable[]; signal: AbortSignal },
): Promise<MediaPlace[]> {
  const { isShallow, unreadable, signal } = options
  const found: MediaPlace[] = []
  try {
    for await (const { folder: below, names } of walkFolders(folder, {
      isForMedia: true,
      onUnreadable: (part) => unreadable.push(part),
    })) {
      signal.throwIfAborted()
      const { sequences, rest } = findSequences('', names.filter(claimsToBeMedia))
      const place = (name: string): string => join(folder, pathIn(below, name))
      for (const sequence of sequences) found.push({ path: place(sequencePath(sequence)), sequence })
      for (const name of rest) found.push({ path: place(name), sequence: null })
      // The folder itself comes first.
      if (isShallow) break
    }
  } catch (error) {
    signal.throwIfAborted()
    throw new JobFailure(`The folder cannot be searched: ${explainFileError(error, folder)}`)
  }
  return found
}
