import type { ViewSide } from '@ennick/contract'
import {
  alignFrames,
  ceiling,
  channelCount,
  describePictureCodec,
  describeSoundCodec,
  isLogPicture,
  type MediaFacts,
  mediumRange,
  originalBeside,
  type PairVerdict,
  playsInBrowser,
  type Rate,
  subtract,
  worstPresence,
} from '@ennick/core'
import { recipeOf } from '../pairs/present.ts'
import type { KnownClip, KnownFile } from '../store/known-material.ts'

/** The files of one side of a clip. */
export interface SideFiles {
  readonly id: string
  /** In order; none for sound. */
  readonly pictures: readonly KnownFile[]
  /** Files beside the picture that hold sound alone. */
  readonly sound: readonly KnownFile[]
}

/** The original, and whatever was made of it and is in use. */
export function sidesOf(clip: KnownClip): SideFiles[] {
  const isPicture = (file: KnownFile): boolean => file.facts?.picture != null
  return [
    {
      id: 'original',
      pictures: clip.files.filter(isPicture),
      sound: clip.files.filter((file) => !isPicture(file)),
    },
    ...clip.pairs.map((pair) => ({
      id: pair.id,
      pictures: pair.files.filter(({ part }) => part !== 'sound').map(({ file }) => file),
      sound: pair.files.filter(({ part }) => part === 'sound').map(({ file }) => file),
    })),
  ]
}

/** A better verdict comes first; those without one of these words come last. */
const byWorth: readonly PairVerdict[] = ['proven', 'matched', 'original away', 'original gone', 'unchecked', 'stale']
/** How well an item agrees with its original, by its verdict: less is better; an original comes first. */
export const worth = (verdict: PairVerdict | null): number => {
  if (verdict === null) return -1
  return byWorth.includes(verdict) ? byWorth.indexOf(verdict) : byWorth.length
}

/**
 * What a clip can be looked at in: the original first, then what was made of it, what agrees with it before what does
 * not.
 * @param fallback the rate at which frames of sound are counted
 */
export function presentSides(clip: KnownClip, fallback: Rate): ViewSide[] {
  const sides = sidesOf(clip).map((side) => presentSide(clip, side, fallback))
  return sides.sort((a, b) => worth(a.verdict) - worth(b.verdict))
}

function presentSide(clip: KnownClip, side: SideFiles, fallback: Rate): ViewSide {
  const pair = clip.pairs.find(({ id }) => id === side.id) ?? null
  const files = [...side.pictures, ...side.sound]
  const first = files[0] as KnownFile
  const facts = pair ? first.facts : clip.main.facts
  const original = clip.main.facts
  const alignment = original && facts ? alignFrames(original, facts) : null
  const rate = facts?.picture?.rate ?? fallback
  const frames = facts ? lengthInFrames(facts, rate) : 0
  const sizeBytes = files.reduce((sum, file) => sum + file.sizeBytes, 0)
  return {
    id: side.id,
    kind: pair?.kind ?? 'original',
    name: pair?.name ?? clip.name,
    recipe: pair && recipeOf(pair),
    raster: facts?.picture ? `${facts.picture.width} × ${facts.picture.height}` : '',
    codec: facts ? codecOf(facts) : '',
    volumeLabel: first.volume.label,
    path: first.path,
    presence: worstPresence(files.map(({ presence }) => presence)),
    sizeBytes,
    bitsPerSecond: frames > 0 ? Math.round((sizeBytes * 8 * rate.numerator) / (rate.denominator * frames)) : null,
    verdict: pair?.verdict ?? null,
    parts: partsOf(side),
    frames,
    rate,
    basis: alignment?.basis ?? 'first frame',
    shiftFrames: alignment?.shiftFrames ?? 0,
    playsAsItIs: side.pictures.length === 1 && side.sound.length === 0 && facts !== null && playsInBrowser(facts),
    hasViewingLut: facts?.picture ? isLogPicture(facts.picture) : false,
    tracks: trackNames(clip, files),
    comparison: pair?.compare() ?? null,
  }
}

function codecOf({ picture, sound: [sound] }: MediaFacts): string {
  if (picture) return describePictureCodec(picture)
  return sound ? describeSoundCodec(sound) : ''
}

function partsOf({ pictures }: SideFiles): ViewSide['parts'] {
  let startFrame = 0
  return pictures.map((file) => {
    const part = { fileId: file.id, startFrame, frames: file.facts?.picture?.frames ?? 0 }
    startFrame += part.frames
    return part
  })
}

/** How long a medium is in frames of a rate; the last of sound may be a part of one. */
export function lengthInFrames(facts: MediaFacts, rate: Rate): number {
  if (facts.picture) return facts.picture.frames
  const range = mediumRange(facts, rate)
  return range ? Number(ceiling(subtract(range.end, range.start))) : 0
}

/** The channels of a side by their names; those of what was made are the original's, where it has as many. */
function trackNames(clip: KnownClip, files: readonly KnownFile[]): string[] {
  const channels = files.reduce((sum, { facts }) => sum + (facts ? channelCount(facts) : 0), 0)
  const named = clip.main.facts?.soundNotes?.trackNames ?? []
  return Array.from({ length: channels }, (_, index) => (named.length === channels ? (named[index] ?? '') : ''))
}

/** The frame of a clip at which a frame of one of its sides is seen, both counted from their first. */
export function clipFrameAt(clip: KnownClip, sideId: string, frame: number): number {
  const pair = clip.pairs.find(({ id }) => id === sideId)
  const item = pair?.files.find(({ part }) => part !== 'sound')?.file.facts
  const alignment = item && clip.main.facts ? alignFrames(clip.main.facts, item) : null
  return alignment ? originalBeside(alignment, frame) : frame
}
