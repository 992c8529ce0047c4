import { fileName } from '../naming/index.ts'
import { count } from '../text/index.ts'
import { formatTimecode } from '../time/index.ts'
import type { MediaFacts, PictureFacts } from './facts.ts'
import { follows } from './spanned-take.ts'
import { isTrackSet } from './track-set.ts'

interface PartOfClip {
  readonly path: string
  readonly facts: MediaFacts | null
}

/**
 * Why the files of a clip are no one clip any more, for a person: parts of a take that do not follow each other, tracks
 * of another recording. One of them was delivered again or repointed, and is not what the others go with.
 * @param files in the order of the clip; with the picture first where they are its tracks
 * @returns null while they go together, and where what one of them says is not known
 */
export function whyNotOneClip(files: readonly PartOfClip[]): string | null {
  const [first] = files
  if (!first?.facts || files.length < 2) return null
  const areTracks = isTrackSet(files)
  for (const [index, file] of files.slice(1).entries()) {
    const before = files[index] as PartOfClip
    if (!file.facts || !before.facts) return null
    const why = !areTracks
      ? whyNotNext(before.path, before.facts, file.path, file.facts)
      : first.facts.picture
        ? whyNotOfPackage(first.path, first.facts, file.path, file.facts)
        : whyNotBeside(first.path, first.facts, file.path, file.facts)
    if (why !== null) return why
  }
  return null
}

function whyNotNext(beforePath: string, before: MediaFacts, path: string, facts: MediaFacts): string | null {
  if (!before.picture || !facts.picture || before.startFrame === null || facts.startFrame === null) return null
  if (follows(before, facts)) return null
  const ends = before.startFrame + before.picture.frames
  const at = (frame: number, of: MediaFacts): string =>
    formatTimecode(frame, (of.picture as PictureFacts).rate, of.dropFrame)
  return ends === facts.startFrame
    ? `${fileName(path)} has another rate, raster, codec, reel or sound than ${fileName(beforePath)}`
    : `${fileName(path)} begins at ${at(facts.startFrame, facts)}, where ${fileName(beforePath)} ends at ${at(ends, before)}`
}

function whyNotOfPackage(firstPath: string, first: MediaFacts, path: string, facts: MediaFacts): string | null {
  const [own, other] = [first.materialPackage?.id, facts.materialPackage?.id]
  return own === undefined || other === undefined || own === other
    ? null
    : `${fileName(path)} names another material package than ${fileName(firstPath)}`
}

function whyNotBeside(firstPath: string, first: MediaFacts, path: string, facts: MediaFacts): string | null {
  const [own, other] = [first.sound[0], facts.sound[0]]
  if (!own || !other || own.samples === null || other.samples === null) return null
  if (own.sampleRate !== other.sampleRate)
    return `${fileName(path)} has ${other.sampleRate} samples a second, and ${fileName(firstPath)} ${own.sampleRate}`
  const [from, start] = [first.timeReferenceSamples, facts.timeReferenceSamples]
  if (from !== null && start !== null && from !== start)
    return `${fileName(path)} begins ${apart(start - from, 'later', 'earlier')} than ${fileName(firstPath)}`
  return own.samples === other.samples
    ? null
    : `${fileName(path)} is ${apart(other.samples - own.samples, 'longer', 'shorter')} than ${fileName(firstPath)}`
}

const apart = (samples: number, more: string, less: string): string =>
  `${count(Math.abs(samples), 'sample')} ${samples > 0 ? more : less}`
