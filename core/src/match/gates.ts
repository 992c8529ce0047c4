import { describePictureCodec, labelledRange } from '../media/index.ts'
import {
  type ExactRange,
  type Fraction,
  floor,
  formatFrames,
  formatRate,
  formatTimecode,
  isCovered,
  isElsewhere,
  type Rate,
  sameRate,
  shortfall,
} from '../time/index.ts'
import { type Candidate, isOfKind, type PictureGrade, type Wanted, type WantedUse } from './identity.ts'

/** What keeps a candidate from being chosen, whatever else speaks for it. */
export interface ClosedGate {
  readonly gate: 'kind' | 'rate' | 'role' | 'coverage' | 'raster' | 'grade' | 'content'
  /** Why, as the end of a sentence that begins with "The nearest file is refused: ". */
  readonly sentence: string
  /** Whether a person may open it, with a reason: what would break the cut stays closed. */
  readonly mayBeOpened: boolean
}

/**
 * The gates that are closed for a candidate: another kind of media, another rate, no original, too short for a use, or
 * less of a picture than what was lost. Media of the very content that is wanted is neither a proxy nor a re-export.
 */
export function closedGates(wanted: Wanted, candidate: Candidate): ClosedGate[] {
  const { facts } = candidate
  const gates: ClosedGate[] = []
  const close = (gate: ClosedGate['gate'], sentence: string, mayBeOpened = false): void => {
    gates.push({ gate, sentence, mayBeOpened })
  }
  if (wanted.kind !== null && !isOfKind(wanted.kind, facts))
    close('kind', `it is ${facts.kind}, and ${wanted.kind} is wanted`)
  const rate = facts.picture?.rate
  if (wanted.rate && rate && !sameRate(wanted.rate, rate))
    // What no cut uses yet may be paired all the same, and made anew.
    close('rate', `its rate is ${formatRate(rate)}, not ${formatRate(wanted.rate)}`, wanted.uses.length === 0)
  for (const use of wanted.uses) {
    const short = shortFor(use, facts)
    if (!short) continue
    close('coverage', short)
    break
  }
  if (wanted.fingerprint !== null && wanted.fingerprint === candidate.fingerprint) return gates
  if (candidate.role !== 'original') close('role', `it is no original: ${candidate.roleReason ?? candidate.role}`, true)
  const less = wanted.picture && facts.picture ? lessThan(wanted.picture, facts.picture) : null
  if (less) close(less.gate, less.sentence, true)
  return gates
}

/** Why media does not reach over a use, with the numbers; null when it does, or when its length is not known. */
export function shortFor(use: WantedUse, facts: Candidate['facts']): string | null {
  const range = labelledRange(facts, use.rate)
  if (!range) return null
  const lack = shortfall(use.range, range)
  if (isCovered(lack)) return null
  if (isElsewhere(use.range, range)) {
    const label = (frame: Fraction): string => labelOf(Number(floor(frame)), use.rate, facts)
    const span = ({ start, end }: ExactRange): string => `${label(start)} to ${label(end)}`
    return `its timecode is elsewhere: ${use.label} needs ${span(use.range)}, and it runs from ${span(range)}`
  }
  const parts = [
    lack.headFrames.numerator ? `${formatFrames(lack.headFrames)} at the head` : '',
    lack.tailFrames.numerator ? `${formatFrames(lack.tailFrames)} at the tail` : '',
  ].filter(Boolean)
  return `too short: ${use.label} needs ${parts.join(' and ')} more`
}

/** A frame as a label of a rate, with the medium's own flag where it counts at that rate. */
export const labelOf = (frame: number, rate: Rate, facts: Candidate['facts']): string =>
  formatTimecode(frame, rate, facts.dropFrame && (!facts.picture || sameRate(facts.picture.rate, rate)))

/** Codecs that keep most pictures as what changed since others: nobody makes those from originals but to be small. */
const interFrame = new Set(['h264', 'hevc', 'mpeg4', 'mpeg2video', 'vp8', 'vp9', 'av1'])

const raster = ({ width, height }: PictureGrade): string => `${width} × ${height}`

function lessThan(lost: PictureGrade, found: PictureGrade & { readonly profile: string | null }) {
  if (found.width < lost.width || found.height < lost.height)
    return {
      gate: 'raster' as const,
      sentence: `it is ${raster(found)}, and the lost original is ${raster(lost)}: a smaller re-export`,
    }
  const lostCodec = describePictureCodec({ ...lost, profile: null })
  const names = `${describePictureCodec(found)}, and the lost original is ${lostCodec}`
  if (interFrame.has(found.codec) && !interFrame.has(lost.codec))
    return { gate: 'grade' as const, sentence: `it is ${names}: a re-export of lower grade` }
  const depths = [bitDepth(found.pixelFormat), bitDepth(lost.pixelFormat)]
  if (depths[0] !== null && depths[1] !== null && (depths[0] as number) < (depths[1] as number))
    return {
      gate: 'grade' as const,
      sentence: `it has ${depths[0]} bits a sample, and the lost original ${depths[1]}: a re-export of lower grade`,
    }
  return null
}

/** Bits a sample, as the names of pixel formats say it; 8 where they say nothing. */
function bitDepth(pixelFormat: string | null): number | null {
  if (pixelFormat === null) return null
  return Number(/(?:p|gray|rgb|bgr)0?(9|10|12|14|16)(?:le|be)$/.exec(pixelFormat)?.[1] ?? 8)
}
