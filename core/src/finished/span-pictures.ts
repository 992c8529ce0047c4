import {
  cellsInside,
  distanceBetween,
  type GreyPicture,
  leastVariation,
  lookHeight,
  lookWidth,
  type NormalPicture,
  normalise,
  otherAbove,
  type Stretch,
} from '../signature/index.ts'
import type { FrameRange } from '../time/index.ts'
import { placesIn } from './places.ts'

/** Of each jump in a picture so many frames before and behind it are looked at. */
const besideJump = 3
const mostJumps = 24
/** A jump is between large shapes: what moves within a picture is none. */
const [across, down] = [16, 9]
const whole = { left: 0, top: 0, right: lookWidth, bottom: lookHeight }

/**
 * The pictures of a stretch of a finished file that are held against its original: those of its places, and those
 * around every jump from one picture to another within it. They are given one after another, and only these are kept.
 */
export class SpanPictures {
  readonly #span: FrameRange
  readonly #kept = new Map<number, GreyPicture>()
  readonly #wanted: FrameRange[]
  #latest: { readonly frame: number; readonly picture: GreyPicture }[] = []
  #before: NormalPicture = null
  #jumps = 0

  constructor(span: FrameRange) {
    this.#span = span
    this.#wanted = placesIn(span)
  }

  /** Whether it jumps more often than is looked at. */
  get jumpsTooOften(): boolean {
    return this.#jumps > mostJumps
  }

  add(frame: number, picture: GreyPicture): void {
    const shape = normalise(cellsInside(picture, whole, across, down), leastVariation)
    if (frame > this.#span.startFrame && isJump(this.#before, shape)) this.#jump(frame)
    this.#before = shape
    if (this.#wanted.some(({ startFrame, endFrame }) => frame >= startFrame && frame < endFrame))
      this.#kept.set(frame, picture)
    this.#latest = [...this.#latest.slice(1 - besideJump), { frame, picture }]
  }

  #jump(frame: number): void {
    if (++this.#jumps > mostJumps) return
    this.#wanted.push({ startFrame: frame - besideJump, endFrame: Math.min(this.#span.endFrame, frame + besideJump) })
    for (const { frame: at, picture } of this.#latest) this.#kept.set(at, picture)
  }

  /** What is to be compared, in the order of the record. */
  stretches(): Stretch[] {
    const stretches: { from: number; pictures: GreyPicture[] }[] = []
    for (const [frame, picture] of [...this.#kept].sort(([a], [b]) => a - b)) {
      const last = stretches.at(-1)
      if (last && last.from + last.pictures.length === frame && !this.#begins(frame)) last.pictures.push(picture)
      else stretches.push({ from: frame, pictures: [picture] })
    }
    return stretches
  }

  /** Places that touch stay apart, as frames are told from each other by several places. */
  #begins(frame: number): boolean {
    return this.#wanted.some(({ startFrame }) => startFrame === frame)
  }
}

const isJump = (before: NormalPicture, after: NormalPicture): boolean =>
  before && after ? distanceBetween(before, after) > otherAbove : (before === null) !== (after === null)
