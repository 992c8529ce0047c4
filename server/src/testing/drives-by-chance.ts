import { copyFile, mkdir, readdir, rename, rm, stat } from 'node:fs/promises'
import { basename, dirname, join, relative } from 'node:path'
import type { ClipDetail } from '@ennick/contract'
import { fingerprint } from '../disk/fingerprint.ts'
import type { Harness } from './harness.ts'
import { WalkByChance } from './walk-by-chance.ts'

/** The files of a shot, and those of them that the event of its number needs; null for all, as they are held to be. */
export interface Shot {
  readonly files: readonly string[]
  readonly needs: readonly string[] | null
}

/** What may lie on the drives: each shot with the names of its files, which are delivered more than once. */
export interface Shelf {
  /** A folder for each delivery, with a file of every name. */
  readonly folder: string
  readonly deliveries: readonly string[]
  readonly shots: readonly Shot[]
  /** "first A.mov", by what that file holds. */
  readonly contents: ReadonlyMap<string, string>
}

/** @throws when two files of the shelf hold the same */
export async function readShelf(folder: string, deliveries: readonly string[], shots: readonly Shot[]): Promise<Shelf> {
  const contents = new Map<string, string>()
  for (const delivery of deliveries)
    for (const name of shots.flatMap(({ files }) => files)) {
      const content = await contentAt(join(folder, delivery, name))
      if (contents.has(content)) throw new Error(`${delivery} ${name} is ${contents.get(content)} as well.`)
      contents.set(content, `${delivery} ${name}`)
    }
  return { folder, deliveries, shots, contents }
}

const contentAt = async (path: string): Promise<string> => fingerprint(path, (await stat(path)).size)

export const drives = ['TIDE-1', 'TIDE-2']
const folders = ['a', 'b', 'c d', 'é']

/**
 * What people do by chance to the files on two drives, and what Ennick does then about clips; with what each clip is
 * held to be, and what lies there.
 */
export class DrivesByChance extends WalkByChance {
  protected readonly ennick: Harness
  protected readonly shelf: Shelf
  protected readonly base: string
  protected productionId = ''
  protected cutId = ''
  /** What the files of each clip are held to be: as they were first seen, or as they were accepted. */
  protected readonly held = new Map<string, readonly string[]>()
  /** What a clip was held to be before an acceptance, by its mend. */
  readonly #before = new Map<string, { clipId: string; held: readonly string[] }>()

  constructor(seed: number, ennick: Harness, shelf: Shelf, name: string) {
    super(seed)
    this.ennick = ennick
    this.shelf = shelf
    this.base = join(ennick.media, `${name} ${seed}`)
  }

  /** What people do. */
  protected readonly byPeople = [
    ...[this.moveFolder, this.move, this.move, this.copy, this.copy, this.lose, this.deliver, this.swap],
  ]
  /** What Ennick does. */
  protected readonly byEnnick = [
    ...[this.scan, this.pointAtMoved, this.pointAtMoved, this.accept, this.takeBack, this.takeBack, this.search],
  ]

