import { divide, fraction, multiply, rateAsFraction, subtract, toNumber } from '../time/index.ts'
import type { SyncedSound, SyncMedium } from './by-timecode.ts'
import { type Counting, pictureSpan, samePace, secondsBetween, soundSpan } from './timecode-span.ts'

/** A camera whose timecode ran so far from the recorder's that all of its pictures say the same. */
export interface ClockDifference {
  /** The card or reel whose pictures agree. */
  readonly group: string
  /** By how many frames of the pictures their timecode is behind the recorder's; below zero when it is ahead. */
  readonly behindFrames: number
  /** The pictures that agree. */
  readonly pictureIds: readonly string[]
}

/** So near is nobody's wrong clock: jam-synced clocks are a frame apart at the end of a day. */
const nearFrames = 1
const leastAgreeing = 2

/**
 * Clocks that were wrong over a whole card: pictures whose place in their recordings is known by their sound, and whose
 * timecode says another one, all by the same number of frames.
 * @param group of a picture, by its id; null for one that belongs to none
 */
export function clockDifferences(
  synced: readonly SyncedSound[],
  medium: (id: string) => SyncMedium,
  group: (pictureId: string) => string | null,
  fallback: Counting,
): ClockDifference[] {
  const ofGroup = new Map<string, { readonly pictureId: string; readonly frames: number }[]>()
  for (const match of synced) {
    const name = group(match.pictureId)
    const frames = behindFrames(match, medium, fallback)
    if (name === null || frames === null) continue
    ofGroup.set(name, [...(ofGroup.get(name) ?? []), { pictureId: match.pictureId, frames }])
  }
  return [...ofGroup].flatMap(([name, differences]) => {
    const sorted = differences.map(({ frames }) => frames).sort((a, b) => a - b)
    const middle = sorted[Math.floor((sorted.length - 1) / 2)] as number
    const agreeing = differences.filter(({ frames }) => Math.abs(frames - middle) <= nearFrames)
    // One that contradicts the others is no constant offset.
    if (agreeing.length < leastAgreeing || agreeing.length < differences.length) return []
    if (Math.abs(middle) <= nearFrames) return []
    return [{ group: name, behindFrames: middle, pictureIds: agreeing.map(({ pictureId }) => pictureId) }]
  })
}

function behindFrames(
  { pictureId, soundIds, offsetSamples, sampleRate }: SyncedSound,
  medium: (id: string) => SyncMedium,
  fallback: Counting,
): number | null {
  const { facts } = medium(pictureId)
  const [at, of] = [pictureSpan(facts), soundSpan(medium(soundIds[0] as string).facts, fallback)]
  if (!at || !of || !samePace(at, of)) return null
  const seconds = subtract(divide(offsetSamples, fraction(sampleRate)), secondsBetween(of, at))
  const frames = toNumber(multiply(seconds, rateAsFraction(at.counting.rate)))
  const day = toNumber(multiply(fraction(86_400), rateAsFraction(at.counting.rate)))
  // Across midnight whichever way is shorter.
  return Math.round(frames - day * Math.round(frames / day))
}

/** A picture with its timecode as the recorder's clock would have had it. */
export function withClock(medium: SyncMedium, behindFrames: number): SyncMedium {
  const { startFrame } = medium.facts
  return startFrame === null ? medium : { ...medium, facts: { ...medium.facts, startFrame: startFrame + behindFrames } }
}
