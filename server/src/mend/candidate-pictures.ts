import { dirname, join } from 'node:path'
import type { CandidatePicture } from '@ennick/contract'
import { alignFrames, formatTimecode, frameBeside, type MediaFacts } from '@ennick/core'
import { frameFolder } from '../config.ts'
import { builtInLutPath } from '../engine/luts.ts'
import { pictureOf } from '../engine/pictures.ts'
import { PlainError } from '../errors.ts'
import type { AllowedFolders } from '../http/folders.ts'
import { sameStamp, stampOf } from '../intake/describe-file.ts'
import type { FoundFile } from '../store/job-schema.ts'

/** Of a clip the frame that its small picture shows: a third from its head, where slates are over. */
const shownFrame = ({ picture }: MediaFacts): number => Math.floor((picture?.frames ?? 0) / 3)

/**
 * The frames by which a person sees what a found file is: the one beside the small picture of what is looked for, where
 * that is a clip, or its own third; its head and its tail.
 */
export function candidatePictures(wanted: MediaFacts | null, { facts }: FoundFile): CandidatePicture[] {
  const { picture, startFrame, dropFrame } = facts
  if (!picture || facts.kind === 'sound') return []
  const alignment = wanted && alignFrames(wanted, facts)
  const beside = wanted && alignment ? frameBeside(alignment, shownFrame(wanted)) : shownFrame(facts)
  const last = picture.frames - 1
  return [...new Set([Math.min(last, Math.max(0, beside)), 0, last])].map((frame) => ({
    frame,
    label: startFrame === null ? `frame ${frame}` : formatTimecode(startFrame + frame, picture.rate, dropFrame),
  }))
}

/**
 * A frame of a file that a search found, as it is now.
 * @throws PlainError when it has left or changed since, or shows nothing
 */
export async function candidatePicture(
  file: FoundFile | undefined,
  frame: number,
  { dataFolder, folders }: { readonly dataFolder: string; readonly folders: AllowedFolders },
): Promise<string> {
  if (!file) throw new PlainError('no-candidate', 'The search has no such file.', { status: 404 })
  // Where its folder leads to is asked anew: a link may have been put there since.
  const root = await folders.resolve(dirname(file.path))
  const stamp = await stampOf(file.path).catch(() => null)
  if (!stamp || !sameStamp(stamp, file) || root !== dirname(file.path))
    throw new PlainError('changed-since', `${file.path} has changed or left since the search. Search again.`, {
      status: 409,
    })
  const source = { ...file, fullPath: join(root, file.path.slice(root.length + 1)), root, sequence: null }
  const path = await pictureOf({ frame, size: 'small' }, source, frameFolder(dataFolder), builtInLutPath)
  if (!path) throw new PlainError('no-picture', 'There is no picture of this frame.', { status: 404 })
  return path
}
