import { copyFile, mkdir, readdir, rename, rm, stat } from 'node:fs/promises'
import { basename, dirname, join, relative } from 'node:path'
import type { Clip, Mend } from '@ennick/contract'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { fingerprint } from '../disk/fingerprint.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { WalkByChance } from '../testing/walk-by-chance.ts'

/**
 * Days on which people move, copy, swap, lose and deliver again what lies on two drives, in any order, and Ennick scans,
 * points, accepts and takes back in between: whatever it says then of an original and of an event has to be so.
 */
let ennick: Harness
let store: string
/** The shots, each delivered a second time otherwise: by what their files are known by. */
const contents = new Map<string, string>()
const shots = [1, 2, 3, 4]
beforeAll(async () => {
  ennick = await startHarness()
  store = join(ennick.media, 'store')
  for (const shot of shots)
    for (const [delivery, more] of [
      ['first', 0],
      ['again', 20],
    ] as const) {
      const path = join(store, `${delivery} ${shot}.mov`)
      await makePicture(path, { seed: shot + more, timecode: `1${shot}:00:00:00`, reel: `R${shot}`, frames: 25 })
      contents.set(await contentAt(path), `${delivery} ${shot}`)
    }
})
afterAll(() => ennick.stop())

const contentAt = async (path: string) => fingerprint(path, (await stat(path)).size)

test.each([100, 102])('days by the chance of seed %s: what is said is so', async (seed) => {
  const days = new Days(seed)
  await days.begin()
  for (let step = 0; step < 30; step++) await days.step()
})

class Days extends WalkByChance {
  readonly #base: string
  /** What each clip is held to be: as it was first seen, or as it was accepted. */
  readonly #held = new Map<string, string | undefined>()
  /** What a clip was held to be before an acceptance. */
  readonly #before = new Map<string, { clipId: string; content: string | undefined }>()
  readonly #volumes = new Map<string, string>()
  #productionId = ''
  #cutId = ''

  constructor(seed: number) {
    super(seed)
    this.#base = join(ennick.media, `days ${seed}`)
  }

