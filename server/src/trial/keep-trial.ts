import { count, keyOfLink, type LinkChange } from '@ennick/core'
import { readAllCutStates } from '../cuts/cut-state.ts'
import { PlainError } from '../errors.ts'
import { isAsKnown } from '../intake/describe-file.ts'
import { type Created, clipsOfFound, rowsOfFound } from '../mend/found-files.ts'
import { applyMend, type MendRow } from '../mend/links.ts'
import { besideEachOther } from '../mend/media-places.ts'
import { keepOthers } from '../mend/repoint.ts'
import { keepAsVersion, standingOf } from '../mend/version-mend.ts'
import type { Database, Transaction } from '../store/database.ts'
import type { FoundFile } from '../store/job-types.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { KnownClip, KnownFile, Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { placeOf } from '../store/place-words.ts'
import { isKept, readTrial, type TrialState } from './trial-state.ts'

/**
 * Does in a cut's own production what was done in a trial of it: its links to originals as one mend, and the version
 * that its cut has become as another. Each is taken back like any mend; nothing is done when one of the links was
 * changed there meanwhile.
 * @returns the mends, and the newest version of the cut there
 */
export async function keepTrial(
  database: Database,
  kept: KeptMaterial,
  productionId: string,
): Promise<{ mends: MendRow[]; cutId: string }> {
  const trial = await readTrial(database, kept, productionId)
  const { trialOf, tried, origin } = trial
  const isVersion = tried.row.id !== trialOf.copyId
  if (!origin || (isVersion && origin.row.id !== trialOf.cutId))
    throw conflict(
      origin
        ? `“${origin.row.name}” has a newer version in its production: begin a new trial of that one.`
        : 'The cut of this trial was taken out of its production.',
    )
  const links = netChanges(trial).filter((change) => !isThere(trial, change))
  const done: MendRow[] = []
  let cutId = origin.row.id
  if (links.length > 0) done.push(await keepLinks(database, trial, links))
  if (isVersion) {
    const version = await keepVersion(database, kept, trial)
    done.push(version.mend)
    cutId = version.cutId
  }
  if (done.length === 0)
    throw new PlainError(
      'nothing-to-keep',
      netChanges(trial).length > 0
        ? 'All that was mended in this trial is so in its production already.'
        : 'Nothing was mended in this trial that could be kept.',
      { status: 409 },
    )
  return { mends: done, cutId }
}

/** Whether a link is already in its production what it became in the trial: by an attempt before, or by somebody. */
function isThere({ trialOf, tried, origin }: TrialState, { link, after }: LinkChange): boolean {
  const originalOf = new Map(trialOf.clips)
  if (link.kind === 'clip file') {
    const own = origin?.material.clips.get(originalOf.get(link.clipId) ?? '')?.files[link.ordinal]
    return own !== undefined && own.fullPath === tried.material.files.get(after ?? '')?.fullPath
  }
  if (link.kind !== 'event' || origin?.row.id !== trialOf.cutId) return false
  const resolution = origin.resolutions[link.position]
  const chosen = resolution?.by === 'choice' ? resolution.clipId : null
  if (after === null || chosen === null) return after === chosen
  const own = origin.material.clips.get(chosen)
  return chosen === originalOf.get(after) || own?.main.fullPath === tried.material.clips.get(after)?.main.fullPath
}

const conflict = (sentence: string): PlainError => new PlainError('mend-conflict', sentence, { status: 409 })

/**
 * What all mends of a trial come to: each link once, from what it was when the trial began to what it is now. An event
 * of a later version is the one that stood there in the first.
 */
export function netChanges({ mends, trialOf, versions }: TrialState): LinkChange[] {
  const first = versions.get(trialOf.copyId)?.cut.events ?? []
  const positions = new Map(first.map((event, position) => [standingOf(event), position]))
  const net = new Map<string, LinkChange>()
  for (const change of mends.filter(isKept).flatMap(({ changes }) => changes)) {
    const link = ofFirstVersion(change.link)
    if (!link) continue
    const key = keyOfLink(link)
    const known = net.get(key)
    net.set(key, { ...change, link, before: known ? known.before : change.before })
  }
  return [...net.values()].filter(({ before, after }) => before !== after)

  function ofFirstVersion(link: LinkChange['link']): LinkChange['link'] | null {
    if (link.kind === 'clip file') return link
    if (link.kind !== 'event') return null
    const event = versions.get(link.cutId)?.cut.events[link.position]
    const position = event && positions.get(standingOf(event))
    return position === undefined ? null : { kind: 'event', cutId: trialOf.copyId, position }
  }
}

