import { readdir, realpath, stat, statfs } from 'node:fs/promises'
import { basename, dirname, isAbsolute, join, resolve, sep } from 'node:path'
import type { FolderListing } from '@ennick/contract'
import { claimsToBeMedia, isPassedOver } from '@ennick/core'
import { ask, NotAnswering } from '../disk/answering.ts'
import { freeBytes } from '../disk/free-space.ts'
import { mountPoints } from '../disk/volume-presence.ts'
import { explainFileError, PlainError } from '../errors.ts'

/** Files of a folder that are named one by one. */
const mostNamed = 500

/** Where a path really leads; null when nothing is there. @throws NotAnswering */
const realOf = (path: string): Promise<string | null> =>
  ask(path, () => realpath(path)).catch((error) => {
    if (error instanceof NotAnswering) throw error
    return null
  })

const isIn = (path: string, roots: readonly string[]): boolean =>
  roots.some((root) => path === root || path.startsWith(root.endsWith(sep) ? root : root + sep))

/** The folders that people may choose from. Everything is judged by where it really lies, behind any link. */
export class AllowedFolders {
  readonly #roots: readonly string[]
  readonly #added: () => readonly string[]

  /** Where the roots that do not answer led when they did. */
  readonly #known = new Map<string, string>()

  /** @param added folders that somebody has allowed since the start */
  constructor(roots: readonly string[], added: () => readonly string[] = () => []) {
    this.#roots = roots
    this.#added = added
  }

  /** Every folder that is allowed, whether it is there or not. */
  get named(): readonly string[] {
    return [...new Set([...this.#roots, ...this.#added()])]
  }

  /** The roots that exist today. */
  async roots(): Promise<string[]> {
    const real = await Promise.all(
      this.named.map((root) =>
        realOf(root).catch((error) => {
          if (error instanceof NotAnswering) return this.#known.get(root) ?? null
          throw error
        }),
      ),
    )
    for (const [index, root] of this.named.entries()) if (real[index]) this.#known.set(root, real[index])
    return [...new Set(real.filter((root): root is string => root !== null))]
  }

  /** Whether a place may be used, there or not; where it is there, by where it really lies. */
  async allows(path: string): Promise<boolean> {
    return (await this.judge())(path)
  }

  /** The same for many places, judged by the roots of one moment; it throws NotAnswering of one that hangs. */
  async judge(): Promise<(path: string) => Promise<boolean>> {
    const roots = await this.roots()
    const named = [...roots, ...this.named]
    return async (path) => {
      const real = await realOf(path)
      return real === null ? isIn(path, named) : isIn(real, roots)
    }
  }

  /**
   * The real path of a folder that may be used.
   * @throws PlainError when it is no folder, or lies outside every allowed root, also by a link or "..".
   */
  async resolve(path: string): Promise<string> {
    if (!isAbsolute(path) || path.includes('\0')) throw new PlainError('bad-folder', `“${path}” is not a full path.`)
    const wanted = resolve(path)
    let real: string
    try {
      await this.#assertInside(path, wanted)
      real = await ask(wanted, () => realpath(wanted))
      if (!(await ask(real, () => stat(real))).isDirectory())
        throw Object.assign(new Error('not a folder'), { code: 'ENOTDIR' })
    } catch (error) {
      if (error instanceof PlainError) throw error
      if (error instanceof NotAnswering) throw new PlainError('not-answering', error.message, { status: 409 })
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
    const named = [...roots, ...this.named]
    let real = wanted
    if (isIn(wanted, named))
      for (let at = wanted; ; at = dirname(at)) {
        const found = await realOf(at)
        if (found === null && at !== dirname(at)) continue
        real = found ?? at
        break
      }
    if (isIn(real, roots)) return
    const through = real === wanted || !isIn(wanted, named) ? '' : ` It leads to ${real}.`
    throw new PlainError(
      'outside-roots',
      `${path} lies outside the folders that Ennick may use (${roots.join(', ') || 'none'}).${through} ` +
        'To allow another, run ./ennick start --allow FOLDER on the machine that runs Ennick.',
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
        media: [],
        otherFiles: 0,
        freeBytes: null,
        mounts: await mountsIn(roots),
      }
    const real = await this.resolve(path)
    const entries = await ask(real, () => readdir(real, { withFileTypes: true })).catch((error: unknown) => {
      throw new PlainError('bad-folder', explainFileError(error, path), { status: 403 })
    })
    const shown = entries.filter((entry) => !isPassedOver(entry.name))
    const files = shown.filter((entry) => entry.isFile())
    const media = files.map(({ name }) => name).filter(claimsToBeMedia)
    return {
      path: real,
      parent: roots.includes(real) ? null : dirname(real),
      folders: shown
        .filter((entry) => entry.isDirectory())
        .map((entry) => ({ name: basename(entry.name), path: join(real, entry.name) }))
        .sort((a, b) => a.name.localeCompare(b.name, 'en')),
      mediaFiles: media.length,
      media: media.sort((a, b) => a.localeCompare(b, 'en', { numeric: true })).slice(0, mostNamed),
      otherFiles: files.length - media.length,
      freeBytes: await freeBytes(real),
      mounts: [],
    }
  }
}

/** What is mounted at or below some folders: cards and disks, which are what people look for first. */
async function mountsIn(roots: readonly string[]): Promise<FolderListing['mounts']> {
  const points = ((await mountPoints()) ?? []).filter((point) =>
    roots.some((root) => point.startsWith(root.endsWith(sep) ? root : root + sep)),
  )
  const mounts = await Promise.all(
    points.map(async (path) => {
      const space = await ask(path, () => statfs(path)).catch(() => null)
      if (!space || space.blocks === 0) return []
      const block = Number(space.bsize)
      return [
        {
          name: basename(path),
          path,
          sizeBytes: Number(space.blocks) * block,
          freeBytes: Number(space.bavail) * block,
        },
      ]
    }),
  )
  return mounts.flat().sort((a, b) => a.name.localeCompare(b.name, 'en'))
}
