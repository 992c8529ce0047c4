import { basename, dirname, join } from 'node:path'
import type { Finished, FinishedPlan, FinishedTarget } from '@ennick/contract'
import {
  beginsAt,
  type CutEvent,
  compareSettings,
  formatRate,
  formatTimecode,
  parseTimecode,
  type Rate,
  sameRate,
  shownSpans,
  TimecodeError,
} from '@ennick/core'
import { and, desc, eq, sql } from 'drizzle-orm'
import { type CutState, readCutRow, readCutState } from '../cuts/cut-state.ts'
import { ask, NotAnswering } from '../disk/answering.ts'
import { PlainError } from '../errors.ts'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { candidateSource } from '../mend/candidate-pictures.ts'
import { addJob, type JobRow, presentJob, readJob } from '../queue/jobs.ts'
import { jobs } from '../store/job-schema.ts'
import type { FinishedRow, FoundFile } from '../store/job-types.ts'
import { sendFrame } from '../viewer/send-frame.ts'
import { readFinished } from './finished-file.ts'

/** Holding finished files against the originals of their cuts. */
export function finishedRoutes({ app, database, material, folders, config }: Services): void {
  const plan = async (cutId: string, { folder, name, start }: FinishedTarget) => {
    const state = await readCutState(database, cutId, material)
    const { facts, path } = await readFinished(folder, name)
    const firstFrame = start === null ? beginsAt(facts, state.cut) : labelled(start, state)
    const rate = facts.picture?.rate
    const isRate = rate !== undefined && sameRate(rate, state.cut.rate)
    const { comparable, events } = countEvents(state)
    const presented: FinishedPlan = {
      ...{ path, events, comparable },
      start: formatTimecode(firstFrame, state.cut.rate, state.cut.dropFrame),
      settings: compareSettings(facts, { cut: state.cut, raster: rasterOf(state) }, firstFrame),
      blocked: isRate ? (comparable === 0 ? nothingToCompare : null) : otherRate(rate, state.cut.rate),
    }
    return { presented, firstFrame, state }
  }

  implement(app, 'planFinished', async ({ params, body }) => {
    const { presented } = await plan(params.cutId, { ...body, folder: await folders.resolve(body.folder) })
    return presented
  })
  implement(app, 'checkFinished', async ({ params, body }) => {
    const target = { ...body, folder: await folders.resolve(body.folder) }
    const { presented, firstFrame, state } = await plan(params.cutId, target)
    if (presented.blocked !== null) throw new PlainError('finished-blocked', presented.blocked, { status: 409 })
    const { row } = state
    const title = `Hold ${presented.path} against the originals of “${row.name}”`
    const input = { kind: 'finished' as const, cutId: row.id, folder: target.folder, name: body.name, firstFrame }
    return presentJob(await addJob(database, row.productionId, title, input))
  })
  implement(app, 'listFinished', async ({ params }) => {
    const row = await readCutRow(database, params.cutId)
    const rows = await database
      .select()
      .from(jobs)
      .where(and(eq(jobs.productionId, row.productionId), sql`${jobs.input}->>'kind' = 'finished'`, ofCut(row.id)))
      .orderBy(desc(jobs.createdAt))
    if (rows.length === 0) return []
    const state = await readCutState(database, row.id, material)
    return (await Promise.all(rows.map((each) => presentFinished(each, state, folders)))).flat()
  })
  implementRaw(app, 'finishedPicture', async ({ params: { jobId, frame } }, response) => {
    const { result } = await readJob(database, jobId)
    const source = await candidateSource(result?.kind === 'finished' ? result.file : undefined, folders)
    await sendFrame(response, source, { frame, size: 'small', isPassing: true }, config.dataFolder)
  })
}

const nothingToCompare =
  'No event of picture is seen alone on an original that is here: there is nothing to hold it against.'

const otherRate = (own: Rate | undefined, rate: Rate): string =>
  `It runs at ${own ? formatRate(own) : 'no'} frames a second, and the cut at ${formatRate(rate)}: ` +
  'no frame of one stands beside one of the other.'