async function keepLinks(
  database: Database,
  { trialOf, tried }: TrialState,
  links: readonly LinkChange[],
): Promise<MendRow> {
  const { productionId, cutId } = trialOf
  const events = links.filter(({ link }) => link.kind === 'event').length
  const originals = links.length - events
  const what = [originals ? count(originals, 'original') : '', events ? count(events, 'event') : '']
  const title = `Keep ${what.filter(Boolean).join(' and ')} of the trial of “${tried.row.name}”`
  await assertStillThere(links, tried.material)
  return applyMend(database, { productionId, cutId, kind: 'repoint', title }, async (transaction) => {
    const created: Created = { volumeIds: [], fileIds: [], clipIds: [] }
    const material = await readMaterial(transaction, productionId)
    const before = await readAllCutStates(transaction, material)
    const there = new Counterparts(transaction, { trialOf, tried: tried.material, material, created })
    await there.bringIn(links)
    const changes: LinkChange[] = []
    for (const change of links) changes.push(await there.changeOf(change))
    return { changes, created, settle: () => keepOthers(transaction, productionId, before) }
  })
}

/** The files that links of a trial go to have to lie there still as they were found. */
async function assertStillThere(links: readonly LinkChange[], tried: Material): Promise<void> {
  for (const { link, after } of links) {
    const file = link.kind === 'clip file' ? tried.files.get(after ?? '') : tried.clips.get(after ?? '')?.main
    if (file && file.presence === 'here' && !(await isAsKnown(file)))
      throw conflict(`${placeOf(file)} has changed or left since it was found: search again in the trial.`)
  }
}

/** What clips and files of a trial are in the production that it is of; what was found is brought in there. */
class Counterparts {
  readonly #transaction: Transaction
  readonly #trialOf: TrialState['trialOf']
  readonly #tried: Material
  readonly #material: Material
  readonly #created: Created
  readonly #clipIds: Map<string, string>
  readonly #filesByPath: ReadonlyMap<string, KnownFile>
  readonly #clipsByPath: ReadonlyMap<string, KnownClip>
  /** The rows of found files, by their paths. */
  #broughtIn: ReadonlyMap<string, string> = new Map()

