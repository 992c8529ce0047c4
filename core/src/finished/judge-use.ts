import {
  alikeBelow,
  byOrder,
  cellsInside,
  comparePictureStretches,
  distanceBetween,
  leastJudged,
  leastVariation,
  mostShift,
  type NormalStretch,
  normalise,
  otherAbove,
  type Stretch,
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
  const judge = (window: Window): UseVerdict => {
    const source = seen(original, window)
    const shown = seen(finished, inBars)
    const found = whatIsSeen(shown, source, clipFrame, isEach ? mostShift : 1)
    if (found.kind !== 'as cut' || !isEach) return found
    const onClip = shown.map((stretch) => ({ ...stretch, from: clipFrame(stretch.from) }))
    const comparison = comparePictureStretches(source, onClip)
    const shift = comparison.kind === 'alike' ? comparison.shift : null
    if (shift === null) return found
    return shift === 0 ? { kind: 'as cut', isToTheFrame: true } : { kind: 'shifted', frames: shift }
  }
  const fitted = judge(own)
  // Bars of the finished picture pad what is narrower, or are laid over what is not.
  return fitted.kind === 'another picture' && !sameWindow(own, inBars) ? judge(inBars) : fitted
}

/** Pictures by which it is told what is seen, and whether each is more than a codec may leave of nothing. */
interface SeenStretch extends NormalStretch {
  readonly isStrong: readonly boolean[]
}

const seen = (stretches: readonly Stretch[], window: Window): SeenStretch[] =>
  stretches.map(({ from, pictures }) => {
    const cells = pictures.map((picture) => cellsInside(picture, window, width, height))
    return {
      from,
      pictures: cells.map((picture) => normalise(picture, leastVariation)),
      isStrong: cells.map((picture) => normalise(picture, leastJudged) !== null),
    }
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
    source.flatMap(({ from, pictures, isStrong }) =>
      pictures.map((picture, at) => [from + at, { picture, isStrong: isStrong[at] === true }] as const),
    ),
  )
  const told = { alike: 0, unclear: 0 }
  let isUnclear = false
  for (const { from, pictures, isStrong } of shown) {
    const before = { ...told }
    for (const [at, picture] of pictures.entries()) {
      const recordFrame = from + at
      const frame = clipFrame(recordFrame)
      const near = Array.from({ length: 2 * reach + 1 }, (_, index) => known.get(frame + index - reach) ?? null)
      const beside = near.filter((other) => other !== null)
      if (!known.has(frame) || !beside.every((other) => other.isStrong)) continue
      if (!picture) return { kind: 'empty', recordFrame }
      if (!isStrong[at]) continue
      const distance = distanceToNearest(
        picture,
        beside.map((other) => other.picture as Float32Array),
      )
      if (distance > otherAbove) return { kind: 'another picture', recordFrame }
      told[distance <= alikeBelow ? 'alike' : 'unclear']++
    }
    // Somewhere in it stands what may be its picture or another that is like it.
    const unclear = told.unclear - before.unclear
    isUnclear ||= unclear > 0 && unclear >= told.alike - before.alike
  }
  return told.alike > 0 && !isUnclear ? { kind: 'as cut', isToTheFrame: false } : { kind: 'cannot tell' }
}

function distanceToNearest(picture: Float32Array, others: readonly Float32Array[]): number {
  const least = Math.min(...others.map((other) => distanceBetween(other, picture)))
  if (least <= alikeBelow) return least
  // Through a steep tone curve the same pictures agree in their order alone.
  const order = byOrder(picture) as Float32Array
  return Math.min(least, ...others.map((other) => distanceBetween(byOrder(other) as Float32Array, order)))
}
