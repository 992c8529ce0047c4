import { mkdir, readdir, rename } from 'node:fs/promises'
import { join } from 'node:path'

export interface BaySlot {
  readonly name: string
  readonly isIn: boolean
  readonly path: string
}

/** A stand-in for card readers and drive docks: what is in lies in one folder, what is out in another, really moved. */
export class CardBay {
  readonly #bay: string
  readonly #bag: string

  constructor(demoFolder: string) {
    this.#bay = join(demoFolder, 'bay')
    // Hidden, so that neither a search nor the folder picker sees what is in the bag.
    this.#bag = join(demoFolder, '.bag')
  }

  async slots(): Promise<BaySlot[]> {
    const [inside, outside] = await Promise.all([namesIn(this.#bay), namesIn(this.#bag)])
    const slots = [
      ...inside.map((name) => ({ name, isIn: true, path: join(this.#bay, name) })),
      ...outside.map((name) => ({ name, isIn: false, path: join(this.#bay, name) })),
    ]
    return slots.sort((a, b) => a.name.localeCompare(b.name, 'en'))
  }

  /** Puts a volume in or takes it out. Asking for what is so already changes nothing. */
  async move(name: string, isIn: boolean): Promise<void> {
    const slot = (await this.slots()).find((candidate) => candidate.name === name)
    if (!slot || slot.isIn === isIn) return
    await mkdir(isIn ? this.#bay : this.#bag, { recursive: true })
    await rename(join(isIn ? this.#bag : this.#bay, name), join(isIn ? this.#bay : this.#bag, name))
  }
}

async function namesIn(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true }).catch(() => [])
  return entries.filter((entry) => entry.isDirectory()).map((entry) => entry.name)
}
