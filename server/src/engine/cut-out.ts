import { createHash } from 'node:crypto'
import {
  channelCount,
  exactRate,
  type FrameRange,
  formatTimecode,
  type MediaFacts,
  type PictureFacts,
  pieceStart,
  rangeLength,
  readableFormats,
  samplesBefore,
} from '@ennick/core'
import { execa } from 'execa'
import { asEnded, leash } from './process.ts'
import {
  bytesOfSample,
  type CopiedFile,
  decodedSound,
  encoderOf,
  exactly,
  pictureHashes,
  streamsOf,
} from './stream-copy.ts'

/** What was written of a stretch, or what the encoder complained of. */
export interface CutOutOutcome {
  readonly failure: string | null
  /** Of all samples that were written; null where there is no sound. */
  readonly soundHash: string | null
}

/**
 * Copies a stretch of a file whose frames stand alone and whose sound is not compressed: its pictures packet for
 * packet, its sound to the sample, under the labels that they have there.
 * @param range frames, from the first of the file
 * @param target a path at which nothing is
 * @throws the signal's reason when cancelled
 */
export async function cutOut(
  from: CopiedFile,
  range: FrameRange,
  { target, reel }: { readonly target: string; readonly reel: string | null },
  signal: AbortSignal,
): Promise<CutOutOutcome> {
  const { facts } = from
  const { rate } = facts.picture as PictureFacts
  const channels = channelCount(facts)
  const sampleRate = facts.sound[0]?.sampleRate ?? 0
  const hash = createHash('sha256')
  const label = pieceStart(facts, range)
  const words = [
    ...['-hide_banner', '-v', 'error', '-xerror', '-n', ...onlyFrames(range, facts)],
    ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, '-i', `file:${from.fullPath}`],
    ...(channels ? ['-f', 's32le', '-ar', `${sampleRate}`, '-ac', `${channels}`, '-i', 'pipe:0'] : []),
    ...(channels ? ['-filter_complex', streamsOf(facts)] : []),
    ...['-map', '0:V:0', ...facts.sound.flatMap((_, index) => ['-map', `[s${index}]`])],
    ...['-map_metadata', '-1', '-c:v', 'copy', '-r', exactRate(rate)],
    ...['-avoid_negative_ts', 'make_zero'],
    ...facts.sound.flatMap(({ codec }, index) => [`-c:a:${index}`, encoderOf(codec)]),
    ...['-timecode', formatTimecode(label, rate, facts.dropFrame)],
    ...(reel === null ? [] : ['-metadata', `reel_name=${reel}`, '-metadata:s:v:0', `reel_name=${reel}`]),
    ...['-f', 'mov', `file:${target}`],
  ]
  const [file, ...rest] = [...leash, 'ffmpeg', ...words] as [string, ...string[]]
  const result = await execa(file, rest, {
    ...(channels
      ? { stdin: soundOf(from, { range, samples: samplesOf(facts, range) }, signal, (bytes) => hash.update(bytes)) }
      : { stdin: 'ignore' as const }),
    ...{ cancelSignal: signal, forceKillAfterDelay: 3000, reject: false, env: { LC_ALL: 'C.UTF-8' } },
  })
  signal.throwIfAborted()
  const { exitCode, stderr } = asEnded(result)
  const complaint = stderr.trim().split('\n')[0]
  const failure = exitCode === 0 && !complaint ? null : complaint || 'the encoder gave no reason'
  return { failure, soundHash: channels ? hash.digest('hex') : null }
}

/**
 * From the very frame, a microsecond behind its beginning, so that no rounding leads to the one before; and to the
 * middle of the last, as a count of frames would end the sound with them.
 */
function onlyFrames(range: FrameRange, { picture }: MediaFacts): string[] {
  const { numerator, denominator } = (picture as PictureFacts).rate
  const secondsBefore = (frames: number): string =>
    (Math.ceil((frames * denominator * 1_000_000) / numerator) / 1_000_000).toFixed(6)
  const from = range.startFrame === 0 ? [] : ['-ss', secondsBefore(range.startFrame)]
  return [...from, '-t', secondsBefore(rangeLength(range) - 0.5)]
}

/** The samples that run while a stretch does: not always as many as while another of its length does. */
function samplesOf({ picture, sound }: MediaFacts, { startFrame, endFrame }: FrameRange): number {
  const { rate } = picture as PictureFacts
  const sampleRate = sound[0]?.sampleRate ?? 0
  return samplesBefore(endFrame, rate, sampleRate) - samplesBefore(startFrame, rate, sampleRate)
}

/** So many samples of the sound of a stretch, all channels together. */
async function* soundOf(
  { fullPath, facts }: CopiedFile,
  { range, samples }: { range: FrameRange; samples: number },
  signal: AbortSignal,
  onBytes?: (bytes: Uint8Array) => void,
): AsyncGenerator<Uint8Array> {
  const bytes = samples * channelCount(facts) * bytesOfSample
  for await (const some of exactly(bytes, decodedSound(fullPath, facts, signal, range))) {
    onBytes?.(some)
    yield some
  }
}

/**
 * Holds a stretch that was copied against the file that it is of: its facts, every decoded picture, and its sound.
 * @param piece with what it says of itself, its packets counted
 * @param soundHash of what was written; null where the original's own sound is to be read for it
 * @returns what is wrong with it; null when nothing is
 */
export async function proveCutOut(
  piece: CopiedFile,
  of: CopiedFile,
  range: FrameRange,
  soundHash: string | null,
  signal: AbortSignal,
): Promise<string | null> {
  const [own, wanted] = [piece.facts, of.facts]
  const { rate } = wanted.picture as PictureFacts
  const frames = rangeLength(range)
  if (own.picture?.frames !== frames) return `it has ${own.picture?.frames ?? 'no'} frames instead of ${frames}`
  if (own.startFrame !== pieceStart(wanted, range) || own.dropFrame !== wanted.dropFrame)
    return 'its timecode is another than in its original'
  if (channelCount(own) !== channelCount(wanted)) return 'it has other channels than its original'
  const found = pictureHashes(piece.fullPath, signal)
  let frame = 0
  for await (const expected of pictureHashes(of.fullPath, signal, { range, rate })) {
    const { value, done } = await found.next()
    if (done) return `it ends before its frame ${frame}`
    if (value !== expected) return `its frame ${frame} is another picture than in its original`
    frame++
  }
  if (!(await found.next()).done) return `it goes on behind its last frame ${frame - 1}`
  if (frame !== frames) return `only ${frame} of ${frames} frames of its original can be decoded`
  if (channelCount(own) === 0) return null
  const samples = samplesOf(wanted, range)
  const expected = soundHash ?? (await hashOf(of, { range, samples }, signal))
  const whole = { startFrame: 0, endFrame: frames }
  const isSame = (await hashOf(piece, { range: whole, samples }, signal)) === expected
  return isSame ? null : 'its sound is another than in its original'
}

async function hashOf(
  file: CopiedFile,
  stretch: { range: FrameRange; samples: number },
  signal: AbortSignal,
): Promise<string> {
  const hash = createHash('sha256')
  for await (const bytes of soundOf(file, stretch, signal)) hash.update(bytes)
  return hash.digest('hex')
}
