import { expect, test } from '@jest/globals'
import { DrivesByChance } from '../testing/drives-by-chance.ts'
import { partedEvents, partedHarness } from '../testing/parted-shelf.ts'

/**
 * Days on which proxies are made of clips of several files, while these are moved, copied, lost and delivered again,
 * whole or some of them: no proxy is said to be one of what lies there, but of what it was made of.
 */
const shared = partedHarness()

test.each([700])('proxies of parted clips by the chance of seed %s: what is said is so', (seed) =>
  new PartedProxies(seed).walk(),
)

class PartedProxies extends DrivesByChance {
  /** What the files of its clip held when each pair was made. */
  readonly #madeOf = new Map<string, string>()

  constructor(seed: number) {
    super(seed, shared.ennick, shared.shelf, 'proxies')
  }

  async walk(): Promise<void> {
    await this.begin('days.edl', `TITLE: Days\n${partedEvents.join('')}`)
    await this.#make()
    await this.#look()
    for (let step = 0; step < 30; step++) await this.#step()
  }

  async #step(): Promise<void> {
    if (this.chance() < 0.45) return this.pick(this.byPeople).call(this)
    const before = await this.disk()
    await this.attempt(this.pick([...this.byEnnick, this.#make, this.#make, this.#check]))
    expect(await this.disk()).toEqual(before)
    await this.#look()
  }

  #ledger = () => this.ennick.call('listPairs', { params: { productionId: this.productionId } })

  async #make(): Promise<void> {
    await this.scan()
    const clipIds = (await this.clips()).filter(({ kind }) => kind === 'picture').map(({ id }) => id)
    const { lying } = await this.lookAtClips()
    const known = new Set((await this.#ledger()).flatMap(({ pairs }) => pairs.map(({ id }) => id)))
    const params = { productionId: this.productionId }
    const { jobs } = await this.ennick.call('make', { params, body: { clipIds, recipeId: 'half-h264-intra' } })
    for (const { id } of jobs) {
      const { state, error } = await this.ennick.waitForJob(id)
      this.tell(`make: ${error ?? state}`)
    }
    for (const { clipId, pairs } of await this.#ledger())
      for (const { id } of pairs) if (!known.has(id)) this.#madeOf.set(id, (lying.get(clipId) ?? []).join())
  }

  async #check(): Promise<void> {
    const { id } = await this.ennick.call('check', { params: { productionId: this.productionId } })
    this.tell(`check: ${(await this.ennick.waitForJob(id)).error ?? 'done'}`)
  }

  async #look(): Promise<void> {
    const wrong = await this.lookAtAll()
    const { lying } = await this.lookAtClips()
    for (const { clipId, pairs } of await this.#ledger())
      for (const { id, name, verdict } of pairs) {
        const [lies, madeOf] = [(lying.get(clipId) ?? []).join(), this.#madeOf.get(id)]
        const isOf = lies === madeOf
        if (['proven', 'matched'].includes(verdict) && !isOf)
          wrong.push(`${name} is said to be ${verdict}: it was made of ${madeOf}, and ${lies} is there`)
        if (isOf && !['proven', 'matched', 'unchecked'].includes(verdict))
          wrong.push(`${name} is said to be ${verdict}, and is of what is there: ${lies}`)
      }
    if (wrong.length > 0) this.fail(...wrong)
  }
}
