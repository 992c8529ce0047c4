import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type EncodeInput, inputList, type Rate, type StillSequence, sequenceFramePaths } from '@ennick/core'

/** The files of one clip as the encoder is to read them: one, the parts of a take, or numbered stills. */
export interface EngineFile {
  readonly fullPath: string
  readonly root: string
  readonly sequence: StillSequence | null
}

/**
 * The words that make the decoder begin at a frame, counted from 0. The time is a little early, by less than half a
 * frame: whether it is rounded up or to the nearest, it means this frame.
 */
export function seekTo(frame: number, rate: Rate): string[] {
  return frame === 0 ? [] : ['-ss', (((frame - 0.25) * rate.denominator) / rate.numerator).toFixed(6)]
}

/**
 * Runs a task with the encoder's input for a clip. Several files are joined by a list that lies in the system's folder
 * for temporary files and is removed afterwards.
 */
export async function withInput<T>(files: readonly EngineFile[], task: (input: EncodeInput) => Promise<T>): Promise<T> {
  const [first] = files as [EngineFile, ...EngineFile[]]
  const isStills = first.sequence !== null
  if (!isStills && files.length === 1) return task({ kind: 'file', path: first.fullPath })
  const paths = first.sequence
    ? [...sequenceFramePaths(first.sequence)].map((path) => join(first.root, path))
    : files.map((file) => file.fullPath)
  const folder = await mkdtemp(join(tmpdir(), 'ennick-list-'))
  try {
    const path = join(folder, 'files.ffconcat')
    await writeFile(path, inputList(paths, isStills))
    return await task({ kind: 'list', path, isStills })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
