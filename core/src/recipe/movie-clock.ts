import type { MediaFacts } from '../media/index.ts'

/** A second has so many ticks at most. */
const mostTicks = 2 ** 31 - 1

/**
 * The words by which the clock of a MOV or MP4 ticks so that both a frame and a sample are whole ticks; none for other
 * containers. Its edit lists count by that clock (ISO/IEC 14496-12, 8.6.6), and by the usual thousandths of a second
 * they cut compressed sound short at most rates.
 */
export function movieClock(
  container: string,
  { picture, sound }: { picture: MediaFacts['picture']; sound: readonly { readonly sampleRate: number }[] },
): string[] {
  if (container !== 'mov' && container !== 'mp4') return []
  const ticks = sound.reduce(
    (common, { sampleRate }) => (sampleRate > 0 ? leastCommonMultiple(common, sampleRate) : common),
    picture?.rate.numerator ?? 1,
  )
  return ticks > 1 && ticks <= mostTicks ? ['-movie_timescale', String(ticks)] : []
}

function leastCommonMultiple(a: number, b: number): number {
  let [x, y] = [a, b]
  while (y !== 0) [x, y] = [y, x % y]
  return (a / x) * b
}
