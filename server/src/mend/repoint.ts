import { basename, dirname, relative, sep } from 'node:path'
import type { LinkChange } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { type CutState, readAllCutStates, readCutState } from '../cuts/cut-state.ts'
import { PlainError } from '../errors.ts'
import { type Arrival, makeClips } from '../intake/arrivals.ts'
import { sameStamp, stampOf } from '../intake/describe-file.ts'
import { readJob } from '../queue/jobs.ts'
import type { Database, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { FoundFile, JobResult, SearchedThing } from '../store/job-schema.ts'
import { readMaterial, type VolumeRow } from '../store/material.ts'
import { clipFiles, files, volumes } from '../store/schema.ts'
import { applyMend, type MendRow, noneCreated } from './links.ts'

export type FinishedSearch = Extract<JobResult, { kind: 'search' }>

export async function readSearch(
  database: Database,
  jobId: string,
): Promise<{ cutId: string; productionId: string; result: FinishedSearch }> {
  const job = await readJob(database, jobId)
  const isOld = job.result?.kind === 'search' && job.result.rows.some(isOfOlderVersion)
  if (job.input.kind !== 'search' || job.result?.kind !== 'search' || isOld)
    throw new PlainError('no-search', 'This search has not ended, or it failed: search again.', { status: 409 })
  return { cutId: job.input.cutId, productionId: job.productionId, result: job.result }
}

/** Searches of older versions of Ennick know no gates. */
const isOfOlderVersion = ({ rated }: FinishedSearch['rows'][number]): boolean =>
  rated.some(({ rating }) => !('gates' in rating))

/** One file for one wanted thing, as a person accepted it from the dry preview. */
export interface RepointChoice {
  readonly wantedId: string
  readonly candidateId: string
  /** Why a file is taken that Ennick would not: it is kept with the mend. */
  readonly reason?: string | undefined
}

interface AcceptedChoice {
  readonly thing: SearchedThing
  readonly file: FoundFile
  /** What is kept of a person's reason. */
  readonly note: string
}

/** Points clips and events at found files, all at once, as one mend. */
export async function repoint(
  database: Database,
  cutId: string,
  searchJobId: string,
  choices: readonly RepointChoice[],
): Promise<MendRow> {
  const search = await readSearch(database, searchJobId)
  if (search.cutId !== cutId) throw new PlainError('other-cut', 'That search was made for another cut.')
  const accepted = acceptChoices(search.result, choices)
  await assertUnchanged(accepted)
  const events = accepted.flatMap(({ thing }) => (thing.clipId === null ? thing.positions : []))
  const clips = accepted.filter(({ thing }) => thing.clipId !== null).length
  const title = [
    clips ? `Repoint ${count(clips, 'original')}` : '',
    events.length ? `Repoint ${count(events.length, 'event')}` : '',
  ]
    .filter(Boolean)
    .join(', ')
  return applyMend(
    database,
    { productionId: search.productionId, cutId, kind: 'repoint', title },
    async (transaction) => {
      const changes: LinkChange[] = []
      const created: Created = { volumeIds: [], fileIds: [], clipIds: [] }
      const before = await readAllCutStates(transaction, await readMaterial(transaction, search.productionId))
      for (const choice of accepted)
        changes.push(...(await planChoice(transaction, search.productionId, before, cutId, choice, created)))
      return { changes, created, settle: () => keepOthers(transaction, search.productionId, before) }
    },
  )
}

/** Events that a mend has not meant and that would land elsewhere by what it has brought in stay where they are. */
async function keepOthers(
  transaction: Transaction,
  productionId: string,
  before: readonly CutState[],
): Promise<LinkChange[]> {
  const after = await readAllCutStates(transaction, await readMaterial(transaction, productionId))
  return after.flatMap((state, index) =>
    state.resolutions.flatMap((now, position): LinkChange[] => {
      const was = before[index]?.resolutions[position]
      if (!was?.clipId || now.by === 'choice' || now.clipId === was.clipId) return []
      const name = state.clips.get(was.clipId)?.name ?? 'its original'
      return [
        {
          link: { kind: 'event', cutId: state.row.id, position },
          before: null,
          after: was.clipId,
          label: `event ${state.cut.events[position]?.number} of “${state.row.name}” stays on ${name}`,
        },
      ]
    }),
  )
}

/** What a mend brings into the ledger, noted as it comes. */
type Created = { volumeIds: string[]; fileIds: string[]; clipIds: string[] }

const count = (number: number, word: string): string => `${number} ${word}${number === 1 ? '' : 's'}`

function acceptChoices(result: FinishedSearch, choices: readonly RepointChoice[]): AcceptedChoice[] {
  const given = new Set<string>()
  return choices.map(({ wantedId, candidateId, reason = '' }) => {
    const thing = result.things.find((candidate) => candidate.id === wantedId)
    const rating = result.rows
      .find((row) => row.wantedId === wantedId)
      ?.rated.find((entry) => entry.candidateId === candidateId)
    const file = result.candidates.find((candidate) => candidate.id === candidateId)
    if (!thing || !rating || !file)
      throw new PlainError('unknown-choice', 'That file was not among what the search found. Search again.')
    const { gates } = rating.rating
    const why = gates.map(({ sentence }) => sentence).join('; ')
    const isOpened = reason.trim() !== '' && gates.every(({ mayBeOpened }) => mayBeOpened)
    if (gates.length && !isOpened)
      throw new PlainError('refused-choice', `${basename(file.path)} is refused for ${thing.label}: ${why}.`)
    if (given.has(candidateId))
      throw new PlainError('given-twice', `${basename(file.path)} was chosen twice: one file can be one original only.`)
    given.add(candidateId)
    return { thing, file, note: gates.length ? ` (taken though ${why}. Reason: ${reason.trim()})` : '' }
  })
}

async function assertUnchanged(accepted: readonly AcceptedChoice[]): Promise<void> {
  for (const { file } of accepted) {
    const stamp = await stampOf(file.path).catch(() => null)
    if (!stamp || !sameStamp(stamp, file))
      throw new PlainError('changed-since', `${file.path} has changed or left since the search. Search again.`, {
        status: 409,
      })
  }
}

async function planChoice(
  transaction: Transaction,
  productionId: string,
  /** All cuts as they stand before the mend. */
  states: readonly CutState[],
  cutId: string,
  { thing, file, note }: AcceptedChoice,
  created: Created,
): Promise<LinkChange[]> {
  const state = states.find(({ row }) => row.id === cutId)
  const fileId = await rowOf(transaction, productionId, file, created)
  if (thing.clipId !== null) {
    const ordinal = thing.ordinal ?? 0
    const before = state?.material.clips.get(thing.clipId)?.files[ordinal]
    if (!before) throw new PlainError('no-clip', `${thing.label} was removed since the search.`, { status: 409 })
    return [
      {
        link: { kind: 'clip file', clipId: thing.clipId, ordinal },
        before: before.id,
        after: fileId,
        label: `${thing.label}: ${before.fullPath} → ${file.path}${note}`,
      },
    ]
  }
  const clipId = await clipOf(transaction, productionId, fileId, created)
  return thing.positions.map((position) => ({
    link: { kind: 'event', cutId, position },
    before: chosenNow(state?.resolutions[position]),
    after: clipId,
    label: `event ${state?.cut.events[position]?.number} → ${file.path}${note}`,
  }))
}

const chosenNow = (resolution: { by: string | null; clipId: string | null } | undefined): string | null =>
  resolution?.by === 'choice' ? resolution.clipId : null

/**
 * The row of a found file, made when it has none. A file on no known volume brings its folder in as a volume of its
 * own.
 */
async function rowOf(
  transaction: Transaction,
  productionId: string,
  found: FoundFile,
  created: Created,
): Promise<string> {
  const all = await transaction.select().from(volumes).where(eq(volumes.productionId, productionId))
  const holding = all
    .filter((volume) => volume.kind !== 'made' && isBelow(volume.rootPath, found.path))
    .sort((a, b) => b.rootPath.length - a.rootPath.length)
  const volume = holding[0] ?? (await addFolderVolume(transaction, productionId, found.path, all, created))
  const path = relative(volume.rootPath, found.path).split(sep).join('/')
  const { id: _, path: __, ...described } = found
  const values = { ...described, volumeId: volume.id, path, problem: null, isGone: false, seenAt: new Date() }
  const [known] = await transaction
    .select({ id: files.id })
    .from(files)
    .where(and(eq(files.volumeId, volume.id), eq(files.path, path)))
  const [row] = await transaction
    .insert(files)
    .values(values)
    .onConflictDoUpdate({ target: [files.volumeId, files.path], set: values })
    .returning({ id: files.id })
  const { id } = row as { id: string }
  if (!known) created.fileIds.push(id)
  return id
}

const isBelow = (folder: string, path: string): boolean => path.startsWith(folder.endsWith(sep) ? folder : folder + sep)

async function addFolderVolume(
  transaction: Transaction,
  productionId: string,
  path: string,
  all: readonly VolumeRow[],
  created: Created,
): Promise<VolumeRow> {
  const rootPath = dirname(path)
  const labels = new Set(all.map((volume) => volume.label))
  let label = basename(rootPath)
  for (let number = 2; labels.has(label); number++) label = `${basename(rootPath)} (${number})`
  const [row] = await transaction
    .insert(volumes)
    .values({ productionId, label, kind: 'folder', rootPath, lastSeenAt: new Date() })
    .returning()
  await writeHistory(
    transaction,
    productionId,
    'volume',
    (row as VolumeRow).id,
    `Volume “${label}” added at ${rootPath}: a file was found there.`,
  )
  created.volumeIds.push((row as VolumeRow).id)
  return row as VolumeRow
}

async function clipOf(
  transaction: Transaction,
  productionId: string,
  fileId: string,
  created: Created,
): Promise<string> {
  const [link] = await transaction.select().from(clipFiles).where(eq(clipFiles.fileId, fileId))
  if (link) return link.clipId
  const [row] = await transaction.select().from(files).where(eq(files.id, fileId))
  const clipId = (await makeClips(transaction, productionId, [[row as Arrival]])).get(fileId) as string
  created.clipIds.push(clipId)
  return clipId
}

/** A person's choice of a known clip for some events: the mend for events that several originals claim. */
export async function chooseClip(
  database: Database,
  cutId: string,
  positions: readonly number[],
  clipId: string,
): Promise<MendRow> {
  const state = await readCutState(database, cutId)
  const clip = state.clips.get(clipId)
  if (!clip) throw new PlainError('no-clip', 'That clip is not in this production.', { status: 404 })
  for (const position of positions)
    if (!state.cut.events[position]) throw new PlainError('no-event', `The cut has no event at position ${position}.`)
  return applyMend(
    database,
    {
      productionId: state.row.productionId,
      cutId,
      kind: 'repoint',
      title: `Repoint ${count(positions.length, 'event')}`,
    },
    async () => ({
      created: noneCreated,
      changes: positions.map((position) => ({
        link: { kind: 'event' as const, cutId, position },
        before: chosenNow(state.resolutions[position]),
        after: clipId,
        label: `event ${state.cut.events[position]?.number} → ${clip.originalPaths[0]}`,
      })),
    }),
  )
}
