import { mkdir, open, readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'

export interface CameraState {
  /** Clips that it has shot. */
  readonly clips: number
  /** Small proxies of them that it has uploaded. */
  readonly uploaded: number
  /** Where it uploads them to. */
  readonly folder: string
}

/** A stand-in for a camera that uploads small proxies while it shoots: each grows in the folder until it is whole. */
export class UploadingCamera {
  readonly #shot: string
  readonly #uploads: string
  readonly #pauseMilliseconds: number

  constructor(demoFolder: string, pauseMilliseconds = 400) {
    this.#shot = join(demoFolder, '.camera')
    this.#uploads = join(demoFolder, 'uploads')
    this.#pauseMilliseconds = pauseMilliseconds
  }

  async state(): Promise<CameraState> {
    const [shot, uploaded] = await Promise.all([namesIn(this.#shot), namesIn(this.#uploads)])
    return {
      clips: shot.length,
      uploaded: shot.filter((name) => uploaded.includes(name)).length,
      folder: this.#uploads,
    }
  }

  /** Uploads the next proxy, a piece at a time. */
  async uploadNext(): Promise<void> {
    const uploaded = await namesIn(this.#uploads)
    const next = (await namesIn(this.#shot)).find((name) => !uploaded.includes(name))
    if (!next) return
    const bytes = await readFile(join(this.#shot, next))
    await mkdir(this.#uploads, { recursive: true })
    const path = join(this.#uploads, next)
    const file = await open(path, 'wx')
    try {
      for (let piece = 0; piece < 3; piece++) {
        await file.write(
          bytes.subarray(Math.floor((piece * bytes.length) / 3), Math.floor(((piece + 1) * bytes.length) / 3)),
        )
        await new Promise((resolve) => setTimeout(resolve, this.#pauseMilliseconds))
      }
    } finally {
      await file.close()
    }
  }
}

const namesIn = async (folder: string): Promise<string[]> => (await readdir(folder).catch(() => [] as string[])).sort()
