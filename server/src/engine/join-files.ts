import { createHash } from 'node:crypto'
import { symlink, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import {
  channelCount,
  exactRate,
  inputArguments,
  inputList,
  joinedStart,
  movieClock,
  type PictureFacts,
  type RecipeContainer,
  samplesBefore,
} from '@ennick/core'
import { execa } from 'execa'
import { asEnded, leash } from './process.ts'
import { withScratch } from './scratch.ts'
import {
  bytesOfSample,
  type CopiedFile,
  decodedSound,
  encoderOf,
  exactly,
  isExact,
  pictureHashes,
  streamsOf,
} from './stream-copy.ts'

interface JoinOrder {
  readonly parts: readonly [CopiedFile, ...CopiedFile[]]
  readonly target: string
  readonly container: RecipeContainer
  /** What the file says of itself, by key. */
  readonly said: Readonly<Record<string, string>>
}

/** What went into a joined file, or what the encoder complained of. */
export interface JoinOutcome {
  readonly failure: string | null
  /** Of all samples that were written, where they come out as they went in; null for sound that is compressed. */
  readonly soundHash: string | null
}

const muxers: Partial<Record<RecipeContainer, string>> = { mov: 'mov', mp4: 'mp4', mkv: 'matroska', 'mxf-op1a': 'mxf' }

/** Whether files of a container can be joined: those of one file per track cannot. */
export const canJoin = (container: RecipeContainer): boolean => muxers[container] !== undefined

/**
 * Puts files behind each other into one. Their pictures are copied packet for packet; their sound is decoded, cut or
 * padded to the very length of its picture, so that no part shifts those behind it, and written again.
 * @throws the signal's reason when cancelled
 */
export function joinFiles(
  { parts, target, container, said }: JoinOrder,
  signal: AbortSignal,
  onFrames: (frames: number) => void,
): Promise<JoinOutcome> {
  const { facts } = parts[0]
  const { rate } = facts.picture as PictureFacts
  return withScratch(async (folder) => {
    const names = parts.map((_, index) => `${index}`)
    for (const [index, { fullPath }] of parts.entries()) await symlink(fullPath, join(folder, names[index] as string))
    const seconds = parts.map(({ facts: own }) => secondsOf(own.picture as PictureFacts))
    const list = join(folder, 'list.ffconcat')
    await writeFile(list, inputList(names, false, seconds))
    const hash = createHash('sha256')
    const channels = channelCount(facts)
    const sampleRate = facts.sound[0]?.sampleRate ?? 0
    const words = [
      ...['-hide_banner', '-v', 'error', '-xerror', '-n', '-progress', 'pipe:1', '-stats_period', '0.5'],
      ...inputArguments({ kind: 'list', path: list, isStills: false }, rate),
      ...(channels ? ['-f', 's32le', '-ar', `${sampleRate}`, '-ac', `${channels}`, '-i', 'pipe:0'] : []),
      ...(channels ? ['-filter_complex', streamsOf(facts)] : []),
      ...['-map', '0:V:0', ...facts.sound.flatMap((_, index) => ['-map', `[s${index}]`])],
      ...['-map_metadata', '-1', '-c:v', 'copy', '-tag:v', '0', '-r', exactRate(rate)],
      ...facts.sound.flatMap(({ codec }, index) => [`-c:a:${index}`, encoderOf(codec)]),
      ...['-timecode', joinedStart],
      ...Object.entries(said).flatMap(([key, value]) => [
        '-metadata',
        `${container === 'mxf-op1a' ? 'comment_' : ''}${key}=${value}`,
      ]),
      ...(container === 'mov' || container === 'mp4' ? ['-movflags', '+use_metadata_tags'] : []),
      ...movieClock(container, facts),
      ...['-f', muxers[container] as string, `file:${target}`],
    ]
    const [file, ...rest] = [...leash, 'ffmpeg', ...words] as [string, ...string[]]
    const child = execa(file, rest, {
      ...(channels ? { stdin: soundOf(parts, { sampleRate, channels }, signal, (bytes) => hash.update(bytes)) } : {}),
      ...(channels ? {} : { stdin: 'ignore' as const }),
      ...{ cancelSignal: signal, forceKillAfterDelay: 3000, reject: false, env: { LC_ALL: 'C.UTF-8' } },
    })
    for await (const line of child) if (line.startsWith('frame=')) onFrames(Number(line.slice('frame='.length)))
    const result = await child
    signal.throwIfAborted()
    const { exitCode, stderr } = asEnded(result)
    const complaint = stderr.trim().split('\n')[0]
    const failure = exitCode === 0 && !complaint ? null : complaint || 'the encoder gave no reason'
    return { failure, soundHash: channels && isExact(facts) ? hash.digest('hex') : null }
  })
}

const secondsOf = ({ frames, rate }: PictureFacts): string => ((frames * rate.denominator) / rate.numerator).toFixed(6)

/** The sound of all parts, all of their channels together, each as long as its picture is. */
async function* soundOf(
  parts: readonly CopiedFile[],
  { sampleRate, channels }: { sampleRate: number; channels: number },
  signal: AbortSignal,
  onBytes: (bytes: Uint8Array) => void,
): AsyncGenerator<Uint8Array> {
  let frame = 0
  for (const { fullPath, facts } of parts) {
    const { frames, rate } = facts.picture as PictureFacts
    const samples = samplesBefore(frame + frames, rate, sampleRate) - samplesBefore(frame, rate, sampleRate)
    frame += frames
    for await (const bytes of exactly(samples * channels * bytesOfSample, decodedSound(fullPath, facts, signal))) {
      onBytes(bytes)
      yield bytes
    }
  }
}

/**
 * Holds a joined file against its parts: every picture of it is decoded and has to be that of its part, and its sound,
 * where its codec keeps it, that which was written.
 * @returns what is wrong with it; null when nothing is
 */
export async function proveJoined(
  joined: CopiedFile,
  parts: readonly CopiedFile[],
  soundHash: string | null,
  signal: AbortSignal,
  onFrames: (frames: number) => void,
): Promise<string | null> {
  const found = pictureHashes(joined.fullPath, signal)
  let frame = 0
  for (const { fullPath } of parts)
    for await (const expected of pictureHashes(fullPath, signal)) {
      const { value, done } = await found.next()
      if (done) return `it ends before its frame ${frame}`
      if (value !== expected) return `its frame ${frame} is another picture than in its part`
      if (++frame % 100 === 0) onFrames(frame)
    }
  if (!(await found.next()).done) return `it goes on behind its last frame ${frame - 1}`
  if (soundHash === null) return null
  const hash = createHash('sha256')
  for await (const bytes of decodedSound(joined.fullPath, joined.facts, signal)) hash.update(bytes)
  return hash.digest('hex') === soundHash ? null : 'its sound is another than in its parts'
}
