import { dirname } from 'node:path'
import type { CandidatePicture } from '@ennick/contract'
import { alignFrames, formatTimecode, frameBeside, type MediaFacts } from '@ennick/core'
import type { PictureSource } from '../engine/pictures.ts'
import { PlainError } from '../errors.ts'
import type { AllowedFolders } from '../http/folders.ts'
import { lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import type { FoundFile } from '../store/job-types.ts'
import { asPlaced } from './media-places.ts'

/** Of a clip the frame that its small picture shows: a third from its head, where slates are over. */
const shownFrame = ({ picture }: MediaFacts): number => Math.floor((picture?.frames ?? 0) / 3)

/**
 * The frames by which a person sees what a found file is: the one of the same timecode as the small picture of the clip
 * that is looked for, where it has that, or its own third, as small pictures show; its head and its tail.
 */
export function candidatePictures(wanted: MediaFacts | null, { facts }: FoundFile): CandidatePicture[] {
  const { picture, startFrame, dropFrame } = facts
  if (!picture || facts.kind === 'sound') return []
  const last = picture.frames - 1
  const alignment = wanted && alignFrames(wanted, facts)
  const same = wanted && alignment?.basis === 'timecode' ? frameBeside(alignment, shownFrame(wanted)) : null
  const first =
    same !== null && same >= 0 && same <= last
      ? { frame: same, shows: 'the same timecode' as const }
      : { frame: shownFrame(facts), shows: 'a third of the way' as const }
  return [first, { frame: 0, shows: 'head' as const }, { frame: last, shows: 'tail' as const }]
    .filter(({ frame }, index, all) => all.findIndex((other) => other.frame === frame) === index)
    .map(({ frame, shows }) => ({
      ...{ frame, shows },
      label: startFrame === null ? `frame ${frame}` : formatTimecode(startFrame + frame, picture.rate, dropFrame),
    }))
}

/**
 * A file that a search found, for its frames to be looked at.
 * @throws PlainError when it has left or changed since
 */
export async function candidateSource(file: FoundFile | undefined, folders: AllowedFolders): Promise<PictureSource> {
  if (!file) throw new PlainError('no-candidate', 'The search has no such file.', { status: 404 })
  // Where its folder leads to is asked anew: a link may have been put there since.
  const root = await folders.resolve(dirname(file.path))
  const placed = asPlaced(file)
  const stamp = await lookForPlaced(placed).catch(() => null)
  if (!stamp || !sameStamp(stamp, file) || root !== dirname(file.path))
    throw new PlainError('changed-since', `${file.path} has changed or left since the search. Search again.`, {
      status: 409,
    })
  return { ...file, ...placed }
}