  constructor(
    transaction: Transaction,
    has: { trialOf: TrialState['trialOf']; tried: Material; material: Material; created: Created },
  ) {
    this.#transaction = transaction
    this.#trialOf = has.trialOf
    this.#tried = has.tried
    this.#material = has.material
    this.#created = has.created
    this.#clipIds = new Map(has.trialOf.clips)
    this.#filesByPath = new Map([...has.material.files.values()].map((file) => [file.fullPath, file]))
    this.#clipsByPath = new Map(
      [...has.material.clips.values()].flatMap((clip) => clip.files.map(({ fullPath }) => [fullPath, clip] as const)),
    )
  }

  /** Brings the files that links go to into the ledger there, all at once, where they are not known as they are. */
  async bringIn(links: readonly LinkChange[]): Promise<void> {
    const found = new Map<string, FoundFile>()
    for (const { link, after } of links) {
      const isKnown = link.kind === 'event' && this.#clipIds.has(after ?? '')
      const file =
        link.kind === 'clip file' ? this.#tried.files.get(after ?? '') : this.#tried.clips.get(after ?? '')?.main
      if (file && !isKnown && this.#known(file) === undefined) found.set(file.fullPath, foundFile(file))
    }
    const { id } = this.#material.production
    this.#broughtIn = await rowsOfFound(this.#transaction, id, [...found.values()], this.#created)
  }

  #known(file: KnownFile): string | undefined {
    const known = this.#filesByPath.get(file.fullPath)
    return known && known.fingerprint === file.fingerprint && known.presence === 'here' ? known.id : undefined
  }

  /** @throws PlainError when the link was changed meanwhile, or what it goes to is another's there */
  async changeOf({ link, before, after, label }: LinkChange): Promise<LinkChange> {
    if (link.kind === 'clip file') {
      const clip = this.#material.clips.get(this.#clipIds.get(link.clipId) ?? '')
      const was = clip?.files[link.ordinal]
      const known = this.#tried.files.get(before ?? '')
      if (!clip || !was || was.fullPath !== known?.fullPath)
        throw conflict(`This link was changed in “${this.#material.production.name}” meanwhile: ${label}.`)
      const file = this.#tried.files.get(after ?? '') as KnownFile
      this.#assertNobodys(clip, file)
      return {
        link: { ...link, clipId: clip.id },
        ...{ before: was.id, after: this.#fileId(file) },
        label: `${clip.name}: ${placeOf(was)} → ${placeOf(file)}`,
      }
    }
    if (link.kind !== 'event') throw new Error('A trial keeps links of files and events alone.')
    return {
      link: { ...link, cutId: this.#trialOf.cutId },
      before: before === null ? null : await this.clipId(before),
      after: after === null ? null : await this.clipId(after),
      label,
    }
  }

  #assertNobodys(clip: KnownClip, file: KnownFile): void {
    const other = this.#clipsByPath.get(file.fullPath)
    if (other && other.id !== clip.id)
      throw conflict(
        `${placeOf(file)} is the original of ${other.name} in “${this.#material.production.name}”, which the trial did ` +
          'not know: point the events at that one instead.',
      )
  }

  /** @throws PlainError when its clip was chosen before, and is no more */
  #fileId(file: KnownFile): string {
    const id = this.#known(file) ?? this.#broughtIn.get(file.fullPath)
    if (id === undefined) throw conflict(`${placeOf(file)} is not known in its production any more.`)
    return id
  }

  /** The clip that one of the trial is a copy of, or one that is made of the file that was found. */
  async clipId(triedId: string): Promise<string> {
    const known = this.#clipIds.get(triedId)
    if (known !== undefined) return known
    const clip = this.#tried.clips.get(triedId)
    if (!clip) throw conflict('A clip that was chosen in the trial is not there any more.')
    const fileId = this.#fileId(clip.main)
    const made = await clipsOfFound(this.#transaction, this.#material.production.id, [fileId], this.#created)
    const id = made.get(fileId) as string
    this.#clipIds.set(triedId, id)
    return id
  }
}

const foundFile = (file: KnownFile): FoundFile => {
  const { fullPath, sizeBytes, mtimeMicros, eachStamp, fingerprint, facts } = file
  if (!facts) throw conflict(`${fullPath} cannot be read.`)
  const sequence = besideEachOther(file)
  return { ...{ id: fullPath, path: fullPath, sizeBytes, mtimeMicros, eachStamp, fingerprint, facts }, sequence }
}

/** The version that the trial's cut has become, as the next one of the cut itself. */
async function keepVersion(
  database: Database,
  kept: KeptMaterial,
  { trialOf, tried, mends }: TrialState,
): Promise<{ mend: MendRow; cutId: string }> {
  // Read anew: the links that were kept just now are part of it.
  const origin = (await readAllCutStates(database, await kept.read(trialOf.productionId))).find(
    ({ row }) => row.id === trialOf.cutId,
  )
  if (!origin) throw conflict('The cut of this trial was taken out of its production.')
  const versions = mends.filter(({ kind }) => kind !== 'repoint').filter(isKept)
  const chosen = new Map<string, string>()
  const clipIds = new Map(trialOf.clips)
  const byPath = new Map([...origin.material.clips.values()].map((clip) => [clip.main.fullPath, clip.id]))
  tried.resolutions.forEach(({ by, clipId }, position) => {
    const event = tried.cut.events[position]
    if (by !== 'choice' || clipId === null || !event) return
    const own = clipIds.get(clipId) ?? byPath.get(tried.material.clips.get(clipId)?.main.fullPath ?? '')
    if (own === undefined)
      throw conflict(`What event ${event.number} was pointed at is not known in “${origin.material.production.name}”.`)
    chosen.set(standingOf(event), own)
  })
  const told = versions.flatMap(({ changes }) => changes.map(({ label }) => label))
  return keepAsVersion(
    database,
    origin,
    { events: tried.cut.events, told, chosen },
    {
      kind: versions.at(-1)?.kind ?? 'trim',
      word: 'tried',
      titleOf: (uses, version) => `Keep ${uses} of the trial of “${tried.row.name}”, as version ${version}`,
    },
  )
}