  /** The first delivery of everything lies on the first drive, and a list names it. */
  async begin(fileName: string, text: string): Promise<void> {
    this.productionId = await this.ennick.addProduction(basename(this.base))
    for (const drive of drives) await mkdir(join(this.base, drive, 'a'), { recursive: true })
    for (const name of this.shelf.shots.flatMap(({ files }) => files))
      await copyFile(this.#delivered(this.shelf.deliveries[0] as string, name), join(this.base, 'TIDE-1', 'a', name))
    for (const drive of drives) await this.ennick.addVolume(this.productionId, drive, join(this.base, drive))
    const body = { fileName, text }
    this.cutId = (await this.ennick.call('addCut', { params: { productionId: this.productionId }, body })).id
  }

  #delivered = (delivery: string, name: string): string => join(this.shelf.folder, delivery, name)
  protected at = (path: string): string => join(this.base, path)
  protected clips = () => this.ennick.clips(this.productionId)

  /** What lies in a folder, by path below it: on the drives, where none is named. */
  protected async disk(folder?: string): Promise<Map<string, string>> {
    const files = new Map<string, string>()
    for (const each of folder ? [folder] : drives.map(this.at))
      for (const entry of await readdir(each, { recursive: true, withFileTypes: true }))
        if (entry.isFile() && !entry.name.startsWith('.')) {
          const path = join(entry.parentPath, entry.name)
          const content = this.shelf.contents.get(await contentAt(path)) ?? 'something else'
          files.set(relative(folder ?? this.base, path), content)
        }
    return new Map([...files].sort(([a], [b]) => (a < b ? -1 : 1)))
  }

  /**
   * Holds what is said of each clip against what lies there.
   * @returns what lies where each clip's files are, in their order, and what is said and is not so
   */
  protected async lookAtClips(): Promise<{ lying: Map<string, readonly string[]>; wrong: string[] }> {
    const disk = await this.disk()
    const clips = await this.clips()
    const lying = new Map<string, readonly string[]>()
    const wrong: string[] = []
    for (const clip of clips) {
      const lies = (await this.#pathsOf(clip.id)).map((path) => disk.get(path) ?? '')
      lying.set(clip.id, lies)
      const isTold = clip.notice.includes('original changed')
      // A clip that is made of a file which has changed is told of that from the beginning.
      const isKnown = this.held.get(clip.id)?.length === lies.length || isTold || clip.presence !== 'here'
      if (!isKnown) this.held.set(clip.id, lies)
      const held = this.held.get(clip.id)
      if (held?.length !== lies.length) continue
      const isHeld = lies.join() === held.join()
      const isShared = clips.some((other) => other !== clip && other.path === clip.path)
      const place = `${clip.name} at ${clip.volumeLabel}/${clip.path}: ${lies.join(', ')} for ${held.join(', ')}`
      if (clip.presence === 'here' && !isHeld && !isTold) wrong.push(`${place}: is said to be as it was`)
      if (clip.presence === 'here' && isHeld && isTold && !isShared) wrong.push(`${place}: is said to have changed`)
      if (clip.presence === 'gone' && isHeld) wrong.push(`${place}: is said to be gone`)
    }
    return { lying, wrong }
  }

  /** What is said of clips, and of events that are on their originals, and is not so. */
  protected async lookAtAll(): Promise<string[]> {
    await this.scan()
    const { lying, wrong } = await this.lookAtClips()
    for (const { number, clipId } of await this.readyEvents()) {
      const [lies, held] = [lying.get(clipId) ?? [], this.held.get(clipId) ?? []]
      const needs = this.shelf.shots[Number(number) - 1]?.needs
      const isSo = needs
        ? needs.every((name) => lies.some((lie, at) => lie.endsWith(` ${name}`) && lie === held[at]))
        : lies.join() === held.join()
      if (!isSo) wrong.push(`event ${number} is said to be on its original, and is on ${lies.join(', ')}`)
    }
    return wrong
  }

  /** The events of the cut that are said to be on their originals, with nothing in the way: by number, with the clip. */
  protected async readyEvents(): Promise<{ number: string; clipId: string }[]> {
    const params = { cutId: this.cutId }
    const findings = await this.ennick.call('listFindings', { params })
    const blocked = new Set(
      findings.flatMap(({ severity, eventNumbers }) => (severity === 'blocks handoff' ? eventNumbers : [])),
    )
    return (await this.ennick.call('readCut', { params })).events.flatMap(({ number, state, clipId }) =>
      state === 'on original' && clipId !== null && !blocked.has(number) ? [{ number, clipId }] : [],
    )
  }

  async #volumes(): Promise<string[]> {
    const volumes = await this.ennick.call('listVolumes', { params: { productionId: this.productionId } })
    return drives.flatMap((drive) => volumes.find(({ label }) => label === drive)?.id ?? [])
  }

  async #pathsOf(clipId: string): Promise<string[]> {
    const { files } = await this.ennick.call('readClip', { params: { clipId } })
    return files.flatMap(({ path }: ClipDetail['files'][number]) => this.#eachPath(relative(this.base, path)))
  }

  /** Of numbered stills, each. */
  #eachPath(path: string): string[] {
    if (!path.includes('#')) return [path]
    const [before, after] = basename(path).split(/#+/) as [string, string]
    const stills = this.shelf.shots.find(({ files: [first] }) => first?.startsWith(before) && first.endsWith(after))
    return (stills?.files ?? []).map((name) => join(dirname(path), name))
  }

  /** Some files of one folder that belong together, or only a part of them. */
  async #some(): Promise<{ folder: string; names: string[] } | null> {
    const disk = [...(await this.disk()).keys()]
    const { files } = this.pick(this.shelf.shots)
    const folder = this.pick([...new Set(disk.filter((path) => files.includes(basename(path))).map(dirname))])
    if (folder === undefined) return null
    const there = files.filter((name) => disk.includes(join(folder, name)))
    return { folder, names: this.chance() < 0.6 ? there : there.filter(() => this.chance() < 0.5) }
  }

  protected async moveFolder(): Promise<void> {
    const drive = this.pick(drives)
    const entries = await readdir(this.at(drive), { withFileTypes: true })
    const there = entries.filter((entry) => entry.isDirectory()).map(({ name }) => name)
    const [from, to] = [this.pick(there), this.pick([...folders, 'checked'])]
    if (from === undefined || there.includes(to)) return
    this.tell(`folder ${drive}/${from} → ${to}`)
    await rename(this.at(join(drive, from)), this.at(join(drive, to)))
  }

