import { viewOf } from '../bytes/index.ts'
import { type Box, onlyBox } from './boxes.ts'

/** A stretch of a track's media as a reader is handed it: one sample, or some of sound that is not packed. */
export interface Packet {
  readonly at: number
  readonly bytes: number
  /** When it is to be decoded, in ticks of its track's clock, of which the first sample has nought. */
  readonly ticks: number
  /** Whether decoding may begin at it. */
  readonly isSync: boolean
}

/** Bytes of a file. */
export interface Extent {
  readonly at: number
  readonly bytes: number
}

/** Where the samples of a track lie and when they are due (ISO/IEC 14496-12, 8.6 and 8.7). */
export interface SampleTable {
  readonly count: number
  /** The sum of what each sample lasts. */
  readonly ticks: number
  /** What each sample lasts; null where they differ. */
  readonly each: number | null
  /** By how much the first sample is shown later than it is decoded; null where all are shown as they are decoded. */
  readonly firstShift: number | null
  /** Whether all samples are sync samples by not saying which are, all by saying so, or some. */
  readonly sync: 'unsaid' | 'all' | 'some'
  /** The stretches of the file that they lie in, each chunk one, as they are listed. */
  extents(): Generator<Extent>
  packets(): Generator<Packet>
}

/** Sound that is not packed is handed over in stretches of so many samples. */
const plainSamples = 1024

/**
 * @param plainBytes of one sample of all channels, of sound that is not packed; else null
 * @returns null where tables are missing or contradict each other, or say what is not read here
 */
export function readSampleTable(boxes: readonly Box[], plainBytes: number | null): SampleTable | null {
  // Partial sync samples; sizes in half bytes.
  if (boxes.some(({ type }) => type === 'stps' || type === 'stz2')) return null
  const [sizes, durations] = [fullBox(boxes, 'stsz', 8, 0), fullBox(boxes, 'stts', 4, 8)]
  const runs = fullBox(boxes, 'stsc', 4, 12)
  const [short, long] = [fullBox(boxes, 'stco', 4, 4), fullBox(boxes, 'co64', 4, 8)]
  const offsets = short ?? long
  if (!sizes || !durations || !runs || !offsets || (short && long)) return null
  const [told, count] = [sizes.getUint32(4), sizes.getUint32(8)]
  if (count === 0 || (told === 0 && sizes.byteLength < 12 + 4 * count)) return null
  const lasting = readDurations(durations, count)
  const chunks = readRuns(runs, offsets.getUint32(4), count)
  if (!lasting || !chunks) return null
  const isPlain = plainBytes !== null
  // Of samples that are not packed the table may say one byte each, whatever they are.
  if (isPlain && (told === 0 || (told !== 1 && told !== plainBytes) || lasting.each !== 1)) return null
  const shifts = boxes.some(({ type }) => type === 'ctts') ? firstShift(boxes) : 'none'
  const syncs = readSyncs(boxes)
  if (shifts === null || syncs === null) return null

  const offsetOf = (chunk: number): number =>
    short ? offsets.getUint32(8 + 4 * chunk) : Number(offsets.getBigUint64(8 + 8 * chunk))

  const bytesOf = (sample: number): number => (isPlain ? plainBytes : told || sizes.getUint32(12 + 4 * sample))

  return {
    *extents() {
      let counted = 0
      for (const { chunk, samples } of chunks.walk()) {
        let bytes = 0
        if (isPlain || told) bytes = samples * bytesOf(0)
        else for (let left = samples; left > 0; left--) bytes += bytesOf(counted++)
        yield { at: offsetOf(chunk), bytes }
      }
    },
    ...{ count, ticks: lasting.ticks, each: lasting.each, firstShift: shifts === 'none' ? null : shifts },
    sync: syncs === 'unsaid' ? 'unsaid' : syncs.count === count ? 'all' : 'some',
    *packets() {
      let sample = 0
      let ticks = 0
      const ticksOf = lasting.walk()
      for (const { chunk, samples } of chunks.walk()) {
        let at = offsetOf(chunk)
        for (let left = samples; left > 0; ) {
          const taken = isPlain ? Math.min(plainSamples, left) : 1
          const bytes = taken * bytesOf(sample)
          yield { at, bytes, ticks, isSync: syncs === 'unsaid' || syncs.has(sample + 1) }
          ticks += isPlain ? taken : (ticksOf.next().value as number)
          at += bytes
          sample += taken
          left -= taken
        }
      }
    },
  }
}

