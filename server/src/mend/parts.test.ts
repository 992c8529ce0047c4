import { expect, test } from '@jest/globals'
import { DrivesByChance } from '../testing/drives-by-chance.ts'
import { partedEvents, partedHarness, partedShots } from '../testing/parted-shelf.ts'

/**
 * Days with clips of several files, a take over two, a recording with a file for each track, MXF OP-Atom and numbered
 * stills: they are moved, copied, lost and delivered again, whole or some of them, and Ennick scans, points, accepts and
 * takes back in between. Whatever it says then of a clip, of each of its files, and of an event has to be so.
 */
const shared = partedHarness()

test.each([303, 320])('parts by the chance of seed %s: what is said is so', (seed) => new Parts(seed).walk())

class Parts extends DrivesByChance {
  constructor(seed: number) {
    super(seed, shared.ennick, shared.shelf, 'parts')
  }

  async walk(): Promise<void> {
    await this.begin('parts.edl', `TITLE: Parts\n${partedEvents.join('')}`)
    expect((await this.readyEvents()).map(({ number }) => number).sort()).toEqual(
      partedShots.map((_, index) => `00${index + 1}`),
    )
    await this.#look()
    for (let step = 0; step < 30; step++) await this.#step()
  }

  async #step(): Promise<void> {
    if (this.chance() < 0.45) return this.pick(this.byPeople).call(this)
    const before = await this.disk()
    await this.attempt(this.pick(this.byEnnick))
    expect(await this.disk()).toEqual(before)
    await this.#look()
  }

  async #look(): Promise<void> {
    const wrong = await this.lookAtAll()
    if (wrong.length > 0) this.fail(...wrong)
  }
}
