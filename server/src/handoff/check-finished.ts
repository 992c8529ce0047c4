import { dirname, join } from 'node:path'
import {
  type Cut,
  type CutEvent,
  clipFrameAt,
  compareSettings,
  count,
  type EvidenceRow,
  type FrameRange,
  groupBy,
  judgeUse,
  mostShift,
  neededRanges,
  placesIn,
  type Resolution,
  rangeLength,
  SpanPictures,
  type Stretch,
  shownSpans,
  showsEachFrame,
  type UseOnClip,
  type UseVerdict,
} from '@ennick/core'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { withHeld } from '../disk/held-folder.ts'
import { greyFrames } from '../engine/grey-frames.ts'
import { explainFileError, isFileError } from '../errors.ts'
import { isAsKnown } from '../intake/describe-file.ts'
import { placeIn } from '../pairs/both-pictures.ts'
import { lookAtClip } from '../pairs/look-at-clip.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import type { FinishedRow, FoundFile, JobInput, JobResult } from '../store/job-schema.ts'
import type { KnownClip } from '../store/material.ts'
import { readFinished } from './finished-file.ts'
import { whoseDetailIn } from './whose-detail.ts'

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
      return holdAgainst(context, meter, { state, file, input, path: folder.pathOf(open, input.name) }).finally(() =>
        open.close(),
      )
    })
    if (!(await isAsKnown({ ...file, root: dirname(path), fullPath: path, sequence: null })))
      throw new JobFailure(`${path} changed while it was checked: check it again once it is finished.`)
    const told = `${result.asCut} of ${count(result.events, 'event')} shown as cut`
    const text = `The finished file ${path} was held against the originals of “${state.row.name}”: ${told}.`
    await writeHistory(database, job.productionId, 'cut', state.row.id, text)
    await announce(database, job.productionId, 'handoffs')
    return result
  } catch (error) {
    signal.throwIfAborted()
    if (isFileError(error)) throw new JobFailure(explainFileError(error, path), { cause: error })
    throw error
  }
}

interface Check {
  readonly state: CutState
  readonly file: FoundFile
  readonly input: FinishedInput
  /** By which the file is reached while it is held open. */
  readonly path: string
}

