import {
  appendFile,
  copyFile,
  cp,
  mkdir,
  readdir,
  readFile,
  rename,
  rm,
  stat,
  utimes,
  writeFile,
} from 'node:fs/promises'
import { basename, dirname, join, relative } from 'node:path'
import { afterAll, beforeAll, test } from '@jest/globals'
import { xxh64 } from '@node-rs/xxhash'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { WalkByChance } from '../testing/walk-by-chance.ts'

/**
 * Days on which cards are filled, copied by hand, offloaded, formatted and filled again under the same names, while
 * what was copied is moved, lost, swapped and written over, and drives leave: whatever is said then of what is on a card
 * has to be so. Everything is of one size, as with a camera that writes so many bytes a second.
 */
let ennick: Harness
let store: string
const sizeBytes = 160_000
const takes = 9
const shelf = new Map<string, string>()
beforeAll(async () => {
  ennick = await startHarness()
  store = join(ennick.media, 'store')
  for (let take = 0; take < takes; take++) {
    const path = join(store, `${take}.mov`)
    await makePicture(path, { seed: take, timecode: `1${take}:00:00:00`, frames: 3, size: '160x90' })
    const { size } = await stat(path)
    const padding = Buffer.alloc(sizeBytes - size)
    padding.writeUInt32BE(padding.length)
    padding.write('free', 4, 'latin1')
    await appendFile(path, padding)
    shelf.set(await contentAt(path), `take ${take}`)
    await writeFile(join(store, `${take}.xml`), `<take number="${take}"/>`)
    shelf.set(await contentAt(join(store, `${take}.xml`)), `words on take ${take}`)
  }
})
afterAll(() => ennick.stop())

const contentAt = async (path: string): Promise<string> => String(xxh64(await readFile(path)))

test.each([200, 202])('cards by the chance of seed %s: what is said to be elsewhere is', async (seed) => {
  const cards = new Cards(seed)
  await cards.begin()
  for (let step = 0; step < 30; step++) await cards.step()
})

const cardNames = ['K-1', 'K-2']
const driveNames = ['R-1', 'R-2']

class Cards extends WalkByChance {
  readonly #base: string
  readonly #volumes = new Map<string, string>()
  /** What each clip was when it was first seen. */
  readonly #held = new Map<string, string | undefined>()
  #productionId = ''

  constructor(seed: number) {
    super(seed)
    this.#base = join(ennick.media, `cards ${seed}`)
  }

