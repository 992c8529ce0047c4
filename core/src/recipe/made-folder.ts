import { nameTrouble } from './made-name.ts'

/** Where made files lie below the production's own place. */
export type RecipeFolders =
  /** Below the recipe and the volume's label: the folders of the original, or only the last few of them. */
  | { readonly kind: 'mirrored'; readonly levels: number | null }
  /**
   * Folders numbered 1, 2, 3 … below one of a given name, each filled before the next: for systems that take in what
   * lies so.
   */
  | { readonly kind: 'numbered'; readonly root: string; readonly filesPerFolder: number }

/** The folders of an original that a recipe mirrors. */
export function mirroredFolders(folder: string, levels: number | null): string {
  const names = folder.split('/').filter((name) => name !== '' && name !== '.')
  return (levels === null ? names : levels === 0 ? [] : names.slice(-levels)).join('/')
}

/**
 * The numbered folder that the files of one item go to: the first that has room for all of them.
 * @param counts files by the number of the folder that holds them
 */
export function numberedFolder(counts: ReadonlyMap<number, number>, files: number, filesPerFolder: number): number {
  // What lies in a lower folder stays there: a receiving system has taken it in.
  const last = Math.max(1, ...counts.keys())
  return (counts.get(last) ?? 0) + files <= filesPerFolder ? last : last + 1
}

/** What is wrong with the folders of a recipe, for people; null when nothing is. */
export function folderTrouble(folders: RecipeFolders): string | null {
  if (folders.kind === 'mirrored') return null
  const names = folders.root.split('/')
  if (folders.root.trim() === '') return 'Give the folder that holds the numbered ones a name.'
  if (names.some((name) => name === '' || name === '.' || name === '..'))
    return 'Write the folder as names with a / between them, from the production’s own place on.'
  if (names.some((name) => name.startsWith('.')))
    return 'A folder whose name begins with a point is hidden: no system will look into it.'
  const trouble = names.map(nameTrouble).find((reason) => reason !== null)
  return trouble ? `No system holds a folder of this name everywhere: ${trouble}.` : null
}
