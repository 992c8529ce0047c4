import { cameraOfReel, groupFromFolders } from './group-rule.ts'

/** What a label on a box says of everything in it. */
export interface BoxWords {
  readonly day?: string
  readonly camera?: string
  readonly reel?: string
}

/**
 * What the files on a volume suggest for the label on its box: only what all of them that say anything agree in.
 * @param files their paths, the volume's own folder and the one above it first; and the dates on which they were
 * written, as "2026-11-04"
 */
export function suggestBoxLabel(files: readonly { readonly path: string; readonly date: string }[]): BoxWords {
  const groups = files.map(({ path }) => groupFromFolders(path))
  const reel = only(files.map(({ path }) => reelOf(path)))
  // Files that were copied together say the day of the copy: a folder's name says more.
  const day = only(groups.map((group) => group.day)) ?? only(files.map(({ date }) => date))
  const camera = only(groups.map((group) => group.camera)) ?? (reel === null ? null : cameraOfReel(reel))
  return {
    ...(day === null ? {} : { day }),
    ...(camera === null ? {} : { camera }),
    ...(reel === null ? {} : { reel }),
  }
}

/** "A001" of "A001C003_1104.mov", or of a folder "A001" or "A001_1104" above it. */
function reelOf(path: string): string | null {
  for (const name of path.split('/').reverse()) {
    const found = /^([A-Z]\d{3})(?=[C_.-]|$)/.exec(name)?.[1]
    if (found) return found
  }
  return null
}

/** The one value that there is beside none; null where there are two, or none. */
function only(values: readonly (string | null)[]): string | null {
  const said = new Set(values.filter((value) => value !== null))
  return said.size === 1 ? ([...said][0] as string) : null
}
