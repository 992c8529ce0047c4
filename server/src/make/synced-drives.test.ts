import { join } from 'node:path'
import { builtInRecipes } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { speech } from '../../../core/src/testing/sounds.ts'
import { DrivesByChance, readShelf, type Shelf, type Shot } from '../testing/drives-by-chance.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makeRecording, makeShot } from '../testing/media.ts'

/**
 * Days on which pictures are synced with recordings, and proxies made of both, while all of it is moved, copied, lost
 * and delivered again: no sync is said to hold for what was not synced, and no proxy to be one of what is not in it.
 */
const rate = 48_000
const shots: readonly Shot[] = ['P.mov', 'Q.mov', 'R.wav'].map((name) => ({ files: [name], needs: [name] }))
/** A take of two files. */
const take: Shot = { files: ['S_1.wav', 'S_2.wav'], needs: ['S_1.wav', 'S_2.wav'] }
const events = ['10:00:02:05 10:00:02:15 P.mov', '11:00:02:05 11:00:02:15 Q.mov', '10:00:00:05 10:00:00:15 R.wav']
let ennick: Harness
let shelf: Shelf
let recipeId: string
beforeAll(async () => {
  ennick = await startHarness()
  const folder = join(ennick.media, 'store')
  const deliveries = ['first', 'again']
  for (const [again, delivery] of deliveries.entries()) {
    const at = (name: string) => join(folder, delivery, name)
    const sound = (seed: number) => speech(4, rate, seed + 10 * again)
    await makeShot(at('P.mov'), sound(1).slice(0, rate), { timecode: '10:00:02:00', reel: 'RP' })
    await makeShot(at('Q.mov'), sound(2).slice(0, rate), { timecode: '11:00:02:00', reel: 'RQ' })
    // What is delivered again begins half a second later: a sync with the first is none with this.
    const timeReference = (hours: number) => hours * 3600 * rate + (again * rate) / 2
    await makeRecording(at('R.wav'), [sound(3)], { timeReference: timeReference(10) })
    for (const track of [1, 2])
      await makeRecording(at(`S_${track}.wav`), [sound(3 + track)], { timeReference: timeReference(11) })
  }
  shelf = await readShelf(folder, deliveries, [...shots, take])
  const [{ id: _, version: __, ...half }] = builtInRecipes as [(typeof builtInRecipes)[number]]
  const draft = { ...half, name: 'Half size, with sound', syncedSound: true, suffix: '_synced' }
  recipeId = (await ennick.call('addRecipe', { body: draft })).id
})
afterAll(() => ennick.stop())

test.each([904])('synced pictures by the chance of seed %s: what is said is so', (seed) =>
  new SyncedDrives(seed).walk(),
)

/** What lies there for a picture and its recording; null where some of it does not. */
type Contents = string | null

class SyncedDrives extends DrivesByChance {
  /** What each picture and its recording held when they were synced, by the picture's clip. */
  #synced: ReadonlyMap<string, Contents> = new Map()
  readonly #before: ReadonlyMap<string, Contents>[] = []
  /** What they held when each pair was made. */
  readonly #madeOf = new Map<string, Contents>()

  constructor(seed: number) {
    super(seed, ennick, shelf, 'synced')
  }

  async walk(): Promise<void> {
    const line = (event: string, index: number): string => {
      const [start, end, name] = event.split(' ')
      const record = `01:00:0${index}:00 01:00:0${index}:10`
      return `00${index + 1}  AX A C ${start} ${end} ${record}\n* FROM CLIP NAME: ${name}\n`
    }
    await this.begin('days.edl', `TITLE: Days\n${events.map(line).join('')}`)
    await this.#sync()
    await this.#make()
    await this.#look()
    for (let step = 0; step < 40; step++) await this.#step()
  }

  async #step(): Promise<void> {
    if (this.chance() < 0.45) return this.pick(this.byPeople).call(this)
    const before = await this.disk()
    const own = [this.#sync, this.#sync, this.#undo, this.#make, this.#make]
    await this.attempt(this.pick([...this.byEnnick, ...own]))
    expect(await this.disk()).toEqual(before)
    await this.#look()
  }

