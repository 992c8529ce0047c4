import { copyFile, mkdir, readdir, readFile, rename, rm } from 'node:fs/promises'
import { basename, dirname, join, relative } from 'node:path'
import { afterAll, beforeAll, test } from '@jest/globals'
import { xxh64 } from '@node-rs/xxhash'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { WalkByChance } from '../testing/walk-by-chance.ts'

/**
 * Days on which people move, copy, swap, lose and write over what Ennick has made and what it was made of, and Ennick
 * makes, releases, unties, renames, points and takes back in between: it deletes and moves only what it has put there,
 * and what is said of a proxy is so.
 */
let ennick: Harness
let store: string
const shots = [1, 2, 3]
beforeAll(async () => {
  ennick = await startHarness({ looks: true })
  store = join(ennick.media, 'store')
  for (const shot of shots)
    for (const [delivery, more] of [
      ['first', 0],
      ['again', 20],
    ] as const)
      await makePicture(join(store, `${delivery} ${shot}.mov`), {
        ...{ timecode: `1${shot}:00:00:00`, reel: `R${shot}`, frames: 25, size: '320x180' },
        scene: { set: shot + more, movement: shot },
      })
})
afterAll(() => ennick.stop())

test.each([502, 601])('proxies by the chance of seed %s: nothing else is touched, what is said is so', async (seed) => {
  const proxies = new Proxies(seed)
  await proxies.begin()
  for (let step = 0; step < 20; step++) await proxies.step()
})

class Proxies extends WalkByChance {
  readonly #bay: string
  #made = ''
  /** What Ennick has put where, ever. */
  readonly #put = new Set<string>()
  /** Of what Ennick has made: of which clip, and of what content of its original. */
  readonly #madeOf = new Map<string, { clipId: string; original: string | undefined }>()
  /** What was written into files that Ennick had made. */
  readonly #writtenInto = new Set<string>()
  #productionId = ''
  #volumeId = ''

  constructor(seed: number) {
    super(seed)
    this.#bay = join(ennick.media, `bay ${seed}`)
  }

