import { readdir, realpath, stat, statfs } from 'node:fs/promises'
import { basename, dirname, isAbsolute, join, resolve, sep } from 'node:path'
import type { FolderListing } from '@ennick/contract'
import { claimsToBeMedia, isPassedOver } from '@ennick/core'
import { explainFileError, PlainError } from '../errors.ts'

/** The folders that people may choose from. Everything is judged by where it really lies, behind any link. */
export class AllowedFolders {
  readonly #roots: readonly string[]

  constructor(roots: readonly string[]) {
    this.#roots = roots
  }

  /** The roots that exist today. */
  async roots(): Promise<string[]> {
    const real = await Promise.all(this.#roots.map((root) => realpath(root).catch(() => null)))
    return [...new Set(real.filter((root): root is string => root !== null))]
  }

  /**
   * The real path of a folder that may be used.
   * @throws PlainError when it is no folder, or lies outside every allowed root, also by a link or "..".
   */
  async resolve(path: string): Promise<string> {
    if (!isAbsolute(path) || path.includes('\0')) throw new PlainError('bad-folder', `“${path}” is not a full path.`)
    const wanted = resolve(path)
    await this.#assertInside(path, wanted)
    let real: string
    try {
      real = await realpath(wanted)
      if (!(await stat(real)).isDirectory()) throw Object.assign(new Error('not a folder'), { code: 'ENOTDIR' })
    } catch (error) {
      throw new PlainError('bad-folder', explainFileError(error, path), { status: 404 })
    }
    return real
  }

  /**
   * Refuses what lies outside in the same words whether it is there or not: the deepest folder above that is there
   * tells where a path leads.
   */
  async #assertInside(path: string, wanted: string): Promise<void> {
    const roots = await this.roots()
    const named = [...roots, ...this.#roots]
    const isIn = (real: string, list: readonly string[]): boolean =>
      list.some((root) => real === root || real.startsWith(root.endsWith(sep) ? root : root + sep))
    let real = wanted
    if (isIn(wanted, named))
      for (let at = wanted; ; at = dirname(at)) {
        const found = await realpath(at).catch(() => null)
        if (found === null && at !== dirname(at)) continue
        real = found ?? at
        break
      }
    if (isIn(real, roots)) return
    const through = real === wanted || !isIn(wanted, named) ? '' : ` It leads to ${real}.`
    throw new PlainError(
      'outside-roots',
      `${path} lies outside the folders that Ennick may use (${roots.join(', ') || 'none'}).${through} Allowed folders are set in settings.json.`,
      { status: 403 },
    )
  }

  async list(path: string | undefined): Promise<FolderListing> {
    const roots = await this.roots()
    if (path === undefined)
      return {
        path: null,
        parent: null,
        folders: roots.map((root) => ({ name: root, path: root })),
        mediaFiles: 0,
        otherFiles: 0,
        freeBytes: null,
      }
    const real = await this.resolve(path)
    const entries = await readdir(real, { withFileTypes: true }).catch((error: unknown) => {
      throw new PlainError('bad-folder', explainFileError(error, path), { status: 403 })
    })
    const shown = entries.filter((entry) => !isPassedOver(entry.name))
    const files = shown.filter((entry) => entry.isFile())
    const media = files.filter((entry) => claimsToBeMedia(entry.name)).length
    const { bavail, bsize } = await statfs(real)
    return {
      path: real,
      parent: roots.includes(real) ? null : dirname(real),
      folders: shown
        .filter((entry) => entry.isDirectory())
        .map((entry) => ({ name: basename(entry.name), path: join(real, entry.name) }))
        .sort((a, b) => a.name.localeCompare(b.name, 'en')),
      mediaFiles: media,
      otherFiles: files.length - media,
      freeBytes: Number(bavail) * Number(bsize),
    }
  }
}
