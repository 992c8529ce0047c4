import { lstat } from 'node:fs/promises'
import { join } from 'node:path'
import {
  claimsToBeMedia,
  findSequences,
  type OtherKind,
  OtherKinds,
  type StillSequence,
  sequencePath,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import { explainFileError } from '../errors.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure, waitsIfGone } from '../queue/failure.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { volumes } from '../store/schema.ts'
import { pathIn, type Unreadable, walkFolders } from './walk.ts'

export interface FoundFile {
  readonly path: string
  readonly sequence: StillSequence | null
}

/** Every media file of a volume, numbered stills as one; what is no media is counted. */
export async function findFiles(
  { database, signal }: WorkContext,
  volume: VolumeRow,
): Promise<{ found: FoundFile[]; other: number; unreadKinds: OtherKind[]; unreadable: Unreadable[] }> {
  const found: FoundFile[] = []
  const unreadable: Unreadable[] = []
  const others = new OtherKinds()
  let other = 0
  // What Ennick makes may lie in a folder of the volume: that is checked, and never taken for somebody's media.
  const made = await database.select({ rootPath: volumes.rootPath }).from(volumes).where(eq(volumes.kind, 'made'))
  const isMade = (folder: string): boolean => {
    const path = join(volume.rootPath, folder)
    return made.some(({ rootPath }) => path === rootPath || path.startsWith(`${rootPath}/`))
  }
  try {
    for await (const { folder, names } of walkFolders(volume.rootPath, {
      isForMedia: true,
      onUnreadable: (each) => {
        // What is no media is counted, and not read at all.
        if (each.isFile && !claimsToBeMedia(each.path)) other++
        else unreadable.push(each)
      },
    })) {
      signal.throwIfAborted()
      if (isMade(folder)) continue
      const media: string[] = []
      for (const name of names) {
        if (claimsToBeMedia(name)) media.push(name)
        else {
          other++
          // One that left meanwhile, or became a link, is of no size.
          const info = await lstat(join(volume.rootPath, folder, name)).catch(() => null)
          others.add(name, info?.isFile() ? info.size : 0)
        }
      }
      const { sequences, rest } = findSequences(folder, media)
      for (const sequence of sequences) found.push({ path: sequencePath(sequence), sequence })
      for (const name of rest) found.push({ path: pathIn(folder, name), sequence: null })
    }
  } catch (error) {
    signal.throwIfAborted()
    throw new JobFailure(
      `Volume “${volume.label}” cannot be scanned: ${explainFileError(error, volume.rootPath)}`,
      waitsIfGone(error, volume.id),
    )
  }
  return { found, other, unreadKinds: others.mayBeMedia(), unreadable }
}
