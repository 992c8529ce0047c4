import { constants, existsSync } from 'node:fs'
import { type FileHandle, lstat, mkdir, open, realpath, stat, unlink } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { nameTrouble } from '@ennick/core'
import { ask } from './answering.ts'
import { freeBytes } from './free-space.ts'
import { whyNotNamed } from './name-refused.ts'
import { assertReached } from './system-error.ts'

/** A folder that work was begun in is not there any more, or another one stands in its place. */
export class FolderLeft extends Error {
  override readonly name = 'FolderLeft'
  readonly path: string
  constructor(path: string, reason: string) {
    super(`${path} ${reason}`)
    this.path = path
  }
}

/** A path leads through a link to somewhere else: nothing is written or read there. */
export class LedAway extends Error {
  override readonly name = 'LedAway'
  constructor(path: string, real: string | null) {
    super(
      `${path} is a link${real === null ? '' : ` that leads to ${real}`}, out of the place that it belongs to. Ennick follows no links there: remove the link, and retry.`,
    )
  }
}

/** On Linux a folder is reached by its open descriptor, whatever happens to its name meanwhile. */
const descriptors = existsSync('/proc/self/fd') ? `/proc/${process.pid}/fd` : null

/**
 * A folder that is held open while something is written or read in it. What lies below is opened step by step from the
 * held descriptor, and no step may be a link, so that no path is trusted between a check and its use. Where a system
 * shows no descriptors as paths, names are used and identities compared.
 */
export class HeldFolder {
  /** As people know it. */
  readonly path: string
  readonly #handle: FileHandle
  readonly #device: bigint
  readonly #inode: bigint

  private constructor(path: string, handle: FileHandle, identity: { dev: bigint; ino: bigint }) {
    this.path = path
    this.#handle = handle
    this.#device = identity.dev
    this.#inode = identity.ino
  }

  /**
   * Holds a root.
   * @param options.isOwn a folder in Ennick's own data, which may lie behind a link of its owner's
   * @throws FolderLeft when it is not there, LedAway when a link stands in its place, NotAnswering when it hangs
   */
  static async hold(path: string, options: { isOwn?: boolean } = {}): Promise<HeldFolder> {
    const hold = async (): Promise<HeldFolder> => {
      const real = await realpath(path).catch(() => null)
      if (real === null) throw new FolderLeft(path, 'is not there.')
      if (real !== path && (!options.isOwn || (await lstat(path)).isSymbolicLink())) throw new LedAway(path, real)
      return HeldFolder.#open(path, path)
    }
    let holding: Promise<HeldFolder> | null = null
    return ask(path, () => (holding = hold())).catch((error) => {
      // What answers after it was given up is let go.
      holding?.then((late) => late.release()).catch(() => undefined)
      throw error
    })
  }

