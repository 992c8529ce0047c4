import {
  type Cut,
  type CutEvent,
  clipFrameAt,
  count,
  type FrameRange,
  judgeUse,
  mostShift,
  neededRanges,
  placesIn,
  type Resolution,
  rangeLength,
  type SpanPictures,
  type Stretch,
  showsEachFrame,
  type UseOnClip,
  type UseVerdict,
} from '@ennick/core'
import type { CutState } from '../cuts/cut-state.ts'
import { areAsKnown } from '../intake/describe-file.ts'
import { placeIn } from '../pairs/both-pictures.ts'
import { lookAtClip } from '../pairs/look-at-clip.ts'
import type { WorkContext } from '../queue/context.ts'
import type { FinishedRow, FoundFile } from '../store/job-types.ts'
import type { KnownClip } from '../store/known-material.ts'
import { whoseDetailIn } from './whose-detail.ts'

/** A finished file that is held against the originals of a cut. */
export interface FinishedCheck {
  readonly state: CutState
  readonly file: FoundFile
  /** By which the file is reached while it is held open. */
  readonly path: string
  /** The record frame at which it begins. */
  readonly firstFrame: number
}

/** An event of which nothing is said. */
export function notCompared({ events }: Cut, position: number, detail: string): FinishedRow {
  const recordFrame = (events[position] as CutEvent).record.startFrame
  return { position, state: 'not compared', detail, recordFrame, pictures: null }
}

/** Holds what was seen of one event after another against its original. */
export class SpanJudge {
  readonly #context: Pick<WorkContext, 'signal'>
  readonly #check: FinishedCheck
  readonly #needed: readonly FrameRange[]
  /** Events of which every frame was told from its neighbours wherever it was looked at. */
  readonly toTheFrame = new Set<number>()
  /** Events that were told to hold the fine detail of their original, and not just that of a proxy. */
  readonly ofOriginal = new Set<number>()

  constructor(context: Pick<WorkContext, 'signal'>, check: FinishedCheck) {
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
    if (clip.presence !== 'here') return none(`Its original ${clip.name} is ${clip.presence}.`)
    if (!(await areAsKnown(clip.files))) return none(`Its original ${clip.name} is another by now, or cannot be read.`)
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
    if (!(await areAsKnown(clip.files))) return none(`Its original ${clip.name} changed meanwhile.`)
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
    return recordFrame - this.#check.firstFrame
  }

  /** The frames of the original beside what was seen, and some more at both ends, as far as it gives them. */
  async #original(
    clip: KnownClip,
    finished: readonly Stretch[],
    frameOf: (recordFrame: number) => number,
  ): Promise<Stretch[]> {
    const ranges = wantedRanges(finished, frameOf)
    const starts = [...new Set(ranges.map(({ startFrame }) => startFrame))].sort((a, b) => a - b)
    const files = clip.files.filter((file) => file.facts?.picture)
    // All of one length, so that the decoder is started once for all of them.
    return lookAtClip(files, starts, Math.max(...ranges.map(rangeLength)), this.#context.signal)
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
          `It holds no more fine detail than its proxy ${verdict.proxy}, and the original holds more: ` +
            'was it rendered from the proxy?',
        )
      case 'cannot tell':
        return row('not compared', 'What is to be seen of it does not tell whether that is its picture.')
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
