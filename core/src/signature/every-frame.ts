import type { EvidenceRow } from '../pairing/index.ts'
import { distanceBetween } from './normal-stretch.ts'
import { alikeBelow, otherAbove } from './offset.ts'
import { mostShift } from './sampling.ts'
import { asIs, inOrder, type Seen, see } from './seen-picture.ts'

/** What is wrong with a frame: it is black, it shows something else, or it shows a frame so many later. */
type Trouble = 'black' | 'other' | number

/** Consecutive frames with one and the same trouble. */
interface Run {
  readonly trouble: Trouble
  readonly from: number
  frames: number
}

/** A shift counts when so many frames in a row show it: what hardly moves looks shifted now and then. */
const leastShifted = 6
/** A neighbour must be so many times nearer, and the frame itself not as near as codecs come. */
const clearlyNearer = 2
const nearEnough = 1e-4
const mostTold = 3

/**
 * Compares every picture of an item with that of its original, one after another, and remembers a few at a time: an
 * item may be hours long. Both are given in order, as the cells of pictures of one size.
 */
export class EveryFrame {
  readonly #original = new Map<number, Seen>()
  readonly #made = new Map<number, Seen>()
  readonly #runs: Run[] = []
  #next = 0
  #compared = 0

  addOriginal(frame: number, cells: Float32Array): void {
    this.#original.set(frame, see(cells))
    this.#goOn(frame - mostShift)
  }

  addMade(frame: number, cells: Float32Array): void {
    this.#made.set(frame, see(cells))
  }

  /** The line of evidence, when all pictures of both were given. */
  end(): EvidenceRow {
    this.#goOn(Number.POSITIVE_INFINITY)
    const wrong = this.#runs.filter(({ trouble, frames }) => typeof trouble === 'string' || frames >= leastShifted)
    const count = `${this.#compared} pictures alike`
    const told = wrong.slice(0, mostTold).map(describe)
    const more = wrong.length > mostTold ? `; and ${wrong.length - mostTold} more places` : ''
    return {
      aspect: 'pictures',
      expected: `all ${count}`,
      found: wrong.length ? `${wrong.length} ${wrong.length === 1 ? 'place' : 'places'} unlike` : `all ${count}`,
      agrees: wrong.length === 0,
      difference: wrong.length ? `${told.join('; ')}${more}` : null,
    }
  }

  /** Judges what both have, up to a frame whose neighbours are all there. */
  #goOn(upTo: number): void {
    for (; this.#next <= upTo && this.#made.has(this.#next); this.#next++) {
      const frame = this.#next
      if (this.#original.has(frame)) {
        const trouble = this.#judge(frame, this.#made.get(frame) as Seen)
        this.#compared++
        if (trouble !== null) this.#note(frame, trouble)
      }
      this.#made.delete(frame)
      this.#original.delete(frame - mostShift)
    }
  }

  #judge(frame: number, item: Seen): Trouble | null {
    const source = this.#original.get(frame) as Seen
    const [original, made] = [source.picture, item.picture]
    if (!made) return source.isStrong ? 'black' : null
    if (!original) return item.isStrong ? 'other' : null
    if (!source.isStrong || !item.isStrong) return null
    const own = distanceBetween(original, made)
    if (own <= nearEnough) return null
    // Through a steep tone curve the same pictures agree in their order alone, and their neighbours less.
    const [levels, order] = [own, distanceBetween(inOrder(source), inOrder(item))]
    const shift = order < levels ? this.#nearest(frame, item, order, inOrder) : this.#nearest(frame, item, levels, asIs)
    return shift ?? (Math.min(levels, order) > otherAbove ? 'other' : null)
  }

  /** The shift at which a neighbour is clearly nearer; null when none is. */
  #nearest(frame: number, item: Seen, own: number, as: (seen: Seen) => Float32Array): number | null {
    let [best, least] = [0, own]
    for (let shift = -mostShift; shift <= mostShift; shift++) {
      const other = this.#original.get(frame + shift)
      const distance = other?.picture && shift !== 0 ? distanceBetween(as(other), as(item)) : own
      if (distance < least) [best, least] = [shift, distance]
    }
    return best !== 0 && own > nearEnough && least * clearlyNearer < own && least <= alikeBelow ? best : null
  }

  #note(frame: number, trouble: Trouble): void {
    const last = this.#runs.at(-1)
    if (last && last.trouble === trouble && last.from + last.frames === frame) last.frames++
    else this.#runs.push({ trouble, from: frame, frames: 1 })
  }
}

function describe({ trouble, from, frames }: Run): string {
  const which = frames === 1 ? `frame ${from}` : `${frames} frames from ${from}`
  if (trouble === 'black') return `${which} ${frames === 1 ? 'is' : 'are'} black`
  if (trouble === 'other') return `${which} ${frames === 1 ? 'shows' : 'show'} another picture`
  const by = `${Math.abs(trouble)} ${Math.abs(trouble) === 1 ? 'frame' : 'frames'}`
  return `${which} run ${by} ${trouble < 0 ? 'late' : 'early'}`
}