async function holdAgainst(context: WorkContext, meter: ProgressMeter, check: Check): Promise<FinishedResult> {
  const { state, file, input } = check
  const { cut } = state
  const { production } = state.material
  const rate = file.facts.picture?.rate ?? null
  const total = file.facts.picture?.frames ?? 0
  const { spans, hidden } = shownSpans(cut)
  const end = input.firstFrame + total
  const rows: FinishedRow[] = [...hidden].map(([position, why]) => notCompared(cut, position, why))
  const inside = spans.filter(({ record }) => record.startFrame >= input.firstFrame && record.endFrame <= end)
  for (const { position, record } of spans)
    if (record.startFrame < input.firstFrame || record.endFrame > end)
      rows.push({ ...notCompared(cut, position, 'The file does not hold all of it.'), recordFrame: record.startFrame })
  const judge = new SpanJudge(context, check)
  let [frames, next] = [0, 0]
  let complaint: string | null = null
  let pictures: SpanPictures | null = null
  meter.restart(rate)
  for await (const picture of greyFrames(check.path, context.signal, (said) => (complaint = said))) {
    const recordFrame = input.firstFrame + frames++
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
  const seen = [...new Set(spans.map(({ position }) => position))]
  const asCut = seen.filter((position) => !told.has(position))
  const { width, height } = production
  return {
    kind: 'finished',
    ...{ file, frames, events: seen.length + hidden.size, asCut: asCut.length },
    settings: [
      ...compareSettings(file.facts, { cut, raster: { width, height } }, input.firstFrame),
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

function notCompared({ events }: Cut, position: number, detail: string): FinishedRow {
  const recordFrame = (events[position] as CutEvent).record.startFrame
  return { position, state: 'not compared', detail, recordFrame, pictures: null }
}

/** Holds what was seen of one event after another against its original. */
class SpanJudge {
  readonly #context: WorkContext
  readonly #check: Check
  readonly #needed: readonly FrameRange[]
  /** Events of which every frame was told from its neighbours wherever it was looked at. */
  readonly toTheFrame = new Set<number>()
  /** Events that were told to hold the fine detail of their original, and not just that of a proxy. */
  readonly ofOriginal = new Set<number>()

  constructor(context: WorkContext, check: Check) {
    this.#context = context
    this.#check = check
    this.#needed = neededRanges(check.state.cut.events, check.state.cut.rate)
  }

  /** @returns nothing where it is as the cut says */
  async judge(position: number, record: FrameRange, pictures: SpanPictures): Promise<FinishedRow[]> {
    const { cut, material, resolutions } = this.#check.state
    const resolution = resolutions[position] as Resolution
    const clip = resolution.clipId === null ? undefined : material.clips.get(resolution.clipId)
    const none = (why: string): FinishedRow[] => [
      { ...notCompared(cut, position, why), recordFrame: record.startFrame },
    ]
    if (!clip?.main.facts?.picture) return none('It is on no original.')
    if (clip.role !== 'original') return none(`It is on ${clip.name}, which is no original.`)
    if (!(await areThere(clip))) return none(`Its original ${clip.name} is not here as it is known.`)
    const shift = resolution.needed.startFrame - (this.#needed[position] as FrameRange).startFrame
    const use: UseOnClip = {
      ...{ event: cut.events[position] as CutEvent, recordRate: cut.rate, shift, facts: clip.main.facts },
    }
    const finished = pictures.stretches()
    const frameOf = (recordFrame: number): number => clipFrameAt(use, recordFrame)
    const original = await this.#original(clip, finished, frameOf)
    const known = new Set(original.flatMap(({ from, pictures }) => pictures.map((_, index) => from + index)))
    if (!finished.every(({ from, pictures }) => pictures.every((_, index) => known.has(frameOf(from + index)))))
      return none(`Its original ${clip.name} does not hold all that it shows, or cannot be decoded there.`)
    if (!(await areThere(clip))) return none(`Its original ${clip.name} changed meanwhile.`)
    const verdict = judgeUse(finished, original, frameOf, showsEachFrame(use))
    if (verdict.kind === 'as cut') {
      if (pictures.jumpsTooOften) return none('Its picture jumps so often that not all of it was looked at.')
      const detail = await whoseDetailIn({ file: this.#check.file, path: this.#check.path }, clip, {
        ...{ finished: this.#frameIn(placeOf(record)), original: frameOf(placeOf(record)) },
        signal: this.#context.signal,
      })
      if (detail && detail.of === 'the proxy')
        return [this.#row(position, record, { kind: 'soft', ...detail }, clip, frameOf)]
      if (detail) this.ofOriginal.add(position)
      if (verdict.isToTheFrame) this.toTheFrame.add(position)
      return []
    }
    return [this.#row(position, record, verdict, clip, frameOf)]
  }

  #frameIn(recordFrame: number): number {
    return recordFrame - this.#check.input.firstFrame
  }

  /** The frames of the original beside what was seen, and some more at both ends; without those that it does not give. */
  async #original(
    clip: KnownClip,
    finished: readonly Stretch[],
    frameOf: (recordFrame: number) => number,
  ): Promise<Stretch[]> {
    const stretches: Stretch[] = []
    const byLength = groupBy(wantedRanges(finished, frameOf), rangeLength)
    for (const [frames, ranges] of byLength) {
      const starts = [...new Set(ranges.map(({ startFrame }) => startFrame))].sort((a, b) => a - b)
      const files = clip.files.filter((file) => file.facts?.picture)
      stretches.push(...(await lookAtClip(files, starts, frames, this.#context.signal)))
    }
    return stretches
  }

  #row(
    position: number,
    record: FrameRange,
    verdict: Exclude<UseVerdict, { kind: 'as cut' }> | { readonly kind: 'soft'; readonly proxy: string },
    clip: KnownClip,
    frameOf: (recordFrame: number) => number,
  ): FinishedRow {
    const recordFrame = 'recordFrame' in verdict ? verdict.recordFrame : placeOf(record)
    const original = placeIn(clip, frameOf(recordFrame))
    const pictures = original && { frame: this.#frameIn(recordFrame), original }
    const row = (state: FinishedRow['state'], detail: string): FinishedRow => ({
      ...{ position, state, detail, recordFrame, pictures },
    })
    switch (verdict.kind) {
      case 'shifted': {
        const by = count(Math.abs(verdict.frames), 'frame')
        const told = `It runs ${by} ${verdict.frames < 0 ? 'late' : 'early'} throughout.`
        return { ...row('off by frames', told), shiftFrames: verdict.frames }
      }
      case 'another picture':
        return row('another picture', `It does not show what ${clip.name} shows there.`)
      case 'empty':
        return row('black', `It is black, or of one colour, where ${clip.name} is not.`)
      case 'soft':
        return row(
          'soft',
          `It holds no more fine detail than its proxy ${verdict.proxy}, and the original holds more: was it rendered from the proxy?`,
        )
      case 'cannot tell':
        return row('not compared', 'Too little is to be seen in it to tell what it shows.')
    }
  }
}

/** In the middle of what is looked at of a stretch. */
function placeOf(record: FrameRange): number {
  const places = placesIn(record)
  return (places[Math.floor(places.length / 2)] ?? record).startFrame
}

/** The frames of the original that stretches of the finished picture are to show, with some more at both ends. */
function wantedRanges(finished: readonly Stretch[], frameOf: (recordFrame: number) => number): FrameRange[] {
  return finished.map(({ from, pictures }) => {
    const shown = pictures.map((_, index) => frameOf(from + index))
    const startFrame = Math.max(0, Math.min(...shown) - mostShift)
    return { startFrame, endFrame: Math.max(...shown) + 1 + mostShift }
  })
}

async function areThere({ files }: KnownClip): Promise<boolean> {
  for (const file of files)
    if (file.presence !== 'here' || file.problem !== null || !(await isAsKnown(file))) return false
  return true
}
