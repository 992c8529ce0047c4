import { readdir, stat } from 'node:fs/promises'
import { join } from 'node:path'
import {
  channelCount,
  cleanTexts,
  type FrameRange,
  latestDate,
  type MediaFacts,
  type Presence,
  type Rate,
  readSoundNotes,
  type StillSequence,
  sequenceFrames,
  stillName,
} from '@ennick/core'
import { xxh64 } from '@node-rs/xxhash'
import { type FileStamp, fingerprint, stampOfStats } from '../disk/fingerprint.ts'
import { assertBeneath } from '../disk/held-folder.ts'
import { probe, readStillPlace, UnreadableMedia } from '../engine/probe.ts'
import { probeLikeOthers } from '../engine/probe-like-others.ts'
import { readNoteChunks } from '../engine/riff.ts'
import { type KnownStills, StillsMark, stillNames } from './stills-mark.ts'

export interface DescribedFile extends FileStamp {
  readonly fingerprint: string
  readonly facts: MediaFacts | null
  readonly problem: string | null
}

/** Where a file is, and for numbered stills which of them there are. */
export interface PlacedFile {
  /** The full path; for stills that of their pattern. */
  readonly fullPath: string
  /** The root of the volume. */
  readonly root: string
  readonly sequence: StillSequence | null
}

export const stampOf = async (path: string): Promise<FileStamp> => stampOfStats(await stat(path, { bigint: true }))

/**
 * The stamp of a file or of all stills of a sequence together: their bytes, the newest of their times, and a mark of
 * the bytes and the time of each.
 * @throws as `stat` does when the file, or any of the stills, is not there
 */
export async function stampOfPlaced(file: PlacedFile): Promise<FileStamp> {
  if (!file.sequence) return stampOf(file.fullPath)
  let sizeBytes = 0
  let mtimeMicros = 0
  let each = 0n
  for (const name of stillNames(file.sequence)) {
    const stamp = await stampOf(join(file.root, file.sequence.folder, name))
    sizeBytes += stamp.sizeBytes
    mtimeMicros = Math.max(mtimeMicros, stamp.mtimeMicros)
    each = xxh64(Buffer.from(`${stamp.sizeBytes} ${stamp.mtimeMicros}`), each)
  }
  return { sizeBytes, mtimeMicros, eachStamp: each.toString(16).padStart(16, '0') }
}

/**
 * The same, or null when it is not there. Whether a file that cannot be looked at is there is not known.
 * @throws as `stat` does when that is so
 */
export async function lookForPlaced(file: PlacedFile): Promise<FileStamp | null> {
  try {
    return await stampOfPlaced(file)
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    if (code === 'ENOENT' || code === 'ENOTDIR') return null
    throw error
  }
}

/** Whether two stamps agree. Numbered stills that were seen by an earlier version have no mark of each. */
export const sameStamp = (a: FileStamp, b: FileStamp): boolean =>
  a.sizeBytes === b.sizeBytes &&
  a.mtimeMicros === b.mtimeMicros &&
  (!a.eachStamp || !b.eachStamp || a.eachStamp === b.eachStamp)

/** Whether a file lies where it is known, with the size and the time that are known of it. */
export async function isAsKnown(file: PlacedFile & FileStamp): Promise<boolean> {
  const stamp = await lookForPlaced(file).catch(() => null)
  return stamp !== null && sameStamp(file, stamp)
}

/** Whether all of some files are here and can be read, each as it is known. */
export async function areAsKnown(
  files: readonly (PlacedFile & FileStamp & { readonly presence: Presence; readonly problem: string | null })[],
): Promise<boolean> {
  if (files.some(({ presence, problem }) => presence !== 'here' || problem !== null)) return false
  for (const file of files) if (!(await isAsKnown(file))) return false
  return true
}

interface FileReading {
  readonly signal?: AbortSignal
  /** Its packets are counted: slower, and proof. */
  readonly countPackets?: boolean
  /** It may be one of very many: the probe is not asked of each that is like others. */
  readonly isOneOfMany?: boolean
}

/**
 * Reads everything about one file: fingerprint and facts, or the reason why it has none. What it says of itself is
 * cleaned here, so that all that is known of files can be kept and shown.
 */
export async function describeFile(path: string, stamp: FileStamp, options: FileReading = {}): Promise<DescribedFile> {
  return cleanTexts(await readFile(path, stamp, options))
}

async function readFile(
  path: string,
  stamp: FileStamp,
  { isOneOfMany = false, ...options }: FileReading,
): Promise<DescribedFile> {
  const ask = isOneOfMany ? probeLikeOthers : probe
  const [mark, facts] = await Promise.all([
    fingerprint(path, stamp.sizeBytes),
    ask(path, stamp.sizeBytes, options).catch((error: unknown) => {
      if (error instanceof UnreadableMedia) return error
      throw error
    }),
  ])
  return facts instanceof UnreadableMedia
    ? { ...stamp, fingerprint: mark, facts: null, problem: facts.message }
    : { ...stamp, fingerprint: mark, facts: await withSoundNotes(path, facts), problem: null }
}

