import { readdir } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { legalWords, mirroredFolders, numberedFolder, type Recipe } from '@ennick/core'
import type { VolumeRow, WorldClip } from '../store/world.ts'
import { removeParts } from './place.ts'

/** Says for one item after another in which folder below the made volume its files go. */
export class Destinations {
  readonly #made: VolumeRow
  readonly #recipe: Recipe
  #counts: Map<number, number> | null = null

  constructor(made: VolumeRow, recipe: Recipe) {
    this.#made = made
    this.#recipe = recipe
  }

  /** @param files how many files the item has; all of them go to one folder */
  async folderOf(clip: WorldClip, files: number): Promise<string> {
    const { folders, id } = this.#recipe
    if (folders.kind === 'mirrored') {
      // The volume's label keeps two clips of one name apart; without any folders of theirs all lie together.
      const label = folders.levels === 0 ? '' : legalWords(clip.main.volume.label)
      return join(id, label, mirroredFolders(dirname(clip.main.path), folders.levels))
    }
    const before = ownFolder(clip, this.#recipe)
    if (before !== null) return before
    this.#counts ??= await countFiles(join(this.#made.rootPath, folders.root))
    const number = numberedFolder(this.#counts, files, folders.filesPerFolder)
    this.#counts.set(number, (this.#counts.get(number) ?? 0) + files)
    return join(folders.root, String(number))
  }

  /** Removes what earlier attempts of a job left unfinished, in whichever folder they worked. */
  async removeParts(folder: string, jobId: string): Promise<void> {
    const { folders } = this.#recipe
    await removeParts(join(this.#made.rootPath, folder), jobId)
    if (folders.kind === 'mirrored') return
    const root = join(this.#made.rootPath, folders.root)
    for (const number of (await countFiles(root)).keys()) await removeParts(join(root, String(number)), jobId)
  }
}

/** Where the clip's item of this recipe lies already: what takes its place goes there too. */
function ownFolder(clip: WorldClip, recipe: Recipe): string | null {
  const own = clip.pairs.find((pair) => pair.recipeId === recipe.id && pair.origin === 'made')?.files[0]?.file.path
  return own !== undefined && recipe.folders.kind === 'numbered' && own.startsWith(`${recipe.folders.root}/`) ? dirname(own) : null
}

/** Files in every numbered folder, unfinished ones among them. */
async function countFiles(root: string): Promise<Map<number, number>> {
  const counts = new Map<number, number>()
  for (const name of await readdir(root).catch(() => [] as string[]))
    if (/^[1-9]\d{0,8}$/.test(name)) counts.set(Number(name), (await readdir(join(root, name)).catch(() => [])).length)
  return counts
}
