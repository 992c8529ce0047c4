import { claimsToBeMedia } from '@ennick/core'
import { explainFileError } from '../errors.ts'
import { pathIn, type Unreadable, walkFolders } from '../intake/walk.ts'
import { JobFailure } from '../queue/failure.ts'

/**
 * The media in a folder, relative to it, and in those below.
 * @param options.isShallow leaves out what is below
 * @param options.unreadable is told of each folder that could not be read
 * @throws JobFailure when the folder itself cannot be read
 */
export async function mediaPaths(
  folder: string,
  options: { isShallow: boolean; unreadable: Unreadable[]; signal: AbortSignal },
): Promise<string[]> {
  const { isShallow, unreadable, signal } = options
  const found: string[] = []
  try {
    for await (const { folder: below, names } of walkFolders(folder, (part) => unreadable.push(part))) {
      signal.throwIfAborted()
      for (const name of names) if (claimsToBeMedia(name)) found.push(pathIn(below, name))
      // The folder itself comes first.
      if (isShallow) break
    }
  } catch (error) {
    signal.throwIfAborted()
    throw new JobFailure(`The folder cannot be searched: ${explainFileError(error, folder)}`)
  }
  return found
}
