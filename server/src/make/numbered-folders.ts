import { readdir } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { legalWords, mirroredFolders, numberedFolder, type Recipe } from '@ennick/core'
import { sql } from 'drizzle-orm'
import { type HeldFolder, withFolder } from '../disk/held-folder.ts'
import { isPart, partPath, prepareFolder, removeParts } from '../placements/unfinished-files.ts'
import type { JobRow } from '../queue/jobs.ts'
import type { Database } from '../store/database.ts'
import type { KnownClip, VolumeRow } from '../store/known-material.ts'
import { lockClasses } from '../store/lock-classes.ts'

/** Says for one item after another in which folder below a place of what is made its files go. */
export class Destinations {
  readonly #place: VolumeRow
  readonly #recipe: Recipe
  #counts: Map<number, number> | null = null

  constructor(place: VolumeRow, recipe: Recipe) {
    this.#place = place
    this.#recipe = recipe
  }

  /** @param files how many files the item has; all of them go to one folder */
  async folderOf(clip: KnownClip, files: number): Promise<string> {
    const { folders, id } = this.#recipe
    if (folders.kind === 'mirrored') {
      // The volume's label keeps two clips of one name apart; without any folders of theirs all lie together.
      const label = folders.levels === 0 ? '' : legalWords(clip.main.volume.label)
      return join(id, label, mirroredFolders(dirname(clip.main.path), folders.levels))
    }
    const before = this.#ownFolder(clip)
    if (before !== null) return before
    this.#counts ??= await countFiles(join(this.#place.rootPath, folders.root))
    const number = numberedFolder(this.#counts, files, folders.filesPerFolder)
    this.#counts.set(number, (this.#counts.get(number) ?? 0) + files)
    return join(folders.root, String(number))
  }

  /**
   * The same for a job that is about to write, with the folder held. In a numbered folder it takes seats for its files,
   * so that jobs that are made at the same moment, by whichever worker, do not fill a folder beyond its limit together.
   * @param root the place's
   * @returns the folder, which the caller has to release, and the names of the seats in it
   */
  async claim(
    database: Database,
    root: HeldFolder,
    clip: KnownClip,
    files: number,
    job: JobRow,
  ): Promise<{ folder: HeldFolder; below: string; seats: readonly string[] }> {
    const { folders } = this.#recipe
    if (folders.kind === 'mirrored' || this.#ownFolder(clip) !== null) {
      const below = await this.folderOf(clip, files)
      return { folder: await prepareFolder(root, below), below, seats: [] }
    }
    return database.transaction(async (transaction) => {
      await transaction.execute(
        sql`select pg_advisory_xact_lock(${lockClasses.folders}, hashtext(${`${this.#place.id} ${folders.root}`}))`,
      )
      const below = await this.folderOf(clip, files)
      const folder = await prepareFolder(root, below)
      const seats = Array.from({ length: files }, (_, index) => partPath(`seat ${index + 1}`, job.id, job.attempts))
      try {
        for (const seat of seats) await (await folder.create(seat)).close()
      } catch (error) {
        await folder.release()
        throw error
      }
      return { folder, below, seats }
    })
  }

  /** Removes what earlier attempts of a job left unfinished, in whichever folder they worked. */
  async removeParts(root: HeldFolder, clip: KnownClip, jobId: string): Promise<void> {
    const { folders } = this.#recipe
    const numbered = async (): Promise<string[]> =>
      folders.kind === 'numbered'
        ? [...(await countFiles(join(this.#place.rootPath, folders.root))).keys()].map((number) =>
            join(folders.root, String(number)),
          )
        : []
    for (const below of folders.kind === 'mirrored' ? [await this.folderOf(clip, 1)] : await numbered())
      await withFolder(root, below, (folder) => removeParts(folder, jobId)).catch((error: NodeJS.ErrnoException) => {
        // A folder that is not there holds nothing; one behind a link is told when it is to be written to.
        if (error.code !== 'ENOENT' && error.name !== 'LedAway') throw error
      })
  }

  /** Where the clip's item of this recipe lies in this place already: what is made in its stead goes there too. */
  #ownFolder(clip: KnownClip): string | null {
    const { id, folders } = this.#recipe
    const own = clip.pairs.find((pair) => pair.recipeId === id && pair.origin === 'made')?.files[0]?.file
    return own?.volumeId === this.#place.id && folders.kind === 'numbered' && own.path.startsWith(`${folders.root}/`)
      ? dirname(own.path)
      : null
  }
}

/** Files in every numbered folder, and seats that jobs have taken there for theirs. */
async function countFiles(root: string): Promise<Map<number, number>> {
  const counts = new Map<number, number>()
  for (const name of await readdir(root).catch(() => [] as string[]))
    if (/^[1-9]\d{0,8}$/.test(name))
      counts.set(Number(name), (await readdir(join(root, name)).catch(() => [])).filter(isCounted).length)
  return counts
}

const isCounted = (name: string): boolean => !isPart(name) || name.startsWith('.seat ')