  async begin(): Promise<void> {
    this.#productionId = await ennick.addProduction(`Days ${this.seed}`)
    for (const drive of ['TIDE-1', 'TIDE-2']) await mkdir(join(this.#base, drive, 'a'), { recursive: true })
    for (const shot of shots)
      await copyFile(join(store, `first ${shot}.mov`), join(this.#base, 'TIDE-1', 'a', `C${shot}.mov`))
    for (const drive of ['TIDE-1', 'TIDE-2'])
      this.#volumes.set(drive, await ennick.addVolume(this.#productionId, drive, join(this.#base, drive)))
    const events = shots.map(
      (shot) =>
        `00${shot}  R${shot} V C 1${shot}:00:00:05 1${shot}:00:00:15 01:00:0${shot}:00 01:00:0${shot}:10\n` +
        `* FROM CLIP NAME: C${shot}.mov\n`,
    )
    const body = { fileName: 'days.edl', text: `TITLE: Days\n${events.join('')}` }
    this.#cutId = (await ennick.call('addCut', { params: { productionId: this.#productionId }, body })).id
    await this.#look()
  }

  async step(): Promise<void> {
    const [byPeople, byEnnick] = [
      [this.#moveFolder, this.#moveFile, this.#moveFile, this.#copy, this.#copy, this.#lose, this.#deliver, this.#swap],
      [this.#scan, this.#pointAtMoved, this.#pointAtMoved, this.#accept, this.#takeBack, this.#takeBack, this.#search],
    ]
    if (this.chance() < 0.45) return this.pick(byPeople).call(this)
    const before = await this.#disk()
    await this.attempt(this.pick(byEnnick))
    expect(await this.#disk()).toEqual(before)
    await this.#look()
  }

  /** What is said after everything was read once more, held against what lies there. */
  async #look(): Promise<void> {
    await this.#scan()
    const disk = await this.#disk()
    const clips = await this.#clips()
    const findings = await ennick.call('listFindings', { params: { cutId: this.#cutId } })
    const { events } = await ennick.call('readCut', { params: { cutId: this.#cutId } })
    const contentOf = (clip: Clip | undefined) => clip && disk.get(`${clip.volumeLabel}/${clip.path}`)
    const wrong = clips.flatMap((clip) => {
      const content = contentOf(clip)
      if (!this.#held.has(clip.id)) this.#held.set(clip.id, content)
      const isHeld = content !== undefined && content === this.#held.get(clip.id)
      const isTold = clip.notice.includes('original changed')
      // A file that two clips are of, once a repoint was taken back, is told of both.
      const isShared = clips.some((other) => other !== clip && contentOf(other) && other.path === clip.path)
      const place = `${clip.name} at ${clip.volumeLabel}/${clip.path}, ${content} for ${this.#held.get(clip.id)}`
      if (clip.presence === 'here' && !isHeld && !isTold) return [`${place}: is said to be as it was`]
      if (clip.presence === 'here' && isHeld && isTold && !isShared) return [`${place}: is said to have changed`]
      return clip.presence === 'gone' && isHeld ? [`${place}: is said to be gone`] : []
    })
    const blocked = findings.flatMap(({ severity, eventNumbers }) =>
      severity === 'blocks handoff' ? eventNumbers : [],
    )
    const unlike = events.flatMap(({ number, state, clipId }) => {
      const clip = clips.find(({ id }) => id === clipId)
      const content = contentOf(clip)
      if (state !== 'on original' || blocked.includes(number)) return []
      const isSo = content?.endsWith(String(Number(number))) && content === this.#held.get(clip?.id ?? '')
      return isSo ? [] : [`event ${number} is said to be on its original, and is on ${content}`]
    })
    if (wrong.length + unlike.length > 0) this.fail(...wrong, ...unlike)
  }

  async #disk(): Promise<Map<string, string>> {
    const files = new Map<string, string>()
    for (const entry of await readdir(this.#base, { recursive: true, withFileTypes: true }))
      if (entry.isFile() && entry.name.endsWith('.mov')) {
        const path = join(entry.parentPath, entry.name)
        files.set(relative(this.#base, path), contents.get(await contentAt(path)) ?? 'something else')
      }
    return new Map([...files].sort(([a], [b]) => (a < b ? -1 : 1)))
  }

  #place(name: string): string {
    return join(this.pick(['TIDE-1', 'TIDE-2']), this.pick(['a', 'b', 'c d', 'é']), name)
  }

  #at = (path: string): string => join(this.#base, path)
  #clips = () => ennick.clips(this.#productionId)

  async #moveFolder(): Promise<void> {
    const drive = this.pick(['TIDE-1', 'TIDE-2'])
    const entries = await readdir(this.#at(drive), { withFileTypes: true })
    const folders = entries.filter((entry) => entry.isDirectory()).map(({ name }) => name)
    const [from, to] = [this.pick(folders), this.pick(['a', 'b', 'c d', 'é', 'checked'])]
    if (from === undefined || folders.includes(to)) return
    this.tell(`folder ${drive}/${from} → ${to}`)
    await rename(this.#at(join(drive, from)), this.#at(join(drive, to)))
  }

  async #moveFile(): Promise<void> {
    const disk = await this.#disk()
    const from = this.pick([...disk.keys()])
    const to = this.#place(this.chance() < 0.7 ? basename(from) : `X${Math.floor(this.chance() * 9)}.mov`)
    if (disk.has(to)) return
    this.tell(`${from} → ${to}`)
    await mkdir(dirname(this.#at(to)), { recursive: true })
    await rename(this.#at(from), this.#at(to))
  }

  async #copy(): Promise<void> {
    const disk = await this.#disk()
    const from = this.pick([...disk.keys()])
    const to = this.#place(basename(from))
    if (disk.has(to)) return
    this.tell(`copy of ${from} at ${to}`)
    await mkdir(dirname(this.#at(to)), { recursive: true })
    await copyFile(this.#at(from), this.#at(to))
  }

  /** Of what there is more than one. */
  async #lose(): Promise<void> {
    const disk = [...(await this.#disk())]
    const [path, content] = this.pick(disk)
    if (disk.filter(([, other]) => other === content).length < 2) return
    this.tell(`${path} is lost`)
    await rm(this.#at(path))
  }

  /** A shot comes again under its name, or what it was comes back. */
  async #deliver(): Promise<void> {
    const [path, content] = this.pick([...(await this.#disk())])
    const delivered = `${this.pick(['first', 'again'])} ${content.at(-1)}`
    this.tell(`${delivered} at ${path}`)
    await copyFile(join(store, `${delivered}.mov`), this.#at(`${path}.part`))
    await rename(this.#at(`${path}.part`), this.#at(path))
  }

  async #swap(): Promise<void> {
    const paths = [...(await this.#disk()).keys()]
    const [one, other] = [this.pick(paths), this.pick(paths)]
    if (one === other) return
    this.tell(`${one} and ${other} change places`)
    await rename(this.#at(one), this.#at(`${one}.between`))
    await rename(this.#at(other), this.#at(one))
    await rename(this.#at(`${one}.between`), this.#at(other))
  }

  async #scan(): Promise<void> {
    for (const volumeId of this.#volumes.values()) expect((await ennick.scan(volumeId)).error).toBeNull()
  }

  async #pointAtMoved(): Promise<void> {
    await this.#scan()
    const volumeId = this.pick([...this.#volumes.values()])
    const { changes } = await ennick.call('repointMoved', { params: { volumeId } })
    this.tell(changes.map(({ label }) => label).join(', '))
  }

  async #accept(): Promise<void> {
    await this.#scan()
    const changed = (await this.#clips()).filter(({ notice }) => notice.includes('original changed'))
    const clip = this.pick(changed)
    if (!clip) return
    const { mend } = await ennick.call('acceptRedelivered', {
      params: { productionId: this.#productionId },
      body: { clipIds: [clip.id], reason: 'delivered again', apply: true },
    })
    this.#before.set(mend?.id ?? '', { clipId: clip.id, content: this.#held.get(clip.id) })
    this.#held.set(clip.id, (await this.#disk()).get(`${clip.volumeLabel}/${clip.path}`))
    this.tell(`${clip.name} is accepted`)
  }

  async #takeBack(): Promise<void> {
    const mends = await ennick.call('listMends', { params: { productionId: this.#productionId } })
    const mend: Mend | undefined = this.pick(mends.filter(({ state }) => state === 'done'))
    if (!mend) return
    await ennick.call('undoMend', { params: { mendId: mend.id } })
    const before = this.#before.get(mend.id)
    if (before) this.#held.set(before.clipId, before.content)
    this.tell(`taken back: ${mend.title}`)
  }

  async #search(): Promise<void> {
    const params = { cutId: this.#cutId }
    const { id } = await ennick.call('search', { params, body: { folder: this.#base, findingKeys: null } })
    await ennick.waitForJob(id)
    const { rows } = await ennick.call('readSearch', { params: { jobId: id } })
    const choices = rows.flatMap(({ wantedId, candidateId }) => (candidateId ? [{ wantedId, candidateId }] : []))
    if (choices.length === 0) return
    const { changes } = await ennick.call('repoint', { params, body: { searchJobId: id, choices } })
    this.tell(`found: ${changes.map(({ label }) => label).join(', ')}`)
  }
}