const ofCut = (cutId: string) => sql`${jobs.input}->>'cutId' = ${cutId}`

const rasterOf = ({ material: { production } }: CutState) => ({ width: production.width, height: production.height })

/** @throws PlainError where it is no timecode of the record */
function labelled(start: string, { cut }: CutState): number {
  try {
    return parseTimecode(start, cut.rate, cut.dropFrame)
  } catch (error) {
    if (!(error instanceof TimecodeError)) throw error
    throw new PlainError('no-timecode', `“${start}” is no timecode of this cut: ${error.message}`, { status: 422 })
  }
}

function countEvents({ cut, resolutions, material }: CutState): { events: number; comparable: number } {
  const { seen, hidden } = shownSpans(cut)
  const comparable = [...seen].filter((position) => {
    const clip = material.clips.get(resolutions[position]?.clipId ?? '')
    return clip?.presence === 'here' && clip.role === 'original'
  })
  return { events: seen.size + hidden.size, comparable: comparable.length }
}

/** Rows that are sent one by one. */
const mostRows = 200
/** Of what was compared so much must be off by the same frames to say that all of it is. */
const nearlyAll = 0.8

/** What lies at the place of a finished file now; of a folder that may not be used any more nothing is told. */
async function lookForFinished(folders: Services['folders'], file: FoundFile): Promise<FileNow> {
  try {
    const root = await folders.resolve(dirname(file.path))
    const place = { root, fullPath: join(root, basename(file.path)), sequence: null }
    const there = await ask(root, () => lookForPlaced(place))
    if (!there) return 'not found'
    return sameStamp(file, there) ? 'as checked' : 'changed since'
  } catch (error) {
    const hangs = error instanceof NotAnswering || (error instanceof PlainError && error.code === 'not-answering')
    return hangs ? 'not answering' : 'not found'
  }
}
type FileNow = NonNullable<Finished['outcome']>['fileNow']

async function presentFinished(
  row: JobRow,
  { cut, resolutions, material }: CutState,
  folders: Services['folders'],
): Promise<Finished[]> {
  const { input, result } = row
  if (input.kind !== 'finished') return []
  const done = result?.kind === 'finished' ? result : null
  const label = (frame: number): string => formatTimecode(frame, cut.rate, cut.dropFrame)
  return [
    {
      ...{ job: presentJob(row), path: join(input.folder, input.name), start: label(input.firstFrame) },
      outcome: done && {
        fileNow: await lookForFinished(folders, done.file),
        ...{ settings: [...done.settings], frames: done.frames, events: done.events },
        ...{ asCut: done.asCut, wrong: countWrong(done.rows), toTheFrame: done.toTheFrame },
        ...{ ofOriginal: done.ofOriginal, allOff: allOff(done) },
        rows: done.rows.slice(0, mostRows).flatMap(({ position, recordFrame, pictures, state, detail }) => {
          const event: CutEvent | undefined = cut.events[position]
          if (!event) return []
          const clipName = material.clips.get(resolutions[position]?.clipId ?? '')?.name ?? event.clipName ?? ''
          return [
            {
              ...{ number: event.number, track: event.track, record: label(recordFrame), clipName, state, detail },
              ...{ frame: pictures?.frame ?? null, original: pictures?.original ?? null },
            },
          ]
        }),
        rowCount: done.rows.length,
      },
    },
  ]
}

const countWrong = (rows: readonly FinishedRow[]): number =>
  new Set(rows.flatMap(({ state, position }) => (state === 'not compared' ? [] : [position]))).size

/** By how many frames nearly all of it is off; null where it is not all by the same. */
function allOff({ rows, asCut }: { readonly rows: readonly FinishedRow[]; readonly asCut: number }): number | null {
  const shifts = rows.flatMap(({ shiftFrames }) => shiftFrames ?? [])
  const compared = asCut + rows.filter(({ state }) => state !== 'not compared').length
  const [first = 0] = shifts
  const same = shifts.filter((frames) => frames === first).length
  return same > 1 && same >= compared * nearlyAll ? first : null
}
