import type { MovedOriginal } from '@ennick/contract'

export interface MovedFolder {
  readonly was: string
  readonly is: string
  readonly originals: number
}

/**
 * Where originals were and where they are, by what differs: of "day 1/A001/x.mov" and "D01/A001/x.mov" the folders
 * "day 1" and "D01". Of the most first.
 */
export function movedFolders(moved: readonly MovedOriginal[]): MovedFolder[] {
  const folders = new Map<string, { was: string; is: string; clips: Set<string> }>()
  for (const { clipId, was, is } of moved) {
    const [before, after] = [segmentsOf(was), segmentsOf(is)]
    while (before.length > 1 && after.length > 1 && before.at(-1) === after.at(-1)) {
      before.pop()
      after.pop()
    }
    const key = JSON.stringify([before, after])
    const folder = folders.get(key) ?? { was: before.join('/'), is: after.join('/'), clips: new Set() }
    folder.clips.add(clipId)
    folders.set(key, folder)
  }
  return [...folders.values()]
    .map(({ was, is, clips }) => ({ was, is, originals: clips.size }))
    .sort((a, b) => b.originals - a.originals)
}

/** The volume first: its root is a folder like any other. */
const segmentsOf = ({ path, volumeLabel }: MovedOriginal['was']): string[] => [volumeLabel, ...path.split('/')]