  static async #open(path: string, at: string): Promise<HeldFolder> {
    const handle = await open(at, constants.O_RDONLY | constants.O_DIRECTORY | constants.O_NOFOLLOW).catch(
      async (error) => {
        // A link is told as no folder, or as a loop, by one system or another.
        if (['ELOOP', 'ENOTDIR'].includes(error.code) && (await lstat(at).catch(() => null))?.isSymbolicLink())
          throw new LedAway(path, await realpath(at).catch(() => null))
        throw Object.assign(error, { path })
      },
    )
    try {
      return new HeldFolder(path, handle, await handle.stat({ bigint: true }))
    } catch (error) {
      await handle.close()
      throw error
    }
  }

  /**
   * Makes sure that the folder of this path is still the one that is held: a volume that was taken out leaves an empty
   * mount point of the same name behind.
   * @throws FolderLeft
   */
  async assertThere(): Promise<void> {
    const [now] = await Promise.all([stat(this.path, { bigint: true }), assertReached(this.path)]).catch(() => [null])
    if (now === null) throw new FolderLeft(this.path, 'is not there any more.')
    if (now.dev !== this.#device || now.ino !== this.#inode)
      throw new FolderLeft(this.path, 'is another folder now: its volume was taken out, or it was replaced.')
  }

  /**
   * The path by which this process and its children reach something directly in this very folder.
   * @param name one name, or "." for the folder itself
   */
  at(name: string): string {
    if (name === '' || name === '..' || name.includes('/') || name.includes('\0'))
      throw new Error(`“${name}” is no name in a folder.`)
    // Not joined: “.” has to stay, as the descriptor alone is a link.
    return `${descriptors ? `${descriptors}/${this.#handle.fd}` : this.path}/${name}`
  }

  /** What a person knows a path of `at` by. */
  readable(text: string): string {
    return descriptors ? text.replaceAll(`${descriptors}/${this.#handle.fd}`, this.path) : text
  }

  /**
   * Holds a folder below, which the caller has to release.
   * @param below its path with "/" between names; empty for this one
   * @param options.make makes what is missing on the way
   * @throws LedAway when a step is a link
   */
  async folder(below: string, options: { make?: boolean } = {}): Promise<HeldFolder> {
    let held = await HeldFolder.#open(this.path, this.at('.'))
    for (const name of below.split('/').filter((step) => step !== '' && step !== '.')) {
      const parent = held
      try {
        if (options.make)
          await mkdir(parent.at(name)).catch((error) => {
            if (error.code !== 'EEXIST')
              throw whyNotNamed(Object.assign(error, { path: join(parent.path, name) }), parent.path, name)
          })
        held = await HeldFolder.#open(join(parent.path, name), parent.at(name))
      } finally {
        await parent.release()
      }
    }
    return held
  }

  /** Which disk it is on. */
  get device(): bigint {
    return this.#device
  }

  /** Bytes that are free to be written here. */
  freeBytes(): Promise<number> {
    return freeBytes(this.at('.'), this.path)
  }

  /** Whatever has a name here, a link itself and not what it leads to; null when nothing has. */
  look(name: string) {
    return lstat(this.at(name), { bigint: true }).catch((error) => {
      if (error.code === 'ENOENT') return null
      throw error
    })
  }

  /** Opens a file here for reading. @throws LedAway when it is a link */
  async open(name: string): Promise<FileHandle> {
    // Without waiting: a pipe under a media file's name would be waited for without end.
    return open(this.at(name), constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK).catch(
      async (error) => {
        if (error.code === 'ELOOP')
          throw new LedAway(join(this.path, name), await realpath(this.at(name)).catch(() => null))
        throw Object.assign(error, { path: join(this.path, name) })
      },
    )
  }

  /** All of a file here as text; null when nothing has the name. @throws LedAway when it is a link */
  async readText(name: string): Promise<string | null> {
    const file = await this.open(name).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return null
      throw error
    })
    return file ? file.readFile('utf8').finally(() => file.close()) : null
  }

  /** The path by which this process reaches an open file, whatever has its name by now. */
  pathOf(file: FileHandle, name: string): string {
    return descriptors ? `${descriptors}/${file.fd}` : this.at(name)
  }

  /** Makes a new file here for writing. @throws an Error with code EEXIST when anything has the name, a link too */
  create(name: string): Promise<FileHandle> {
    return open(this.at(name), constants.O_WRONLY | constants.O_CREAT | constants.O_EXCL | constants.O_NOFOLLOW, 0o666)
  }

  /**
   * Makes sure that this disk takes a name before anything is written. A name that all disks take is not tried.
   * @param part the unfinished file's name, at which nothing is
   * @throws NameRefused
   */
  async assertTakes(name: string, part: string): Promise<void> {
    if (nameTrouble(name) === null) return
    const open = await this.create(part).catch((error) => {
      throw whyNotNamed(error, this.path, name)
    })
    await open.close()
    await unlink(this.at(part))
  }

  release(): Promise<void> {
    return this.#handle.close()
  }
}

/** Holds a root while a task works in it. */
export async function withHeld<T>(
  path: string,
  task: (root: HeldFolder) => Promise<T>,
  options: { isOwn?: boolean } = {},
): Promise<T> {
  const root = await HeldFolder.hold(path, options)
  try {
    return await task(root)
  } finally {
    await root.release()
  }
}

/** Holds a folder below a held one while a task works in it. */
export async function withFolder<T>(
  root: HeldFolder,
  below: string,
  task: (folder: HeldFolder) => Promise<T>,
  options: { make?: boolean } = {},
): Promise<T> {
  const folder = await root.folder(below, options)
  try {
    return await task(folder)
  } finally {
    await folder.release()
  }
}

/** Whether something has a path below a held folder, with no link on the way. */
export const isThereBelow = (root: HeldFolder, path: string): Promise<boolean> =>
  withFolder(root, dirname(path), async (folder) => (await folder.look(basename(path))) !== null).catch(() => false)

/** Whether a path is there, and lies in its volume wherever links lead. */
export const isBeneath = (root: string, path: string): Promise<boolean> =>
  assertBeneath(root, path).then(
    () => true,
    () => false,
  )

/**
 * Makes sure that reading a path does not leave its volume through a link.
 * @throws LedAway when it does, NotAnswering when it hangs; as `realpath` does when it is not there
 */
export async function assertBeneath(root: string, path: string): Promise<void> {
  const [realRoot, real] = await ask(root, () => Promise.all([realpath(root), realpath(path)]))
  if (real !== realRoot && !real.startsWith(realRoot.endsWith('/') ? realRoot : `${realRoot}/`))
    throw new LedAway(path, real)
}
