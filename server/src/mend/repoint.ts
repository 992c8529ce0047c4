import { basename } from 'node:path'
import { count, type LinkChange } from '@ennick/core'
import { type CutState, readAllCutStates, readCutState } from '../cuts/cut-state.ts'
import { PlainError } from '../errors.ts'
import { lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { readJob } from '../queue/jobs.ts'
import type { Database, Transaction } from '../store/database.ts'
import type { FoundFile, JobResult, SearchedThing } from '../store/job-types.ts'
import { readMaterial } from '../store/material.ts'
import { placeOf, placeOfPath } from '../store/place-words.ts'
import { type Created, clipsOfFound, rowsOfFound } from './found-files.ts'
import { applyMend, type MendRow, noneCreated } from './links.ts'
import { asPlaced } from './media-places.ts'

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
      const created: Created = { volumeIds: [], fileIds: [], clipIds: [] }
      const before = await readAllCutStates(transaction, await readMaterial(transaction, search.productionId))
      const state = before.find(({ row }) => row.id === cutId)
      if (!state) throw new PlainError('no-cut', 'The cut was taken out of the production since the search.')
      const changes = await planChoices(transaction, search.productionId, state, accepted, created)
      return { changes, created, settle: () => keepOthers(transaction, search.productionId, before) }
    },
  )
}

/** Events that a mend has not meant and that would land elsewhere by what it has brought in stay where they are. */
export async function keepOthers(
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

function acceptChoices(result: FinishedSearch, choices: readonly RepointChoice[]): AcceptedChoice[] {
  const given = new Set<string>()
  const things = new Map(result.things.map((thing) => [thing.id, thing]))
  const ratings = new Map(
    result.rows.flatMap(({ wantedId, rated }) =>
      rated.map(({ candidateId, rating }) => [JSON.stringify([wantedId, candidateId]), rating] as const),
    ),
  )
  const files = new Map(result.candidates.map((file) => [file.id, file]))
  return choices.map(({ wantedId, candidateId, reason = '' }) => {
    const thing = things.get(wantedId)
    const rating = ratings.get(JSON.stringify([wantedId, candidateId]))
    const file = files.get(candidateId)
    if (!thing || !rating || !file)
      throw new PlainError('unknown-choice', 'That file was not among what the search found. Search again.')
    const { gates } = rating
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
    const stamp = await lookForPlaced(asPlaced(file)).catch(() => null)
    if (!stamp || !sameStamp(stamp, file))
      throw new PlainError('changed-since', `${file.path} has changed or left since the search. Search again.`, {
        status: 409,
      })
  }
}

/** The changes of all accepted choices; what they point at is brought into the ledger. */
async function planChoices(
  transaction: Transaction,
  productionId: string,
  state: CutState,
  accepted: readonly AcceptedChoice[],
  created: Created,
): Promise<LinkChange[]> {
  const fileIds = await rowsOfFound(
    transaction,
    productionId,
    accepted.map(({ file }) => file),
    created,
  )
  const idOf = ({ file }: AcceptedChoice): string => fileIds.get(file.path) as string
  const clipIds = await clipsOfFound(
    transaction,
    productionId,
    accepted.filter(({ thing }) => thing.clipId === null).map(idOf),
    created,
  )
  const { volumes } = state.material
  return accepted.flatMap((choice): LinkChange[] => {
    const { thing, file, note } = choice
    if (thing.clipId !== null) {
      const ordinal = thing.ordinal ?? 0
      const before = state.material.clips.get(thing.clipId)?.files[ordinal]
      if (!before) throw new PlainError('no-clip', `${thing.label} was removed since the search.`, { status: 409 })
      return [
        {
          link: { kind: 'clip file', clipId: thing.clipId, ordinal },
          before: before.id,
          after: idOf(choice),
          label: `${thing.label}: ${placeOf(before)} → ${placeOfPath(volumes, file.path)}${note}`,
        },
      ]
    }
    return thing.positions.map((position) => ({
      link: { kind: 'event', cutId: state.row.id, position },
      before: chosenNow(state.resolutions[position]),
      after: clipIds.get(idOf(choice)) as string,
      label: `event ${state.cut.events[position]?.number} → ${placeOfPath(volumes, file.path)}${note}`,
    }))
  })
}

const chosenNow = (resolution: { by: string | null; clipId: string | null } | undefined): string | null =>
  resolution?.by === 'choice' ? resolution.clipId : null

/** A person's choice of known clips for some events: the mend for events that several originals claim. */
export async function chooseClips(
  database: Database,
  cutId: string,
  choices: readonly { readonly positions: readonly number[]; readonly clipId: string }[],
): Promise<MendRow> {
  const state = await readCutState(database, cutId)
  const changes = choices.flatMap(({ positions, clipId }): LinkChange[] => {
    const clip = state.material.clips.get(clipId)
    if (!clip) throw new PlainError('no-clip', 'That clip is not in this production.', { status: 404 })
    return positions.map((position) => {
      const event = state.cut.events[position]
      if (!event) throw new PlainError('no-event', `The cut has no event at position ${position}.`)
      return {
        link: { kind: 'event', cutId, position },
        before: chosenNow(state.resolutions[position]),
        after: clipId,
        label: `event ${event.number} → ${placeOf(clip.main)}`,
      }
    })
  })
  return applyMend(
    database,
    {
      productionId: state.row.productionId,
      cutId,
      kind: 'repoint',
      title: `Repoint ${count(changes.length, 'event')}`,
    },
    async () => ({ created: noneCreated, changes }),
  )
}