  async begin(): Promise<void> {
    this.#productionId = await ennick.addProduction(`Cards ${this.seed}`)
    for (const label of [...cardNames, ...driveNames]) {
      await mkdir(this.#at(label), { recursive: true })
      if (cardNames.includes(label)) await this.#film(label)
      const kind = cardNames.includes(label) ? 'card' : 'drive'
      this.#volumes.set(label, await ennick.addVolume(this.#productionId, label, this.#at(label), kind))
    }
    await this.#look()
  }

  async step(): Promise<void> {
    const byPeople = [
      ...[this.#filmMore, this.#filmMore, this.#format, this.#format, this.#copyByHand, this.#copyByHand],
      ...[this.#writeOver, this.#move, this.#lose, this.#swap, this.#takeOut, this.#exchangeCards],
    ]
    const byEnnick = [this.#offload, this.#offload, this.#offload, this.#compare, this.#noteFormatted, this.#scanOne]
    if (this.chance() < 0.5) await this.pick(byPeople).call(this)
    else {
      const before = await this.#disk()
      await this.attempt(this.pick(byEnnick))
      const after = await this.#disk()
      for (const [path, content] of before) if (after.get(path) !== content) this.fail(`${path} was ${content}`)
    }
    await this.#look()
  }

  /** What is said before and after everything was read once more, held against what lies there. */
  async #look(): Promise<void> {
    await this.#noteNew()
    await this.#lookElsewhere()
    if (this.chance() < 0.4) return
    for (const label of this.#volumes.keys()) await this.#scan(label)
    await this.#noteNew()
    await this.#lookElsewhere()
    await this.#lookAtClips()
  }

  /** What may be formatted, as far as is told: of cards that are in. */
  async #lookElsewhere(): Promise<void> {
    const disk = await this.#disk()
    const staying = new Set([...disk].flatMap(([path, content]) => (isOnDrive(path) ? [content] : [])))
    for (const label of cardNames)
      await this.attempt(async () => {
        const volumeId = this.#volumes.get(label) as string
        const { alone, unreadable } = await ennick.call('readHeldElsewhere', { params: { volumeId } })
        const told = new Set([...alone.map(({ path }) => path), ...unreadable])
        for (const [path, content] of disk)
          if (path.startsWith(`${label}/`) && !told.has(path.slice(label.length + 1)) && !staying.has(content))
            this.fail(`${path}, ${content}, is said to be elsewhere as well`)
      })
  }

  async #noteNew(): Promise<void> {
    const disk = await this.#disk()
    for (const { id, volumeLabel, path } of await ennick.clips(this.#productionId))
      if (!this.#held.has(id)) this.#held.set(id, disk.get(`${volumeLabel}/${path}`))
  }

  async #lookAtClips(): Promise<void> {
    const disk = await this.#disk()
    const everywhere = new Set(
      [...disk, ...(await this.#disk('away'))].flatMap(([path, is]) => (isOnDrive(path) ? [is] : [])),
    )
    for (const clip of await ennick.clips(this.#productionId)) {
      const content = disk.get(`${clip.volumeLabel}/${clip.path}`)
      if (clip.presence !== 'here') continue
      const place = `${clip.name} at ${clip.volumeLabel}/${clip.path}, ${content}`
      if (content === undefined) this.fail(`${place}: is said to be here`)
      if (!clip.notice.includes('original changed') && content !== this.#held.get(clip.id))
        this.fail(`${place}: is said to be ${this.#held.get(clip.id)}`)
      if (
        cardNames.includes(clip.volumeLabel ?? '') &&
        !clip.notice.includes('only on a card') &&
        !everywhere.has(content as string)
      )
        this.fail(`${place}: is said to be on a volume that stays (${clip.notice})`)
    }
  }

  /** What lies on the volumes that are here, or on those that are not. */
  async #disk(where: 'here' | 'away' = 'here'): Promise<Map<string, string>> {
    const files = new Map<string, string>()
    const base = where === 'here' ? this.#base : `${this.#base} away`
    for (const entry of await readdir(base, { recursive: true, withFileTypes: true }).catch(() => [])) {
      const path = join(entry.parentPath, entry.name)
      if (entry.isFile() && !entry.name.startsWith('.') && !path.includes('/ascmhl/'))
        files.set(relative(base, path), shelf.get(await contentAt(path)) ?? 'something else')
    }
    return new Map([...files].sort(([a], [b]) => (a < b ? -1 : 1)))
  }

  #at = (path: string): string => join(this.#base, path)
  #onDrives = async (): Promise<string[]> => [...(await this.#disk()).keys()].filter(isOnDrive)

  async #film(label: string): Promise<void> {
    const folder = join(this.#at(label), 'CLIPS')
    await mkdir(folder, { recursive: true })
    const number = (await readdir(folder)).filter((name) => name.endsWith('.mov')).length + 1
    const take = Math.floor(this.chance() * takes)
    for (const ending of ['mov', 'xml'])
      await copyFile(join(store, `${take}.${ending}`), join(folder, `C00${number}.${ending}`))
    this.tell(`take ${take} is filmed as C00${number} on ${label}`)
  }

  #filmMore = (): Promise<void> => this.#film(this.pick(cardNames))

  async #format(): Promise<void> {
    const label = this.pick(cardNames)
    this.tell(`${label} is formatted`)
    await rm(join(this.#at(label), 'CLIPS'), { recursive: true, force: true })
    for (let clips = Math.floor(this.chance() * 3); clips > 0; clips--) await this.#film(label)
  }

  async #exchangeCards(): Promise<void> {
    this.tell('the cards are in each other’s place')
    const [one, other] = cardNames.map((label) => this.#at(label)) as [string, string]
    await rename(one, `${one} between`)
    await rename(other, one)
    await rename(`${one} between`, other)
  }

  async #copyByHand(): Promise<void> {
    const [card, drive] = [this.pick(cardNames), await this.#driveHere()]
    if (!drive) return
    const to = `${drive}/${this.pick(['by hand', 'K', 'day 1/K'])}`
    const preserveTimestamps = this.chance() < 0.5
    this.tell(`${card} is copied to ${to} by hand${preserveTimestamps ? ' with its times' : ''}`)
    await cp(this.#at(card), this.#at(to), { recursive: true, preserveTimestamps, force: false })
  }

  /** Something else gets the place of a copy, with the time of now or one of before. */
  async #writeOver(): Promise<void> {
    const path = this.pick(await this.#onDrives())
    if (path === undefined) return
    const take = Math.floor(this.chance() * takes)
    this.tell(`${path} is written over with take ${take}`)
    await copyFile(join(store, `${take}${path.slice(-4)}`), this.#at(path))
    if (this.chance() < 0.5) await utimes(this.#at(path), new Date(2026, 1, 1), new Date(2026, 1, 1, 0, 0, take))
  }

  async #move(): Promise<void> {
    const paths = await this.#onDrives()
    const [from, at] = [this.pick(paths), this.pick(paths)]
    if (from === undefined || at === undefined) return
    const to = join(dirname(at), this.chance() < 0.6 ? basename(from) : `M${paths.length}${from.slice(-4)}`)
    if (paths.includes(to)) return
    this.tell(`${from} → ${to}`)
    await rename(this.#at(from), this.#at(to))
  }

  async #lose(): Promise<void> {
    const path = this.pick(await this.#onDrives())
    if (path === undefined) return
    this.tell(`${path} is lost`)
    await rm(this.#at(path))
  }

  async #swap(): Promise<void> {
    const paths = await this.#onDrives()
    const [one, other] = [this.pick(paths), this.pick(paths)]
    if (one === other || one === undefined || other === undefined || one.slice(-4) !== other.slice(-4)) return
    this.tell(`${one} and ${other} change places`)
    await rename(this.#at(one), this.#at(`${one}.between`))
    await rename(this.#at(other), this.#at(one))
    await rename(this.#at(`${one}.between`), this.#at(other))
  }

  #driveHere = async (): Promise<string | undefined> => {
    const here = await readdir(this.#base)
    return this.pick(driveNames.filter((label) => here.includes(label)))
  }

  /** A drive leaves, or the one that has left is back. */
  async #takeOut(): Promise<void> {
    const away = `${this.#base} away`
    await mkdir(away, { recursive: true })
    const [left] = await readdir(away)
    const label = left ?? this.pick(driveNames)
    this.tell(left ? `${label} is back` : `${label} leaves`)
    await (left ? rename(join(away, label), this.#at(label)) : rename(this.#at(label), join(away, label)))
    while ((await ennick.volume(this.#productionId, label))?.isHere !== (left !== undefined))
      await new Promise((resolve) => setTimeout(resolve, 50))
  }

  /** What cannot be scanned, as it is away or another card is in its place, is said by the job. */
  async #scan(label: string): Promise<void> {
    const { state, error } = await ennick.scan(this.#volumes.get(label) as string)
    if (state !== 'done' && !/is away|another card|Another/i.test(error ?? '')) this.fail(`scan of ${label}: ${error}`)
  }

  #scanOne = (): Promise<void> => this.#scan(this.pick([...this.#volumes.keys()]))

  async #offload(): Promise<void> {
    const [card, drive] = [this.pick(cardNames), this.pick(driveNames)]
    const folder = this.pick([card, 'K', 'day 1/K'])
    const before = await this.#disk()
    const { id } = await ennick.call('offloadVolume', {
      params: { volumeId: this.#volumes.get(card) as string },
      body: { destinationId: this.#volumes.get(drive), folder, hash: 'xxh64' },
    })
    const { state, error } = await ennick.waitForJob(id)
    this.tell(`${card} is offloaded to ${drive}/${folder}: ${error ?? state}`)
    if (state !== 'done') return
    const after = await this.#disk()
    for (const [path, content] of before)
      if (path.startsWith(`${card}/`) && after.get(join(drive, folder, path.slice(card.length + 1))) !== content)
        this.fail(`${path} is said to have been copied`)
  }

  async #compare(): Promise<void> {
    const label = this.pick([...this.#volumes.keys()])
    const { id } = await ennick.call('compareCopies', { params: { volumeId: this.#volumes.get(label) as string } })
    this.tell(`copies of ${label} are compared: ${(await ennick.waitForJob(id)).error ?? 'done'}`)
  }

  async #noteFormatted(): Promise<void> {
    const label = this.pick(cardNames)
    await ennick.call('noteFormatted', { params: { volumeId: this.#volumes.get(label) as string } })
    this.tell(`${label} is said to have been formatted`)
  }
}

const isOnDrive = (path: string): boolean => driveNames.some((drive) => path.startsWith(`${drive}/`))
