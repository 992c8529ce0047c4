import { dirname } from 'node:path'
import { type EncodeItem, type EncodeStrip, encodeArguments, isAtomSet } from '@ennick/core'
import { joinAtomFiles } from './atom-set.ts'
import { type EngineFile, withInput } from './input.ts'
import type { Pause } from './pause.ts'
import { run } from './process.ts'

export interface EncodeOutcome {
  /** Null when the encoder did all that it was asked without complaint. */
  readonly failure: string | null
  /** Whether what it complained of may be frames of the original. */
  readonly mayBeDamaged: boolean
  readonly log: string
}

interface EncodeSource {
  /** The files of the original, in order. */
  readonly inputs: readonly EngineFile[]
  readonly font: string
  /** A file with the laid sound of the items that have such. */
  readonly sound?: string | null
  readonly strip: EncodeStrip | null
}

/**
 * Runs one encode, which reads the original once for all items. An encoder that ends well is not believed yet:
 * complaints, repeated or dropped frames are failures.
 * @throws the signal's reason when cancelled
 */
export async function encode(
  items: readonly [EncodeItem, ...EncodeItem[]],
  source: EncodeSource,
  options: { signal: AbortSignal; pause?: Pause; onProgress: (frames: number) => void },
): Promise<EncodeOutcome> {
  const counters = { frame: 0, dup_frames: 0, drop_frames: 0 }
  const result = await withInput(source.inputs, (input) =>
    run('ffmpeg', ['-progress', 'pipe:1', '-stats_period', '0.5', ...encodeArguments(items, { ...source, input })], {
      signal: options.signal,
      pause: options.pause,
      onLine: (line) => {
        const [key, value] = line.split('=') as [string, string | undefined]
        if (key in counters) counters[key as keyof typeof counters] = Number(value)
        if (key === 'progress') options.onProgress(counters.frame)
      },
    }),
  )
  const log = result.stderr.trim()
  if (result.exitCode !== 0 || log !== '')
    return { ...explainLog(log, source.inputs[0]?.fullPath ?? '', items[0].outputs[0] ?? ''), log }
  const { dup_frames: repeated, drop_frames: dropped } = counters
  if (repeated > 0)
    return {
      failure: `The encoder repeated ${repeated} frames to fill gaps: the original has damaged or missing frames.`,
      mayBeDamaged: true,
      log,
    }
  if (dropped > 0)
    return {
      failure: `The encoder dropped ${dropped} frames: the original has frames out of time.`,
      mayBeDamaged: true,
      log,
    }
  for (const { plan, outputs } of items) {
    const complaint = isAtomSet(plan) ? await joinAtomFiles(outputs) : null
    if (complaint !== null)
      return {
        failure: `The files of ${plan.name} could not be made one clip: ${complaint}.`,
        mayBeDamaged: false,
        log,
      }
  }
  return { failure: null, mayBeDamaged: false, log }
}

function explainLog(log: string, input: string, output: string): Omit<EncodeOutcome, 'log'> {
  const plain = (failure: string): Omit<EncodeOutcome, 'log'> => ({ failure, mayBeDamaged: false })
  // The folder, not the unfinished file's hidden name, is what a person can do something about.
  const folder = dirname(output)
  if (/No space left on device/i.test(log)) return plain(`There is no space left in ${folder}. Free some, and retry.`)
  if (/Permission denied/i.test(log))
    return plain(`${folder} may not be written: give Ennick the right to write there.`)
  if (/No such file or directory/i.test(log) && log.includes(input)) return plain(`${input} is no longer there.`)
  if (/Input\/output error/i.test(log))
    return plain(`${input} could not be read to its end: the volume may have been taken out.`)
  const first = log.split('\n').find((line) => line.trim() !== '')
  return { failure: `The encoder refused: ${first?.trim() ?? 'it gave no reason'}`, mayBeDamaged: true }
}
