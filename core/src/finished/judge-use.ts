import {
  alikeBelow,
  asIs,
  cellsInside,
  comparePictureStretches,
  distanceBetween,
  inOrder,
  mostShift,
  type NormalStretch,
  otherAbove,
  type Seen,
  type Stretch,
  see,
  type Window,
  windowInside,
} from '../signature/index.ts'

/** What of its original a stretch of the finished picture shows. */
export type UseVerdict =
  | { readonly kind: 'as cut'; readonly isToTheFrame: boolean }
  /** Each picture is the one so many frames later than the cut says; earlier where it is negative. */
  | { readonly kind: 'shifted'; readonly frames: number }
  | { readonly kind: 'another picture'; readonly recordFrame: number }
  /** Black, or of one colour, where the original is not. */
  | { readonly kind: 'empty'; readonly recordFrame: number }
  | { readonly kind: 'cannot tell' }

/** By this raster a shift of one frame shows in grain and in slow pans. */
const width = 64
const height = 36

/**
 * What some stretches of a finished picture show, beside the frames of the original that the cut says. Grading, scaling
 * and codec do not count; a picture that is cropped or written over is another one.
 * @param finished in the order of the record
 * @param original stretches that hold the frames of `clipFrame` and `mostShift` more on both sides, where they are
 * @param clipFrame which frame of the original each record frame is to show
 * @param isEach whether that is each frame once, one after another
 */
export function judgeUse(
  finished: readonly Stretch[],
  original: readonly Stretch[],
  clipFrame: (recordFrame: number) => number,
  isEach: boolean,
): UseVerdict {
  const own = windowInside(original)
  const inBars = windowInside(finished)
  const shown = seeAll(finished, inBars)
  const judge = (window: Window): UseVerdict => {
    const source = seeAll(original, window)
    const found = whatIsSeen(shown, source, clipFrame, isEach ? mostShift : 1)
    if (found.kind !== 'as cut' || !isEach) return found
    const onClip = shown.map((stretch) => ({ ...asNormal(stretch), from: clipFrame(stretch.from) }))
    const comparison = comparePictureStretches(source.map(asNormal), onClip)
    const shift = comparison.kind === 'alike' ? comparison.shift : null
    if (shift === null) return found
    return shift === 0 ? { kind: 'as cut', isToTheFrame: true } : { kind: 'shifted', frames: shift }
  }
  const fitted = judge(own)
  // Bars of the finished picture pad what is narrower, or are laid over what is not.
  return fitted.kind === 'another picture' && !sameWindow(own, inBars) ? judge(inBars) : fitted
}

/** Pictures of a stretch, by which it is told what is seen. */
interface SeenStretch {
  readonly from: number
  readonly pictures: readonly Seen[]
}

const seeAll = (stretches: readonly Stretch[], window: Window): SeenStretch[] =>
  stretches.map(({ from, pictures }) => ({
    from,
    pictures: pictures.map((picture) => see(cellsInside(picture, window, width, height))),
  }))

const asNormal = ({ from, pictures }: SeenStretch): NormalStretch => ({
  from,
  pictures: pictures.map(({ picture }) => picture),
})

const sameWindow = (a: Window, b: Window): boolean => a.left === b.left && a.top === b.top

/** @param reach how many frames beside the one that the cut says may be shown and still be its picture */
function whatIsSeen(
  shown: readonly SeenStretch[],
  source: readonly SeenStretch[],
  clipFrame: (recordFrame: number) => number,
  reach: number,
): UseVerdict {
  const known = new Map(
    source.flatMap(({ from, pictures }) => pictures.map((picture, at) => [from + at, picture] as const)),
  )
  const told = { alike: 0, unclear: 0 }
  let isUnclear = false
  for (const { from, pictures } of shown) {
    const before = { ...told }
    for (const [at, picture] of pictures.entries()) {
      const recordFrame = from + at
      const frame = clipFrame(recordFrame)
      const near = Array.from({ length: 2 * reach + 1 }, (_, index) => known.get(frame + index - reach))
      const beside = near.filter((other) => other !== undefined)
      if (!known.has(frame) || !beside.every(({ isStrong }) => isStrong)) continue
      if (!picture.picture) return { kind: 'empty', recordFrame }
      if (!picture.isStrong) continue
      const distance = distanceToNearest(picture, beside)
      if (distance > otherAbove) return { kind: 'another picture', recordFrame }
      told[distance <= alikeBelow ? 'alike' : 'unclear']++
    }
    // Somewhere in it stands what may be its picture or another that is like it.
    const unclear = told.unclear - before.unclear
    isUnclear ||= unclear > 0 && unclear >= told.alike - before.alike
  }
  return told.alike > 0 && !isUnclear ? { kind: 'as cut', isToTheFrame: false } : { kind: 'cannot tell' }
}

function distanceToNearest(picture: Seen, others: readonly Seen[]): number {
  const nearest = (as: (seen: Seen) => Float32Array): number =>
    Math.min(...others.map((other) => distanceBetween(as(other), as(picture))))
  const least = nearest(asIs)
  // Through a steep tone curve the same pictures agree in their order alone.
  return least <= alikeBelow ? least : Math.min(least, nearest(inOrder))
}