  #params = () => ({ params: { productionId: this.productionId } })
  #ledger = () => this.ennick.call('listPairs', this.#params())

  /** What lies there now for each picture that has a recording, and for it. */
  async #contents(): Promise<Map<string, Contents>> {
    const { lying } = await this.lookAtClips()
    const contents = new Map<string, Contents>()
    for (const { id, kind } of await this.clips()) {
      const { syncedSound } = await this.ennick.call('readClip', { params: { clipId: id } })
      if (kind !== 'picture' || !syncedSound) continue
      const all = [id, ...syncedSound.recordings.map(({ clipId }) => clipId)].flatMap((each) => lying.get(each) ?? '')
      contents.set(id, all.includes('') || syncedSound.missing ? null : all.join())
    }
    return contents
  }

  async #sync(): Promise<void> {
    await this.scan()
    const body = { clipIds: [], apply: true, cameraSound: this.pick(['muted', 'dropped'] as const) }
    const { synced, changes } = await this.ennick.call('syncSound', { ...this.#params(), body })
    this.tell(`synced: ${synced.map(({ name, names, offset }) => `${name} with ${names} at ${offset}`).join('; ')}`)
    if (changes === 0) return
    const now = await this.#contents()
    this.#before.push(this.#synced)
    this.#synced = new Map([...this.#synced, ...synced.map(({ clipId }) => [clipId, now.get(clipId) ?? null] as const)])
  }

  async #undo(): Promise<void> {
    await this.ennick.call('undoEdit', this.#params())
    this.tell('an edit is taken back')
    this.#synced = this.#before.pop() ?? new Map()
  }

  async #make(): Promise<void> {
    await this.scan()
    const clipIds = (await this.clips()).filter(({ kind }) => kind === 'picture').map(({ id }) => id)
    const now = await this.#contents()
    const known = new Set((await this.#ledger()).flatMap(({ pairs }) => pairs.map(({ id }) => id)))
    const { jobs } = await this.ennick.call('make', { ...this.#params(), body: { clipIds, recipeId } })
    for (const { id } of jobs) {
      const { state, error } = await this.ennick.waitForJob(id)
      this.tell(`make: ${error ?? state}`)
    }
    const wrong: string[] = []
    for (const { clipId, pairs } of await this.#ledger())
      for (const { id, name } of pairs.filter(({ id }) => !known.has(id))) {
        const lies = now.get(clipId)
        this.#madeOf.set(id, lies ?? null)
        // A clip without a recording has its own sound.
        const wasSynced = this.#synced.get(clipId)
        if (wasSynced != null && lies !== wasSynced)
          wrong.push(`${name} was made with ${lies}, and what was synced is ${wasSynced}`)
      }
    if (wrong.length > 0) this.fail(...wrong)
  }

  async #look(): Promise<void> {
    const wrong = await this.lookAtAll()
    const now = await this.#contents()
    const ready = new Set((await this.readyEvents()).map(({ clipId }) => clipId))
    for (const { id, name, notice } of await this.clips()) {
      const [is, was] = [now.get(id), this.#synced.get(id)]
      if (is == null || was == null) continue
      const isTold = notice.includes('stale sync')
      if (is !== was && !isTold) wrong.push(`${name} is said to be in sync: of ${was}, and ${is} lies there`)
      if (is === was && isTold) wrong.push(`${name} is said to be out of sync, and ${is} was synced`)
      if (is !== was && ready.has(id)) wrong.push(`the sound of ${name} is said to be ready: ${was}, and ${is}`)
    }
    for (const { clipId, pairs } of await this.#ledger())
      for (const { id, name, verdict } of pairs) {
        const [is, was] = [now.get(clipId), this.#madeOf.get(id)]
        if (is != null && was != null && is !== was && ['proven', 'matched'].includes(verdict))
          wrong.push(`${name} is said to be ${verdict}: it was made of ${was}, and ${is} lies there`)
      }
    if (wrong.length > 0) this.fail(...wrong)
  }
}
