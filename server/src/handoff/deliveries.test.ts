import { copyFile, mkdir, readFile, rm, writeFile } from 'node:fs/promises'
import { basename, dirname, join, relative } from 'node:path'
import { test } from '@jest/globals'
import { DrivesByChance } from '../testing/drives-by-chance.ts'
import { partedEvents, partedHarness } from '../testing/parted-shelf.ts'

/**
 * Days on which a cut is pulled, handed off, archived and put together again, while people go on with the drives, and
 * with what was copied: whatever is said of a copy has to be in it, and nothing that was there before is another after.
 */
const shared = partedHarness()

test.each([407, 412])('deliveries by the chance of seed %s: what is said to be in a copy is', (seed) =>
  new Deliveries(seed).walk(),
)

class Deliveries extends DrivesByChance {
  /** Where copies go: no volume of the production. */
  readonly #out: string
  #archives = 0

  constructor(seed: number) {
    super(seed, shared.ennick, shared.shelf, 'deliveries')
    this.#out = `${this.base}, copies`
  }

  async walk(): Promise<void> {
    await this.begin('days.edl', `TITLE: Days\n${partedEvents.join('')}`)
    await mkdir(this.#out)
    await this.#look()
    for (let step = 0; step < 30; step++) await this.#step()
    await this.attempt(this.#archiveAndRestore)
  }

  async #step(): Promise<void> {
    const byPeople = [...this.byPeople, this.#loseCopy, this.#writeOver, this.#writeOver, this.#putInTheWay]
    if (this.chance() < 0.45) return this.pick(byPeople).call(this)
    const byEnnick = [...this.byEnnick, this.#newVersion, this.#pull, this.#pull, this.#pull, this.#pullShort]
    const act = this.pick([...byEnnick, this.#handOff, this.#handOff, this.#archiveAndRestore])
    const [drives, out] = [await this.disk(), await this.disk(this.#out)]
    await this.attempt(act)
    for (const [before, after] of [
      [drives, await this.disk()],
      [out, await this.disk(this.#out)],
    ] as const)
      for (const [path, content] of before) if (after.get(path) !== content) this.fail(`${path} was ${content}`)
    if (this.chance() < 0.5) await this.#look()
  }

  async #look(): Promise<void> {
    const wrong = await this.lookAtAll()
    if (wrong.length > 0) this.fail(...wrong)
  }

  /** One of the files that were copied. */
  async #someCopy(): Promise<string | undefined> {
    const paths = [...(await this.disk(this.#out)).keys()]
    return this.pick(paths.filter((path) => this.shelf.shots.some(({ files }) => files.includes(basename(path)))))
  }

  async #loseCopy(): Promise<void> {
    const path = await this.#someCopy()
    if (path === undefined) return
    this.tell(`the copy ${path} is lost`)
    await rm(join(this.#out, path))
  }

  /** A copy gets what its original was, or is, or something that is nothing. */
  async #writeOver(): Promise<void> {
    const path = await this.#someCopy()
    if (path === undefined) return
    const delivery = this.pick([...this.shelf.deliveries, 'none'])
    this.tell(`the copy ${path} is written over with ${delivery}`)
    if (delivery === 'none') await writeFile(join(this.#out, path), `nothing ${this.chance()}`)
    else await copyFile(join(this.shelf.folder, delivery, basename(path)), join(this.#out, path))
  }

  /** Something lies where a copy would go. */
  async #putInTheWay(): Promise<void> {
    const [path] = this.pick([...(await this.disk())])
    const place = join(this.#out, 'Room', path)
    await mkdir(dirname(place), { recursive: true })
    await writeFile(place, 'theirs', { flag: 'wx' }).then(
      () => this.tell(`something lies at ${relative(this.base, place)}`),
      () => undefined,
    )
  }

  async #newVersion(): Promise<void> {
    const events = partedEvents.filter(() => this.chance() < 0.8)
    const { id } = await this.ennick.call('addCut', {
      params: { productionId: this.productionId },
      body: { fileName: 'days.edl', text: `TITLE: Days\n${events.join('')}`, nextOf: this.cutId },
    })
    this.cutId = id
    this.tell(`a version of ${events.length} events`)
  }

  /** What each event needs, as its clip is held to be; nothing where it is on no original. */
  async #needed(): Promise<Map<string, readonly string[]>> {
    const { events } = await this.ennick.call('readCut', { params: { cutId: this.cutId } })
    return new Map(
      events.map(({ number, clipId }) => {
        const held = this.held.get(clipId ?? '')
        const needs = this.shelf.shots[Number(number) - 1]?.needs
        return [number, held ? held.filter((each) => needs?.some((name) => each.endsWith(name)) ?? true) : ['unknown']]
      }),
    )
  }

  async #pull(): Promise<void> {
    const params = { cutId: this.cutId }
    const body = { of: 'originals', folder: this.#out, name: 'Room' } as const
    const { state, error } = await this.ennick.waitForJob((await this.ennick.call('pull', { params, body })).id)
    this.tell(`pull: ${error ?? state}`)
    const [newest] = await this.ennick.call('listPulls', { params })
    const outcome = newest?.outcome
    if (!outcome) return
    const room = await this.disk(join(this.#out, 'Room'))
    const there = new Set(room.values())
    const needed = await this.#needed()
    const covered = [...needed].filter(([, contents]) => contents.every((content) => there.has(content)))
    if (outcome.events.covered > covered.length)
      this.fail(`${outcome.events.covered} events are said to be covered, and ${covered.map(([number]) => number)} are`)
    if (state === 'done' && outcome.outstandingCount === 0) {
      if (outcome.events.covered < needed.size) this.fail('nothing is outstanding, and events are not covered')
      const list = await readFile(join(this.#out, 'Room', outcome.lists, 'Days, online.edl'), 'utf8')
      await this.#lookAtList(list, await this.disk(this.#out), this.#out)
    }
  }

  async #pullShort(): Promise<void> {
    const params = { cutId: this.cutId }
    const body = { of: 'originals', folder: this.#out, name: 'Short', handles: 2 } as const
    const { state, error } = await this.ennick.waitForJob((await this.ennick.call('pull', { params, body })).id)
    this.tell(`pull of stretches: ${error ?? state}`)
  }

  async #handOff(): Promise<void> {
    const { folder } = await this.ennick.call('handOff', { params: { cutId: this.cutId } })
    this.tell('handed off')
    await this.#lookAtList(await readFile(join(folder, 'Days, online.edl'), 'utf8'), await this.disk(), this.base)
  }

  /** Whether each event of a list names a file that is what it means. */
  async #lookAtList(list: string, disk: ReadonlyMap<string, string>, root: string): Promise<void> {
    const needed = await this.#needed()
    let number = ''
    for (const line of list.split('\n')) {
      number = /^\d{3}/.exec(line)?.[0] ?? number
      const path = /^\* SOURCE FILE: (.*)$/.exec(line)?.[1]
      if (path === undefined) continue
      const content = disk.get(relative(root, path)) ?? 'nothing'
      if (!needed.get(number)?.includes(content))
        this.fail(`event ${number} is said to be at ${path}, where ${content} lies, of ${needed.get(number)}`)
    }
  }

  async #archiveAndRestore(): Promise<void> {
    const name = `Archive ${++this.#archives}`
    const params = { productionId: this.productionId }
    const job = await this.ennick.call('archive', { params, body: { folder: this.#out, name, hash: 'xxh64' } })
    const { state, error } = await this.ennick.waitForJob(job.id)
    this.tell(`${name}: ${error ?? state}`)
    const [archive] = await this.ennick.call('listArchives', { params })
    if (state !== 'done' || !archive?.outcome) return
    const there = new Set((await this.disk(join(this.#out, name))).values())
    const out = new Set(archive.outcome.outstanding.map((each) => each.name))
    for (const clip of await this.clips())
      for (const content of this.held.get(clip.id) ?? [])
        if (!there.has(content) && ![...out].some((each) => clip.title === each || clip.name === each))
          this.fail(`${clip.title}: ${content} is said to be in ${name} (outstanding: ${[...out].join(', ')})`)
    const restored = await this.ennick.call('restore', {
      body: { folder: join(this.#out, name), name: `${basename(this.base)} ${name}`, verifies: true },
    })
    await this.ennick.waitForJob(restored.job.id)
    const outcome = (await this.ennick.call('readRestore', { params: { productionId: restored.productionId } }))
      ?.outcome
    this.tell(`restored: ${JSON.stringify(outcome?.cuts)} ${JSON.stringify(outcome?.trouble)}`)
    const needed = await this.#needed()
    const covered = [...needed.values()].filter((contents) => contents.every((content) => there.has(content))).length
    const onOriginal = outcome?.cuts.at(-1)?.onOriginal ?? 0
    if (outcome?.lacksCount !== archive.outcome.outstandingCount) this.fail('what it lacks is not said')
    if (onOriginal > covered) this.fail(`${onOriginal} events are said to be on their originals, and ${covered} are`)
  }
}
