import { groupBy } from '../text/index.ts'
import { type FrameRange, mergeRanges, rangeLength } from '../time/index.ts'

/** Numbered stills that are one clip: "mist_0001.dpx" to "mist_0120.dpx". */
export interface StillSequence {
  /** Below the volume's root; empty for the root itself. */
  readonly folder: string
  readonly prefix: string
  readonly suffix: string
  /** Digits of a number; 0 when numbers are not padded. */
  readonly digits: number
  /** The numbers that are there, in order; the end of each is the number after its last. */
  readonly ranges: readonly FrameRange[]
}

const stillExtension = /\.(dpx|exr|tiff?|png|jpe?g|dng)$/i
const numbered = /^(.*?)(\d+)(\.[^.]+)$/

/** Fewer numbered stills than this are stills of their own. */
export const shortestSequence = 5

/**
 * Sorts the files of one folder into sequences and the rest. Names of one sequence share everything but their number,
 * and at least half of the numbers between its first and last are there: stills of a photo camera, numbered with wide
 * gaps, stay single.
 */
export function findSequences(
  folder: string,
  names: readonly string[],
): { sequences: StillSequence[]; rest: string[] } {
  const groups = new Map<string, { prefix: string; suffix: string; numbers: { digits: string; name: string }[] }>()
  const rest: string[] = []
  for (const name of names) {
    const match = stillExtension.test(name) ? numbered.exec(name) : null
    if (!match || (match[2] as string).length > 10) {
      rest.push(name)
      continue
    }
    const [, prefix, digits, suffix] = match as unknown as [string, string, string, string]
    const key = `${prefix}\n${suffix}`
    const group = groups.get(key)
    if (group) group.numbers.push({ digits, name })
    else groups.set(key, { prefix, suffix, numbers: [{ digits, name }] })
  }
  const sequences: StillSequence[] = []
  for (const { prefix, suffix, numbers } of groups.values()) {
    for (const part of byPadding(numbers)) {
      const ranges = mergeRanges(
        part.numbers.map(({ digits }) => ({ startFrame: Number(digits), endFrame: Number(digits) + 1 })),
      )
      const sequence = { folder, prefix, suffix, digits: part.digits, ranges }
      if (part.numbers.length >= shortestSequence && part.numbers.length * 2 >= sequenceFrames(sequence))
        sequences.push(sequence)
      else rest.push(...part.numbers.map(({ name }) => name))
    }
  }
  return { sequences, rest: rest.sort() }
}

/** Padded numbers have one width; numbers of several widths belong together only when none begins with a zero. */
function byPadding<T extends { digits: string }>(numbers: readonly T[]): { digits: number; numbers: T[] }[] {
  const widths = groupBy(numbers, ({ digits }) => digits.length)
  if (widths.size === 1) return [...widths].map(([digits, list]) => ({ digits, numbers: list }))
  const isPadded = numbers.some(({ digits }) => digits.length > 1 && digits.startsWith('0'))
  return isPadded
    ? [...widths].map(([digits, list]) => ({ digits, numbers: list }))
    : [{ digits: 0, numbers: [...numbers] }]
}

const first = (sequence: StillSequence): number => (sequence.ranges[0] as FrameRange).startFrame
const end = (sequence: StillSequence): number => (sequence.ranges.at(-1) as FrameRange).endFrame

/** Frames from the first number to the last, gaps included: how long the clip runs. */
export const sequenceFrames = (sequence: StillSequence): number => end(sequence) - first(sequence)

/** Stills that are there. */
export const sequenceStills = (sequence: StillSequence): number =>
  sequence.ranges.reduce((sum, range) => sum + rangeLength(range), 0)

/** The numbers that are missing between the first and the last. */
export const sequenceGaps = (sequence: StillSequence): FrameRange[] =>
  sequence.ranges.slice(1).map((range, index) => ({
    startFrame: (sequence.ranges[index] as FrameRange).endFrame,
    endFrame: range.startFrame,
  }))

/** The file name of a number. */
export const stillName = (sequence: StillSequence, number: number): string =>
  `${sequence.prefix}${String(number).padStart(sequence.digits, '0')}${sequence.suffix}`

/**
 * The path that stands for the whole sequence: "day 3/mist_####.dpx". It stays the same when stills are added.
 */
export function sequencePath(sequence: StillSequence): string {
  const name = `${sequence.prefix}${'#'.repeat(sequence.digits || 1)}${sequence.suffix}`
  return sequence.folder ? `${sequence.folder}/${name}` : name
}

/**
 * What may stand for a whole sequence where a list writes its number otherwise: as that of one still, as a range
 * ("[0041-0140]"), as a conversion of C ("%04d") or with other signs. Nothing where no number ends the stem.
 * @param stem a name without its ending
 */
export function sequenceStems(stem: string): string[] {
  const match = /(?:\d+|\[(\d+)-\d+\]|%0?(\d*)d|@+|#+)$/.exec(stem)
  if (!match) return []
  const [written, range, conversion] = match
  const digits = range?.length ?? (conversion === undefined ? written.length : Number(conversion || 1))
  // Numbers that are not padded have one sign, however many digits this one has.
  return [...new Set([digits, 1])].map((count) => stem.slice(0, match.index) + '#'.repeat(count))
}

/** The name of the clip: the prefix without the mark that parts it from the number. */
export const sequenceName = (sequence: StillSequence): string =>
  sequence.prefix.replace(/[._\- ]+$/, '') || (sequence.folder.split('/').at(-1) ?? '') || 'stills'

/** The paths of all frames in order, below the volume's root; a gap repeats the still before it, so that time holds. */
export function* sequenceFramePaths(sequence: StillSequence): Generator<string> {
  let last = first(sequence)
  for (const range of sequence.ranges) {
    const at = (number: number): string =>
      sequence.folder ? `${sequence.folder}/${stillName(sequence, number)}` : stillName(sequence, number)
    for (let number = last; number < range.startFrame; number++) yield at(last - 1)
    for (let number = range.startFrame; number < range.endFrame; number++) yield at(number)
    last = range.endFrame
  }
}

/** Where a file lies, or each of numbered stills: below the root of its volume, as many as it has frames. */
export const pathsOfFile = ({ path, sequence }: { path: string; sequence: StillSequence | null }): string[] =>
  sequence ? [...sequenceFramePaths(sequence)] : [path]

/** "frame 14", "frames 14 to 16 and 40": missing numbers in words. */
export function describeGaps(gaps: readonly FrameRange[]): string {
  const words = gaps.map((gap) =>
    rangeLength(gap) === 1 ? `${gap.startFrame}` : `${gap.startFrame} to ${gap.endFrame - 1}`,
  )
  const shown = words.length > 5 ? [...words.slice(0, 5), `${words.length - 5} more gaps`] : words
  const list = shown.length === 1 ? (shown[0] as string) : `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}`
  const isOne = gaps.length === 1 && rangeLength(gaps[0] as FrameRange) === 1
  return `${isOne ? 'frame' : 'frames'} ${list}`
}

/** Whether two are the same stills of the same name. */
export const sameSequence = (a: StillSequence | null, b: StillSequence | null): boolean =>
  a === null || b === null
    ? a === b
    : sequencePath(a) === sequencePath(b) &&
      a.ranges.length === b.ranges.length &&
      a.ranges.every(
        (range, index) =>
          range.startFrame === b.ranges[index]?.startFrame && range.endFrame === b.ranges[index]?.endFrame,
      )
