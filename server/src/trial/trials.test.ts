import { expect, test } from '@jest/globals'
import { DrivesByChance } from '../testing/drives-by-chance.ts'
import { partedEvents, partedHarness } from '../testing/parted-shelf.ts'

/**
 * Days on which a cut is mended in a trial and beside it, while people go on with the drives: of both has to be so what
 * is said; what is done in the one does not show in the other until it is kept, and nothing is left of a trial that is
 * thrown away.
 */
const shared = partedHarness()

test.each([604])('trials by the chance of seed %s: what is said is so', (seed) => new Trials(seed).walk())

interface Place {
  readonly productionId: string
  readonly cutId: string
}

class Trials extends DrivesByChance {
  #trial: Place | null = null

  constructor(seed: number) {
    super(seed, shared.ennick, shared.shelf, 'trials')
  }

  async walk(): Promise<void> {
    await this.begin('days.edl', `TITLE: Days\n${partedEvents.join('')}`)
    await this.#look()
    for (let step = 0; step < 30; step++) await this.#step()
  }

  async #step(): Promise<void> {
    if (this.chance() < 0.4) return this.pick(this.byPeople).call(this)
    const before = await this.disk()
    if (this.chance() < 0.3) await this.attempt(this.pick([this.#beginTrial, this.#keepTrial, this.#throwAway]))
    else {
      const act = this.pick(this.byEnnick)
      if (this.#trial && this.chance() < 0.6) await this.#inTrial(() => this.attempt(act))
      else await this.attempt(act)
    }
    expect(await this.disk()).toEqual(before)
    await this.#look()
  }

  async #look(): Promise<void> {
    const wrong = await this.lookAtAll()
    if (wrong.length > 0) this.fail(...wrong)
    const tried = (await this.#inTrial(() => this.lookAtAll())) ?? []
    if (tried.length > 0) this.fail('in the trial:', ...tried)
  }

  /** What is done there changes nothing of the production that is not looked at anew. */
  async #inTrial<T>(act: () => Promise<T>): Promise<T | undefined> {
    if (!this.#trial) return undefined
    const own: Place = { productionId: this.productionId, cutId: this.cutId }
    const before = await this.#links()
    this.tell('in the trial:')
    Object.assign(this, this.#trial)
    try {
      return await act()
    } finally {
      Object.assign(this, own)
      this.tell('out of the trial')
      if (before !== (await this.#links())) this.fail('the trial changed its production')
    }
  }

  /** Which files the clips of the production are on, and which clips its events. */
  async #links(): Promise<string> {
    const { events } = await this.ennick.call('readCut', { params: { cutId: this.cutId } })
    const clips = (await this.clips()).map(({ id, volumeLabel, path }) => `${id} ${volumeLabel}/${path}`)
    const mends = await this.ennick.call('listMends', { params: { productionId: this.productionId } })
    return JSON.stringify([clips.sort(), events.map(({ clipId }) => clipId), mends.map(({ id, state }) => [id, state])])
  }

  async #beginTrial(): Promise<void> {
    if (this.#trial) return
    const { productionId, cutId } = await this.ennick.call('beginTrial', { params: { cutId: this.cutId } })
    this.#trial = { productionId, cutId }
    this.tell('a trial is begun')
  }

  async #keepTrial(): Promise<void> {
    if (!this.#trial) return
    const { productionId } = this.#trial
    const kept = await this.ennick.call('keepTrial', { params: { productionId } })
    this.tell(`the trial is kept${kept.stays === null ? '' : `, and stays: ${kept.stays}`}`)
    if (kept.stays === null) this.#trial = null
  }

  async #throwAway(): Promise<void> {
    if (!this.#trial) return
    const before = await this.#links()
    await this.ennick.call('endTrial', { params: { productionId: this.#trial.productionId } })
    this.#trial = null
    this.tell('the trial is thrown away')
    if (before !== (await this.#links())) this.fail('throwing the trial away changed its production')
  }
}