  protected move(): Promise<void> {
    return this.#bring('→', rename)
  }

  protected copy(): Promise<void> {
    return this.#bring('is copied to', copyFile)
  }

  async #bring(word: string, bring: (from: string, to: string) => Promise<void>): Promise<void> {
    const some = await this.#some()
    if (!some) return
    const to = join(this.pick(drives), this.pick(folders))
    const disk = await this.disk()
    await mkdir(this.at(to), { recursive: true })
    for (const name of some.names) {
      if (disk.has(join(to, name))) continue
      this.tell(`${some.folder}/${name} ${word} ${to}`)
      await bring(this.at(join(some.folder, name)), this.at(join(to, name)))
    }
  }

  /** Of what there is more than one. */
  protected async lose(): Promise<void> {
    const some = await this.#some()
    for (const name of some?.names ?? []) {
      const disk = await this.disk()
      const path = join(some?.folder ?? '', name)
      if ([...disk.values()].filter((content) => content === disk.get(path)).length < 2) continue
      this.tell(`${path} is lost`)
      await rm(this.at(path))
    }
  }

  /** Files come again under their names, or what they were comes back. */
  protected async deliver(): Promise<void> {
    const some = await this.#some()
    const delivery = this.pick(this.shelf.deliveries)
    for (const name of some?.names ?? []) {
      const path = join(some?.folder ?? '', name)
      this.tell(`${delivery} ${name} at ${path}`)
      await copyFile(this.#delivered(delivery, name), this.at(`${path}.part`))
      await rename(this.at(`${path}.part`), this.at(path))
    }
  }

  protected async swap(): Promise<void> {
    const paths = [...(await this.disk()).keys()]
    const one = this.pick(paths)
    const other = this.pick(paths.filter((path) => path.slice(-4) === one.slice(-4)))
    if (one === other || other === undefined) return
    this.tell(`${one} and ${other} change places`)
    await rename(this.at(one), this.at(`${one}.between`))
    await rename(this.at(other), this.at(one))
    await rename(this.at(`${one}.between`), this.at(other))
  }

  protected async scan(): Promise<void> {
    for (const volumeId of await this.#volumes()) {
      const { error } = await this.ennick.scan(volumeId)
      if (error !== null) this.fail(error)
    }
  }

  protected async pointAtMoved(): Promise<void> {
    await this.scan()
    const volumeId = this.pick(await this.#volumes())
    if (volumeId === undefined) return
    const { changes } = await this.ennick.call('repointMoved', { params: { volumeId } })
    this.tell(`pointed: ${changes.map(({ label }) => label).join(', ')}`)
  }

  protected async accept(): Promise<void> {
    await this.scan()
    const clip = this.pick((await this.clips()).filter(({ notice }) => notice.includes('original changed')))
    if (!clip) return
    const { mend } = await this.ennick.call('acceptRedelivered', {
      params: { productionId: this.productionId },
      body: { clipIds: [clip.id], reason: 'delivered again', apply: true },
    })
    this.#before.set(mend?.id ?? '', { clipId: clip.id, held: this.held.get(clip.id) ?? [] })
    const disk = await this.disk()
    this.held.set(
      clip.id,
      (await this.#pathsOf(clip.id)).map((path) => disk.get(path) ?? ''),
    )
    this.tell(`${clip.name} is accepted`)
  }

  protected async takeBack(): Promise<void> {
    const mends = await this.ennick.call('listMends', { params: { productionId: this.productionId } })
    const mend = this.pick(mends.filter(({ state }) => state === 'done'))
    if (!mend) return
    await this.ennick.call('undoMend', { params: { mendId: mend.id } })
    const before = this.#before.get(mend.id)
    if (before) this.held.set(before.clipId, before.held)
    this.tell(`taken back: ${mend.title}`)
  }

  protected async search(): Promise<void> {
    const params = { cutId: this.cutId }
    const { id } = await this.ennick.call('search', { params, body: { folder: this.base, findingKeys: null } })
    await this.ennick.waitForJob(id)
    const { rows } = await this.ennick.call('readSearch', { params: { jobId: id } })
    const choices = rows.flatMap(({ wantedId, candidateId }) => (candidateId ? [{ wantedId, candidateId }] : []))
    if (choices.length === 0) return
    const { changes } = await this.ennick.call('repoint', { params, body: { searchJobId: id, choices } })
    this.tell(`found: ${changes.map(({ label }) => label).join(', ')}`)
  }
}
