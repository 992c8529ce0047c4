import { symlink, writeFile } from 'node:fs/promises'
import { extname, join } from 'node:path'
import {
  beginAt,
  type EncodeInput,
  inputList,
  isTrackSet,
  type MediaFacts,
  type PictureFacts,
  type StillSequence,
  sequenceFramePaths,
} from '@ennick/core'
import { withScratch } from './scratch.ts'

/** The files of one clip as the encoder is to read them: one, its tracks, the parts of a take, or numbered stills. */
export interface EngineFile {
  readonly fullPath: string
  readonly root: string
  readonly sequence: StillSequence | null
  /** By them it is told whether several files are the tracks of a clip or its parts. */
  readonly facts?: MediaFacts | null
}

/**
 * The words that make the decoder begin at a frame, counted from 0. The time is a little early, by less than half a
 * frame: whether it is rounded up or to the nearest, it means this frame.
 */
export function seekTo(frame: number, { rate, beginsMicroseconds = 0 }: FrameTiming): string[] {
  return beginAt(beginsMicroseconds / 1_000_000 + ((frame - 0.25) * rate.denominator) / rate.numerator)
}

/** When a frame is: of the facts of a picture. */
type FrameTiming = Pick<PictureFacts, 'rate' | 'beginsMicroseconds'>

/**
 * Runs a task with the encoder's input for a clip. The parts of a take are joined by a list in a folder of its own. A
 * list has a syntax, and a folder may be called anything: so it names nothing but links of our own naming that lie
 * beside it.
 */
export async function withInput<T>(files: readonly EngineFile[], task: (input: EncodeInput) => Promise<T>): Promise<T> {
  const [first] = files as [EngineFile, ...EngineFile[]]
  const isStills = first.sequence !== null
  if (!isStills && files.length === 1)
    return task({
      ...{ kind: 'file', path: first.fullPath },
      beginsMicroseconds: first.facts?.picture?.beginsMicroseconds,
    })
  if (isTrackSet(files)) {
    const hasPicture = first.facts?.picture != null
    return task({ kind: 'tracks', paths: files.map(({ fullPath }) => fullPath), hasPicture })
  }
  const paths = first.sequence
    ? [...sequenceFramePaths(first.sequence)].map((path) => join(first.root, path))
    : files.map((file) => file.fullPath)
  return withScratch(async (folder) => {
    // A gap shows the still before it once more.
    const names = new Map<string, string>()
    for (const path of paths) if (!names.has(path)) names.set(path, `${names.size}${plainExtension(path)}`)
    for (const [path, name] of names) await symlink(path, join(folder, name))
    const list = join(folder, 'list.ffconcat')
    await writeFile(
      list,
      inputList(
        paths.map((path) => names.get(path) as string),
        isStills,
      ),
    )
    return task({ kind: 'list', path: list, isStills })
  })
}

/** By it the decoder knows what a still is; one that could mean more than that is left off. */
function plainExtension(path: string): string {
  const extension = extname(path)
  return /^\.[A-Za-z0-9]{1,8}$/.test(extension) ? extension : ''
}