/** A box with version and flags, and rows of a width that it counts; null where it is not there or not whole. */
function fullBox(boxes: readonly Box[], type: string, headBytes: number, rowBytes: number): DataView | null {
  const content = onlyBox(boxes, type)
  if (!content || content.length < 4 + headBytes) return null
  const view = viewOf(content)
  return rowBytes === 0 || content.length >= 4 + headBytes + rowBytes * view.getUint32(4) ? view : null
}

interface Durations {
  readonly ticks: number
  readonly each: number | null
  walk(): Generator<number>
}

function readDurations(view: DataView, count: number): Durations | null {
  const entries = view.getUint32(4)
  let [samples, ticks] = [0, 0]
  const lengths = new Set<number>()
  for (let entry = 0; entry < entries; entry++) {
    const [some, each] = [view.getUint32(8 + 8 * entry), view.getUint32(12 + 8 * entry)]
    samples += some
    ticks += some * each
    lengths.add(each)
  }
  if (samples !== count) return null
  const [only] = lengths
  return {
    ...{ ticks, each: lengths.size === 1 && only ? only : null },
    *walk() {
      for (let entry = 0; entry < entries; entry++) {
        const each = view.getUint32(12 + 8 * entry)
        for (let left = view.getUint32(8 + 8 * entry); left > 0; left--) yield each
      }
    },
  }
}

interface Run {
  readonly first: number
  readonly end: number
  readonly samples: number
}

/** How many samples each chunk has: runs of chunks that have as many. */
function readRuns(
  view: DataView,
  chunkCount: number,
  count: number,
): { walk(): Generator<{ chunk: number; samples: number }> } | null {
  const entries = view.getUint32(4)
  function* runs(): Generator<Run> {
    for (let entry = 0; entry < entries; entry++) {
      const end = entry + 1 < entries ? view.getUint32(20 + 12 * entry) - 1 : chunkCount
      yield { first: view.getUint32(8 + 12 * entry) - 1, end, samples: view.getUint32(12 + 12 * entry) }
    }
  }
  let [sum, reached] = [0, 0]
  for (const { first, end, samples } of runs()) {
    if (first !== reached || end <= first || end > chunkCount) return null
    sum += (end - first) * samples
    reached = end
  }
  // Of the descriptions of samples there is one.
  for (let entry = 0; entry < entries; entry++) if (view.getUint32(16 + 12 * entry) !== 1) return null
  if (sum !== count) return null
  return {
    *walk() {
      for (const { first, end, samples } of runs())
        for (let chunk = first; chunk < end; chunk++) yield { chunk, samples }
    },
  }
}

/** @returns null where samples are shown before they are decoded, which shifts all of them */
function firstShift(boxes: readonly Box[]): number | null {
  const view = fullBox(boxes, 'ctts', 4, 8)
  const entries = view?.getUint32(4) ?? 0
  if (!view || entries === 0) return null
  for (let entry = 0; entry < entries; entry++) if (view.getInt32(12 + 8 * entry) < 0) return null
  return view.getInt32(12)
}

interface Syncs {
  readonly count: number
  /** @param number of a sample, the first being one */
  has(number: number): boolean
}

function readSyncs(boxes: readonly Box[]): Syncs | 'unsaid' | null {
  if (!boxes.some(({ type }) => type === 'stss')) return 'unsaid'
  const view = fullBox(boxes, 'stss', 4, 4)
  if (!view) return null
  const count = view.getUint32(4)
  return {
    count,
    has(number) {
      // They stand in rising order.
      let [low, high] = [0, count]
      while (low < high) {
        const middle = (low + high) >> 1
        if (view.getUint32(8 + 4 * middle) < number) low = middle + 1
        else high = middle
      }
      return low < count && view.getUint32(8 + 4 * low) === number
    },
  }
}
