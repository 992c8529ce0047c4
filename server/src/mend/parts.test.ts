import { appendFile, copyFile, mkdir, readdir, rename, rm, stat } from 'node:fs/promises'
import { basename, dirname, join, relative } from 'node:path'
import type { ClipDetail, Mend } from '@ennick/contract'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { fingerprint } from '../disk/fingerprint.ts'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeRecording, makeTrackSet } from '../testing/media.ts'
import { WalkByChance } from '../testing/walk-by-chance.ts'

/**
 * Days with clips of several files, a take over two, a recording with a file for each track, MXF OP-Atom and numbered
 * stills: they are moved, copied, lost and delivered again, whole or some of them, and Ennick scans, points, accepts and
 * takes back in between. Whatever it says then of a clip, of each of its files, and of an event has to be so.
 */
let ennick: Harness
let store: string
/** What each file holds: its delivery, and its name. */
const contents = new Map<string, string>()
const deliveries = ['first', 'again'] as const

const stills = [1, 2, 3, 4, 5, 6].map((number) => `P.000${number}.png`)
/**
 * What is delivered, file by file; an event is made of each, in order, and needs these of its files: of stills all, as
 * they are held to be.
 */
const shots = [
  { files: ['A_001.mov', 'A_002.mov'], needs: ['A_002.mov'] },
  { files: ['T04_1.wav', 'T04_2.wav'], needs: ['T04_1.wav', 'T04_2.wav'] },
  { files: ['M_V1.mxf', 'M_A1.mxf'], needs: ['M_V1.mxf'] },
  { files: stills, needs: null },
  { files: ['C.mov'], needs: ['C.mov'] },
]
const events = [
  '001  RA V C 10:00:01:05 10:00:01:15 01:00:01:00 01:00:01:10\n* FROM CLIP NAME: A.mov\n',
  '002  AX A C 11:00:00:05 11:00:00:15 01:00:02:00 01:00:02:10\n* FROM CLIP NAME: T04.wav\n',
  '003  RM V C 12:00:00:05 12:00:00:15 01:00:03:00 01:00:03:10\n* FROM CLIP NAME: M\n',
  '004  AX V C 00:00:00:02 00:00:00:04 01:00:04:00 01:00:04:02\n* FROM CLIP NAME: P.####.png\n',
  '005  RC V C 13:00:00:05 13:00:00:15 01:00:05:00 01:00:05:10\n* FROM CLIP NAME: C.mov\n',
]

beforeAll(async () => {
  ennick = await startHarness()
  store = join(ennick.media, 'store')
  for (const [seed, delivery] of deliveries.entries()) {
    const folder = join(store, delivery)
    for (const [part, timecode] of ['10:00:00:00', '10:00:01:00'].entries())
      await makePicture(join(folder, `A_00${part + 1}.mov`), {
        seed: seed + 2 * part,
        timecode,
        reel: 'RA',
        frames: 25,
      })
    await makePicture(join(folder, 'C.mov'), { seed: seed + 9, timecode: '13:00:00:00', reel: 'RC', frames: 25 })
    for (const track of [1, 2]) {
      const tone = Float32Array.from({ length: 48_000 }, (_, at) => Math.sin((at * (track + 5 * seed)) / 20) / 4)
      await makeRecording(join(folder, `T04_${track}.wav`), [tone], { timeReference: 11 * 3600 * 48_000 })
    }
    await makeTrackSet(join(folder, 'M'), {
      ...{ tones: [300 + seed], timecode: '12:00:00:00', reel: 'RM', name: 'M', size: seed ? '320x180' : '640x360' },
    })
    const source = `testsrc2=s=320x180:r=25:d=0.24,hue=h=${90 * seed}`
    const stills = ['-v', 'error', '-f', 'lavfi', '-i', source, join(folder, 'P.%04d.png')]
    expect(await run('ffmpeg', stills)).toMatchObject({ exitCode: 0 })
    await padToOneSize(folder, ['A_001.mov', 'A_002.mov'])
    for (const name of shots.flatMap(({ files }) => files))
      contents.set(await contentAt(join(folder, name)), `${delivery} ${name}`)
  }
})
afterAll(() => ennick.stop())

/** As files are that a camera ended at a limit. */
async function padToOneSize(folder: string, names: readonly string[]): Promise<void> {
  const sizes = await Promise.all(names.map(async (name) => (await stat(join(folder, name))).size))
  for (const [index, name] of names.entries()) {
    const padding = Buffer.alloc(Math.max(...sizes) + 64 - (sizes[index] as number))
    padding.writeUInt32BE(padding.length)
    padding.write('free', 4, 'latin1')
    await appendFile(join(folder, name), padding)
  }
}

const contentAt = async (path: string) => fingerprint(path, (await stat(path)).size)

