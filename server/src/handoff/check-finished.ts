import { dirname, join } from 'node:path'
import { compareSettings, count, type EvidenceRow, SpanPictures, shownSpans } from '@ennick/core'
import { readCutState } from '../cuts/cut-state.ts'
import { withHeld } from '../disk/held-folder.ts'
import { greyFrames } from '../engine/grey-frames.ts'
import { explainFileError, isFileError, PlainError } from '../errors.ts'
import { isAsKnown } from '../intake/describe-file.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import type { FinishedRow, JobInput, JobResult } from '../store/job-types.ts'
import { readFinished } from './finished-file.ts'
import { type FinishedCheck, notCompared, SpanJudge } from './judge-span.ts'
import { handedNow, keepHanded } from './since.ts'

type FinishedInput = Extract<JobInput, { kind: 'finished' }>
type FinishedResult = Extract<JobResult, { kind: 'finished' }>

/**
 * Decodes a finished file from its first picture to its last, and holds what it shows at each event of its cut against
 * the original that the cut says: at places from its first frame to its last, and wherever the picture jumps between.
 */
export async function checkFinished(
  context: WorkContext,
  meter: ProgressMeter,
  input: FinishedInput,
): Promise<FinishedResult> {
  const { database, job, signal } = context
  const path = join(input.folder, input.name)
  const state = await readCutState(database, input.cutId)
  try {
    const file = await readFinished(input.folder, input.name, signal)
    const result = await withHeld(input.folder, async (folder) => {
      const open = await folder.open(input.name)
      const check = { state, file, firstFrame: input.firstFrame, path: folder.pathOf(open, input.name) }
      return holdAgainst(context, meter, check).finally(() => open.close())
    })
    if (!(await isAsKnown({ ...file, root: dirname(path), fullPath: path, sequence: null })))
      throw new JobFailure(`${path} changed while it was checked: check it again once it is finished.`)
    await keepHanded(database, job.id, handedNow(state))
    const told = `${result.asCut} of ${count(result.events, 'event')} shown as cut`
    const text = `The finished file ${path} was held against the originals of “${state.row.name}”: ${told}.`
    await writeHistory(database, job.productionId, 'cut', state.row.id, text)
    await announce(database, job.productionId, 'handoffs')
    return result
  } catch (error) {
    signal.throwIfAborted()
    if (isFileError(error)) throw new JobFailure(explainFileError(error, path), { cause: error })
    if (error instanceof PlainError) throw new JobFailure(error.message, { cause: error })
    throw error
  }
}

async function holdAgainst(context: WorkContext, meter: ProgressMeter, check: FinishedCheck): Promise<FinishedResult> {
  const { state, file, firstFrame } = check
  const { cut } = state
  const { production } = state.material
  const rate = file.facts.picture?.rate ?? null
  const total = file.facts.picture?.frames ?? 0
  const { spans, seen, hidden } = shownSpans(cut)
  const end = firstFrame + total
  const rows: FinishedRow[] = [...hidden].map(([position, why]) => notCompared(cut, position, why))
  const inside = spans.filter(({ record }) => record.startFrame >= firstFrame && record.endFrame <= end)
  for (const { position, record } of spans)
    if (record.startFrame < firstFrame || record.endFrame > end)
      rows.push({ ...notCompared(cut, position, 'The file does not hold all of it.'), recordFrame: record.startFrame })
  const judge = new SpanJudge(context, check)
  let [frames, next] = [0, 0]
  let complaint: string | null = null
  let pictures: SpanPictures | null = null
  meter.restart(rate)
  for await (const picture of greyFrames(check.path, context.signal, (said) => (complaint = said))) {
    const recordFrame = firstFrame + frames++
    const span = inside[next]
    if (span && recordFrame >= span.record.startFrame) {
      pictures ??= new SpanPictures(span.record)
      pictures.add(recordFrame, Uint8Array.from(picture))
      if (recordFrame + 1 === span.record.endFrame) {
        rows.push(...(await judge.judge(span.position, span.record, pictures)))
        pictures = null
        next++
      }
    }
    meter.report(frames, total, 'frames')
  }
  // What could not be decoded to its end is not said to be as cut.
  for (const { position } of inside.slice(next))
    rows.push(notCompared(cut, position, 'The file could not be decoded so far.'))
  const told = new Set(rows.map(({ position }) => position))
  const asCut = [...seen].filter((position) => !told.has(position))
  const { width, height } = production
  return {
    kind: 'finished',
    ...{ file, frames, events: seen.size + hidden.size, asCut: asCut.length },
    settings: [
      ...compareSettings(file.facts, { cut, raster: { width, height } }, firstFrame),
      ...decoded(total, frames, complaint),
    ],
    toTheFrame: asCut.filter((position) => judge.toTheFrame.has(position)).length,
    ofOriginal: asCut.filter((position) => judge.ofOriginal.has(position)).length,
    rows: rows.sort((a, b) => Number(isUntold(a)) - Number(isUntold(b)) || a.recordFrame - b.recordFrame),
  }
}

/** What is wrong is told before what cannot be told. */
const isUntold = ({ state }: FinishedRow): boolean => state === 'not compared'

function decoded(total: number, frames: number, complaint: string | null): EvidenceRow[] {
  const agrees = total === frames && complaint === null
  const found = `${count(frames, 'frame')}${complaint === null ? '' : `, “${complaint}”`}`
  const difference = agrees ? null : 'it cannot be decoded from its first frame to its last without a fault'
  return [{ aspect: 'decode', expected: count(total, 'frame'), found, agrees, difference }]
}