/** Adds what a recorder wrote into the file. */
async function withSoundNotes(path: string, facts: MediaFacts): Promise<MediaFacts> {
  const first = facts.sound[0]
  if (facts.kind !== 'sound' || !first) return facts
  const notes = readSoundNotes(
    await readNoteChunks(path),
    { channels: channelCount(facts), sampleRate: first.sampleRate },
    latestDate(new Date()),
  )
  return notes
    ? { ...facts, soundNotes: notes, timeReferenceSamples: notes.timeReferenceSamples ?? facts.timeReferenceSamples }
    : facts
}

interface StillsReading {
  readonly rate: Rate
  /** The same stills, as they may have been known before: marks were once made otherwise. */
  readonly knownAs: readonly KnownStills[]
  readonly signal: AbortSignal
}

/** Whether numbered stills hold all those of a known sequence, which are together what they were, and more. */
export async function isGrownFrom(root: string, sequence: StillSequence, known: KnownStills): Promise<boolean> {
  const isWithin = (inner: FrameRange): boolean =>
    sequence.ranges.some(({ startFrame, endFrame }) => startFrame <= inner.startFrame && inner.endFrame <= endFrame)
  if (!known.sequence.ranges.every(isWithin)) return false
  const stamp = await lookForPlaced({ fullPath: '', root, sequence: known.sequence }).catch(() => null)
  if (stamp === null || stamp.sizeBytes !== known.sizeBytes) return false
  const read = await StillsMark.read(root, known.sequence, known.sizeBytes)
  return read.mark === known.fingerprint || read.wasMarked(known)
}

/**
 * Describes numbered stills as one clip: their raster and codec from the first, their count from their numbers, their
 * rate and timecode from the first's header where it has them. Where it says no rate they run at the one that is given.
 */
export async function describeSequence(
  root: string,
  sequence: StillSequence,
  stamp: FileStamp,
  { rate, knownAs, signal }: StillsReading,
): Promise<DescribedFile> {
  const first = (sequence.ranges[0] as FrameRange).startFrame
  const pathOf = (number: number): string => join(root, sequence.folder, stillName(sequence, number))
  const read = await StillsMark.read(root, sequence, stamp.sizeBytes, signal)
  // Of what is known by both, the mark of before is what pairs and mends have.
  const before = knownAs.find((known) => read.wasMarked(known))
  const described = { ...stamp, fingerprint: before?.fingerprint ?? read.mark }
  try {
    const facts = await probe(pathOf(first), (await stampOf(pathOf(first))).sizeBytes, { signal })
    const { rate: ownRate, startFrame, dropFrame } = await readStillPlace(pathOf(first), rate)
    const frames = sequenceFrames(sequence)
    const picture = facts.picture && { ...facts.picture, rate: ownRate, frames, variableRate: false }
    const moving = { ...facts, kind: 'picture' as const, picture, startFrame, dropFrame }
    return cleanTexts({ ...described, facts: moving, problem: null })
  } catch (error) {
    if (error instanceof UnreadableMedia)
      return { ...described, facts: null, problem: `Its first still, ${stillName(sequence, first)}: ${error.message}` }
    throw error
  }
}

/**
 * Makes sure that what is read of a file, or of numbered stills, lies in its volume wherever links lead.
 * @throws LedAway when it does not; as `realpath` does when it is not there
 */
export async function assertInVolume({ root, fullPath, sequence }: PlacedFile): Promise<void> {
  if (!sequence) return assertBeneath(root, fullPath)
  const folder = join(root, sequence.folder)
  await assertBeneath(root, folder)
  const own = new Set(stillNames(sequence))
  // Asked of the folder at once: there may be tens of thousands.
  for (const entry of await readdir(folder, { withFileTypes: true }))
    if (entry.isSymbolicLink() && own.has(entry.name)) await assertBeneath(root, join(folder, entry.name))
}

/**
 * Describes either, and never what a link leads to out of the volume.
 * @throws LedAway
 */
export async function describePlaced(
  file: PlacedFile,
  stamp: FileStamp,
  reading: StillsReading,
): Promise<DescribedFile> {
  await assertInVolume(file)
  return file.sequence
    ? describeSequence(file.root, file.sequence, stamp, reading)
    : describeFile(file.fullPath, stamp, { isOneOfMany: true, signal: reading.signal })
}

/** Runs a task over items, a few at a time; the first failure stops the rest and is thrown. */
export async function forEachAtOnce<T>(
  items: readonly T[],
  atOnce: number,
  task: (item: T) => Promise<void>,
): Promise<void> {
  let next = 0
  const lane = async (): Promise<void> => {
    while (next < items.length)
      await task(items[next++] as T).catch((error) => {
        next = items.length
        throw error
      })
  }
  // Every lane has ended before the failure is told: nothing goes on behind its back.
  const ended = await Promise.allSettled(Array.from({ length: Math.min(atOnce, items.length) }, lane))
  for (const lane of ended) if (lane.status === 'rejected') throw lane.reason
}