test.each([303, 320])('parts by the chance of seed %s: what is said is so', async (seed) => {
  const days = new Parts(seed)
  await days.begin()
  for (let step = 0; step < 30; step++) await days.step()
})

class Parts extends WalkByChance {
  readonly #base: string
  /** What the files of each clip are held to be: as they were first seen, or as they were accepted. */
  readonly #held = new Map<string, readonly string[]>()
  /** What a clip was held to be before an acceptance. */
  readonly #before = new Map<string, { clipId: string; held: readonly string[] }>()
  readonly #volumes = new Map<string, string>()
  #productionId = ''
  #cutId = ''

  constructor(seed: number) {
    super(seed)
    this.#base = join(ennick.media, `parts ${seed}`)
  }

  async begin(): Promise<void> {
    this.#productionId = await ennick.addProduction(`Parts ${this.seed}`)
    for (const drive of ['TIDE-1', 'TIDE-2']) await mkdir(join(this.#base, drive, 'a'), { recursive: true })
    for (const { files } of shots)
      for (const name of files) await copyFile(join(store, 'first', name), join(this.#base, 'TIDE-1', 'a', name))
    for (const drive of ['TIDE-1', 'TIDE-2'])
      this.#volumes.set(drive, await ennick.addVolume(this.#productionId, drive, join(this.#base, drive)))
    const body = { fileName: 'parts.edl', text: `TITLE: Parts\n${events.join('')}` }
    this.#cutId = (await ennick.call('addCut', { params: { productionId: this.#productionId }, body })).id
    const { events: landed } = await ennick.call('readCut', { params: { cutId: this.#cutId } })
    expect(landed.map(({ number, state }) => `${number} ${state}`).sort()).toEqual(
      shots.map((_, index) => `00${index + 1} on original`),
    )
    await this.#look()
  }

  async step(): Promise<void> {
    const [byPeople, byEnnick] = [
      [this.#moveFolder, this.#move, this.#move, this.#copy, this.#copy, this.#lose, this.#deliver, this.#swap],
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
    const contentOf = ({ path }: ClipDetail['files'][number]): string[] =>
      numberedPaths(relative(this.#base, path)).map((each) => disk.get(each) ?? '')
    const lying = new Map<string, readonly string[]>()
    const wrong: string[] = []
    for (const clip of clips) {
      const { files } = await ennick.call('readClip', { params: { clipId: clip.id } })
      const lies = files.flatMap(contentOf)
      lying.set(clip.id, lies)
      const isTold = clip.notice.includes('original changed')
      // A clip that is made of a file which has changed is told of that from the beginning.
      if (this.#held.get(clip.id)?.length !== lies.length && !isTold) this.#held.set(clip.id, lies)
      const held = this.#held.get(clip.id)
      if (held?.length !== lies.length) continue
      const isHeld = lies.join() === held.join()
      const isShared = clips.some((other) => other !== clip && other.path === clip.path)
      const place = `${clip.name} at ${clip.volumeLabel}/${clip.path}: ${lies.join(', ')} for ${held.join(', ')}`
      if (clip.presence === 'here' && !isHeld && !isTold) wrong.push(`${place}: is said to be as it was`)
      if (clip.presence === 'here' && isHeld && isTold && !isShared) wrong.push(`${place}: is said to have changed`)
      if (clip.presence === 'gone' && isHeld) wrong.push(`${place}: is said to be gone`)
    }
    const blocked = findings.flatMap(({ severity, eventNumbers }) =>
      severity === 'blocks handoff' ? eventNumbers : [],
    )
    for (const { number, state, clipId } of events) {
      if (state !== 'on original' || blocked.includes(number)) continue
      const [lies, held] = [lying.get(clipId ?? '') ?? [], this.#held.get(clipId ?? '') ?? []]
      const needs = shots[Number(number) - 1]?.needs
      const isSo = needs
        ? needs.every((name) => lies.some((lie, at) => lie.endsWith(` ${name}`) && lie === held[at]))
        : lies.join() === held.join()
      if (!isSo) wrong.push(`event ${number} is said to be on its original, and is on ${lies.join(', ')}`)
    }
    if (wrong.length > 0) this.fail(...wrong)
  }

  async #disk(): Promise<Map<string, string>> {
    const files = new Map<string, string>()
    for (const entry of await readdir(this.#base, { recursive: true, withFileTypes: true }))
      if (entry.isFile() && !entry.name.startsWith('.')) {
        const path = join(entry.parentPath, entry.name)
        files.set(relative(this.#base, path), contents.get(await contentAt(path)) ?? 'something else')
      }
    return new Map([...files].sort(([a], [b]) => (a < b ? -1 : 1)))
  }

  #at = (path: string): string => join(this.#base, path)
  #clips = () => ennick.clips(this.#productionId)

  /** Some files of one folder that belong together, or only a part of them. */
  async #some(): Promise<{ folder: string; names: string[] } | null> {
    const disk = [...(await this.#disk()).keys()]
    const { files } = this.pick(shots)
    const folders = [...new Set(disk.filter((path) => files.includes(basename(path))).map(dirname))]
    const folder = this.pick(folders)
    if (folder === undefined) return null
    const there = files.filter((name) => disk.includes(join(folder, name)))
    return { folder, names: this.chance() < 0.6 ? there : there.filter(() => this.chance() < 0.5) }
  }

  #folder = (): string => join(this.pick(['TIDE-1', 'TIDE-2']), this.pick(['a', 'b', 'c d', 'é']))

  async #moveFolder(): Promise<void> {
    const drive = this.pick(['TIDE-1', 'TIDE-2'])
    const entries = await readdir(this.#at(drive), { withFileTypes: true })
    const folders = entries.filter((entry) => entry.isDirectory()).map(({ name }) => name)
    const [from, to] = [this.pick(folders), this.pick(['a', 'b', 'c d', 'é', 'checked'])]
    if (from === undefined || folders.includes(to)) return
    this.tell(`folder ${drive}/${from} → ${to}`)
    await rename(this.#at(join(drive, from)), this.#at(join(drive, to)))
  }

  #move = (): Promise<void> => this.#bring('→', rename)
  #copy = (): Promise<void> => this.#bring('is copied to', copyFile)

  async #bring(word: string, bring: (from: string, to: string) => Promise<void>): Promise<void> {
    const some = await this.#some()
    if (!some) return
    const to = this.#folder()
    const disk = await this.#disk()
    await mkdir(this.#at(to), { recursive: true })
    for (const name of some.names) {
      if (disk.has(join(to, name))) continue
      this.tell(`${some.folder}/${name} ${word} ${to}`)
      await bring(this.#at(join(some.folder, name)), this.#at(join(to, name)))
    }
  }

  /** Of what there is more than one. */
  async #lose(): Promise<void> {
    const some = await this.#some()
    for (const name of some?.names ?? []) {
      const disk = await this.#disk()
      const path = join(some?.folder ?? '', name)
      if ([...disk.values()].filter((content) => content === disk.get(path)).length < 2) continue
      this.tell(`${path} is lost`)
      await rm(this.#at(path))
    }
  }

  /** Files come again under their names, or what they were comes back. */
  async #deliver(): Promise<void> {
    const some = await this.#some()
    const delivery = this.pick(deliveries)
    for (const name of some?.names ?? []) {
      const path = join(some?.folder ?? '', name)
      this.tell(`${delivery} ${name} at ${path}`)
      await copyFile(join(store, delivery, name), this.#at(`${path}.part`))
      await rename(this.#at(`${path}.part`), this.#at(path))
    }
  }

  async #swap(): Promise<void> {
    const paths = [...(await this.#disk()).keys()]
    const one = this.pick(paths)
    const other = this.pick(paths.filter((path) => path.slice(-4) === one.slice(-4)))
    if (one === other || other === undefined) return
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
    this.tell(`pointed: ${changes.map(({ label }) => label).join(', ')}`)
  }

  async #accept(): Promise<void> {
    await this.#scan()
    const clip = this.pick((await this.#clips()).filter(({ notice }) => notice.includes('original changed')))
    if (!clip) return
    const { mend } = await ennick.call('acceptRedelivered', {
      params: { productionId: this.#productionId },
      body: { clipIds: [clip.id], reason: 'delivered again', apply: true },
    })
    this.#before.set(mend?.id ?? '', { clipId: clip.id, held: this.#held.get(clip.id) ?? [] })
    const disk = await this.#disk()
    const { files } = await ennick.call('readClip', { params: { clipId: clip.id } })
    const paths = files.flatMap(({ path }) => numberedPaths(relative(this.#base, path)))
    this.#held.set(
      clip.id,
      paths.map((path) => disk.get(path) ?? ''),
    )
    this.tell(`${clip.name} is accepted`)
  }

  async #takeBack(): Promise<void> {
    const mends = await ennick.call('listMends', { params: { productionId: this.#productionId } })
    const mend: Mend | undefined = this.pick(mends.filter(({ state }) => state === 'done'))
    if (!mend) return
    await ennick.call('undoMend', { params: { mendId: mend.id } })
    const before = this.#before.get(mend.id)
    if (before) this.#held.set(before.clipId, before.held)
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

/** Of numbered stills, each. */
const numberedPaths = (path: string): string[] =>
  path.includes('####') ? stills.map((name) => join(dirname(path), name)) : [path]