  async begin(): Promise<void> {
    this.#productionId = await ennick.addProduction(`Proxies ${this.seed}`)
    this.#made = (await ennick.madePlace(this.#productionId)).path
    await mkdir(this.#made, { recursive: true })
    await mkdir(this.#bay)
    for (const shot of shots) await copyFile(join(store, `first ${shot}.mov`), join(this.#bay, `C${shot}.mov`))
    this.#volumeId = await ennick.addVolume(this.#productionId, 'BAY', this.#bay)
    for (const { id } of await ennick.clips(this.#productionId)) await this.#makeOf(id)
    await this.#look()
  }

  async step(): Promise<void> {
    const byPeople = [
      ...[this.#moveMade, this.#moveMade, this.#swapMade, this.#copyMade, this.#copyMade, this.#loseMade],
      ...[this.#writeOver, this.#writeOver, this.#moveOriginal, this.#deliver],
    ]
    const byEnnick = [
      ...[this.#make, this.#make, this.#make, this.#release, this.#release, this.#untie, this.#rename],
      ...[this.#point, this.#takeBack, this.#accept],
    ]
    if (this.chance() < 0.5) await this.pick(byPeople).call(this)
    else await this.#byEnnick(this.pick(byEnnick))
    await this.#look()
  }

  /** What Ennick does may take away and change only what it has put there itself. */
  async #byEnnick(act: () => Promise<void>): Promise<void> {
    const before = await this.#disk()
    await this.attempt(act)
    const after = await this.#disk()
    const left = new Set(after.values())
    for (const [path, content] of before) {
      if (after.get(path) === content || this.#put.has(`${path} ${content}`)) continue
      // What somebody has written into a file of Ennick's goes where that goes, and comes back with it.
      if (!this.#writtenInto.has(content) || !left.has(content)) this.fail(`${path} was touched`)
    }
    for (const [path, content] of after) if (before.get(path) !== content) this.#put.add(`${path} ${content}`)
  }

  async #look(): Promise<void> {
    await this.#byEnnick(async () => {
      await ennick.scan(this.#volumeId)
      const { id } = await ennick.call('check', { params: { productionId: this.#productionId } })
      await ennick.waitForJob(id)
      await ennick.untilLooked(this.#productionId)
    })
    const disk = await this.#disk()
    const clips = new Map((await ennick.clips(this.#productionId)).map((clip) => [clip.id, clip]))
    for (const row of await this.#ledger())
      for (const pair of row.pairs) {
        const { madeFiles } = await ennick.call('readPair', { params: { pairId: pair.id } })
        const path = madeFiles[0]?.path ?? ''
        const content = disk.get(this.#nameOf(path))
        const of = this.#madeOf.get(content ?? '')
        const clip = clips.get(row.clipId)
        const original = disk.get(`bay/${clip?.path}`)
        const isRight = of?.clipId === row.clipId && of.original === original
        const said = `${pair.name} at ${this.#nameOf(path)}: ${pair.verdict} (${pair.why})`
        if (pair.verdict === 'proven' && !isRight) this.fail(said)
        if (isRight && !['proven', 'matched'].includes(pair.verdict)) this.fail(said)
      }
  }

  #nameOf(path: string): string {
    return path.startsWith(this.#bay) ? `bay/${relative(this.#bay, path)}` : `made/${relative(this.#made, path)}`
  }
  #at = (name: string): string =>
    name.startsWith('bay/') ? join(this.#bay, name.slice(4)) : join(this.#made, name.slice(5))

  /** Every file by its name, with a mark of what is in it. */
  async #disk(): Promise<Map<string, string>> {
    const found = new Map<string, string>()
    for (const root of [this.#bay, this.#made])
      for (const entry of await readdir(root, { recursive: true, withFileTypes: true })) {
        const path = join(entry.parentPath, entry.name)
        if (entry.isFile() && !entry.name.startsWith('.'))
          found.set(this.#nameOf(path), String(xxh64(await readFile(path))))
      }
    return new Map([...found].sort(([a], [b]) => (a < b ? -1 : 1)))
  }

  #names = async (where: 'bay' | 'made'): Promise<string[]> =>
    [...(await this.#disk()).keys()].filter((name) => name.startsWith(`${where}/`) && name.endsWith('.mov'))
  #ledger = () => ennick.call('listPairs', { params: { productionId: this.#productionId } })
  #pairs = async () => (await this.#ledger()).flatMap(({ pairs }) => pairs)

  async #moveMade(): Promise<void> {
    const names = await this.#names('made')
    const from = this.pick(names)
    if (from === undefined) return
    const to = join(dirname(from), this.chance() < 0.5 ? `moved ${names.length}.mov` : `aside/${basename(from)}`)
    if (names.includes(to)) return
    this.tell(`${from} → ${to}`)
    await mkdir(dirname(this.#at(to)), { recursive: true })
    await rename(this.#at(from), this.#at(to))
  }

  async #swapMade(): Promise<void> {
    const names = await this.#names('made')
    const [one, other] = [this.pick(names), this.pick(names)]
    if (one === undefined || other === undefined || one === other) return
    this.tell(`${one} and ${other} change places`)
    await rename(this.#at(one), `${this.#at(one)}.between`)
    await rename(this.#at(other), this.#at(one))
    await rename(`${this.#at(one)}.between`, this.#at(other))
  }

  async #copyMade(): Promise<void> {
    const from = this.pick(await this.#names('made'))
    if (from === undefined) return
    const to = this.pick([`bay/${basename(from)}`, join(dirname(from), `copy of ${basename(from)}`)])
    this.tell(`${to} is a copy of ${from}`)
    await copyFile(this.#at(from), this.#at(to))
  }

  async #loseMade(): Promise<void> {
    const name = this.pick(await this.#names('made'))
    if (name === undefined) return
    this.tell(`${name} is lost`)
    await rm(this.#at(name))
  }

  /** Something of somebody's gets the place of what was made, or a place where something may be made. */
  async #writeOver(): Promise<void> {
    const names = await this.#names('made')
    const name = this.pick(names)
    if (name === undefined) return
    const over = this.chance() < 0.6 ? name : join(dirname(name), `C${this.pick(shots)}_proxy.mov`)
    const with_ = this.pick([this.#at(this.pick(names)), join(store, `again ${this.pick(shots)}.mov`)])
    if (with_ === this.#at(over)) return
    const isInto = this.chance() < 0.5
    this.tell(`${basename(with_)} is written ${isInto ? 'into' : 'in place of'} ${over}`)
    if (isInto) this.#writtenInto.add(String(xxh64(await readFile(with_))))
    await copyFile(with_, this.#at(isInto ? over : `${over}.part`))
    if (!isInto) await rename(this.#at(`${over}.part`), this.#at(over))
  }

  async #moveOriginal(): Promise<void> {
    const from = this.pick((await this.#names('bay')).filter((name) => /^bay\/(.*\/)?[CN]\d\.mov$/.test(name)))
    if (from === undefined) return
    const to = `bay/${this.pick(['a', 'b'])}/${this.pick(['C', 'N'])}${from.at(-5)}.mov`
    if ((await this.#names('bay')).includes(to)) return
    this.tell(`${from} → ${to}`)
    await mkdir(dirname(this.#at(to)), { recursive: true })
    await rename(this.#at(from), this.#at(to))
  }

  async #deliver(): Promise<void> {
    const name = this.pick((await this.#names('bay')).filter((each) => /[CN]\d\.mov$/.test(each)))
    if (name === undefined) return
    const delivered = `${this.pick(['first', 'again'])} ${name.at(-5)}.mov`
    this.tell(`${delivered} is delivered at ${name}`)
    await copyFile(join(store, delivered), `${this.#at(name)}.part`)
    await rename(`${this.#at(name)}.part`, this.#at(name))
  }

  async #makeOf(clipId: string): Promise<void> {
    const clip = (await ennick.clips(this.#productionId)).find(({ id }) => id === clipId)
    const before = await this.#disk()
    const { jobs } = await ennick.call('make', {
      params: { productionId: this.#productionId },
      body: { clipIds: [clipId], recipeId: 'half-h264-intra' },
    })
    for (const { id } of jobs) {
      const { state, error } = await ennick.waitForJob(id)
      this.tell(`${clip?.name} is made: ${error ?? state}`)
    }
    for (const [name, content] of await this.#disk())
      if (before.get(name) !== content) {
        this.#put.add(`${name} ${content}`)
        this.#madeOf.set(content, { clipId, original: before.get(`bay/${clip?.path}`) })
      }
  }

  #make = async (): Promise<void> => this.#makeOf(this.pick(await ennick.clips(this.#productionId)).id)

  async #release(): Promise<void> {
    const pairIds = (await this.#pairs()).map(({ id }) => id)
    if (pairIds.length === 0) return
    const { released, kept } = await ennick.call('release', {
      params: { productionId: this.#productionId },
      body: { pairIds, apply: true },
    })
    this.tell(`released: ${released}, kept ${kept.map(({ name, reason }) => `${name}: ${reason}`).join(' ')}`)
  }

  async #untie(): Promise<void> {
    const pair = this.pick(await this.#pairs())
    if (!pair) return
    this.tell(`${pair.name} is untied`)
    await ennick.call('untiePair', { params: { pairId: pair.id } })
  }

  async #rename(): Promise<void> {
    const pairIds = (await this.#pairs()).map(({ id }) => id)
    if (pairIds.length === 0) return
    await ennick.call('renameMade', { params: { productionId: this.#productionId }, body: { pairIds } })
    this.tell(`called as today: ${(await this.#pairs()).map(({ name }) => name).join(', ')}`)
  }

  async #point(): Promise<void> {
    const { changes } = await ennick.call('repointMoved', { params: { volumeId: this.#volumeId } })
    this.tell(`pointed: ${changes.map(({ label }) => label).join(', ')}`)
  }

  async #takeBack(): Promise<void> {
    const mends = await ennick.call('listMends', { params: { productionId: this.#productionId } })
    const mend = this.pick(mends.filter(({ state }) => state === 'done'))
    if (!mend) return
    this.tell(`taken back: ${mend.title}`)
    await ennick.call('undoMend', { params: { mendId: mend.id } })
  }

  async #accept(): Promise<void> {
    const changed = (await ennick.clips(this.#productionId)).filter(({ notice }) => notice.includes('original changed'))
    const clip = this.pick(changed)
    if (!clip) return
    this.tell(`${clip.name} is accepted`)
    await ennick.call('acceptRedelivered', {
      params: { productionId: this.#productionId },
      body: { clipIds: [clip.id], reason: 'delivered again', apply: true },
    })
  }
}
