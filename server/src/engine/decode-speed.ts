import { inputArguments, type MediaFacts } from '@ennick/core'
import { type EngineFile, withInput } from './input.ts'
import { run } from './process.ts'

/** Enough for the start of the decoder to matter little, and short enough to be done beside other work. */
const sampleFrames = 120

/**
 * Decodes the first frames of a file and answers how many a second that was, without the time that starting takes.
 * Null when it cannot be decoded, or is too short to tell.
 */
export async function measureDecode(file: EngineFile, facts: MediaFacts, signal: AbortSignal): Promise<number | null> {
  const frames = Math.min(sampleFrames, facts.picture?.frames ?? 0)
  if (frames < 12) return null
  const once = await decode(file, facts, 1, signal)
  const sample = await decode(file, facts, frames, signal)
  if (once === null || sample === null) return null
  // What is decoded faster than starting varies is counted with its start: it is more than fast enough.
  return sample > once ? (frames - 1) / (sample - once) : frames / sample
}

async function decode(
  file: EngineFile,
  facts: MediaFacts,
  frames: number,
  signal: AbortSignal,
): Promise<number | null> {
  return withInput([file], async (input) => {
    const startedAt = performance.now()
    const rate = facts.picture?.rate ?? { numerator: 25, denominator: 1 }
    const args = [
      '-v',
      'error',
      '-nostdin',
      ...inputArguments(input, rate),
      '-map',
      '0:V:0',
      '-frames:v',
      String(frames),
      '-f',
      'null',
      '-',
    ]
    const result = await run('ffmpeg', args, { signal, timeoutMilliseconds: 120_000 })
    return result.exitCode === 0 ? (performance.now() - startedAt) / 1000 : null
  })
}
