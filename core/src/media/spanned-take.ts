import { normalName, stem } from '../naming/index.ts'
import { sameRate } from '../time/index.ts'
import type { MediaFacts, PictureFacts } from './facts.ts'

export interface SpanPart {
  readonly id: string
  /** Below the volume's root. */
  readonly path: string
  readonly sizeBytes: number
  readonly facts: MediaFacts
}

/**
 * Finds takes that a camera spread over several files. Parts lie in one folder, share a name that ends in a counter set
 * apart by "_", "-" or "." and starting at 0 or 1, have equal facts, follow each other without a frame between, and
 * were cut at a limit: all but the last are of one size to a twentieth. The last rule keeps apart the takes of a camera
 * whose timecode stands still between them.
 * @returns the parts of each take in order
 */
export function findSpannedTakes<T extends SpanPart>(files: readonly T[]): T[][] {
  const groups = new Map<string, { counter: number; file: T }[]>()
  for (const file of files) {
    const match = /^(.+)[_.-](\d{1,4})$/.exec(stem(file.path))
    if (!match || !file.facts.picture || file.facts.kind !== 'picture' || file.facts.startFrame === null) continue
    const key = `${file.path.slice(0, file.path.lastIndexOf('/') + 1)}\n${normalName(match[1] as string)}`
    const group = groups.get(key) ?? []
    group.push({ counter: Number(match[2]), file })
    groups.set(key, group)
  }
  const takes: T[][] = []
  for (const group of groups.values()) {
    group.sort((a, b) => a.counter - b.counter)
    if ((group[0]?.counter ?? 2) > 1) continue
    const parts = [group[0]?.file as T]
    for (let index = 1; index < group.length; index++) {
      const before = group[index - 1] as { counter: number; file: T }
      const here = group[index] as { counter: number; file: T }
      if (here.counter !== before.counter + 1 || !follows(before.file.facts, here.file.facts)) break
      parts.push(here.file)
    }
    if (parts.length > 1 && wereCutAtALimit(parts)) takes.push(parts)
  }
  return takes
}

/** Whether a file is the next part of what another is a part of: of the same make, from the very next frame. */
export function follows(before: MediaFacts, here: MediaFacts): boolean {
  const a = before.picture as PictureFacts
  const b = here.picture as PictureFacts
  return (
    (before.startFrame as number) + a.frames === here.startFrame &&
    sameRate(a.rate, b.rate) &&
    before.dropFrame === here.dropFrame &&
    before.reel === here.reel &&
    a.codec === b.codec &&
    a.width === b.width &&
    a.height === b.height &&
    before.sound.length === here.sound.length &&
    before.sound.every(
      (stream, index) =>
        stream.channels === here.sound[index]?.channels && stream.sampleRate === here.sound[index]?.sampleRate,
    )
  )
}

function wereCutAtALimit(parts: readonly SpanPart[]): boolean {
  const whole = parts.slice(0, -1)
  const largest = Math.max(...whole.map((part) => part.sizeBytes))
  const last = parts.at(-1) as SpanPart
  return whole.every((part) => part.sizeBytes >= largest * 0.95) && last.sizeBytes <= largest * 1.05
}

/** The facts of a spanned take as of one file: its first part's, with the lengths added up. */
export function joinFacts(parts: readonly MediaFacts[]): MediaFacts {
  const [first] = parts as [MediaFacts, ...MediaFacts[]]
  const sum = (values: readonly (number | null)[]): number | null =>
    values.some((value) => value === null)
      ? null
      : values.reduce<number>((total, value) => total + (value as number), 0)
  return {
    ...first,
    picture: first.picture && {
      ...first.picture,
      frames: sum(parts.map((part) => part.picture?.frames ?? null)) ?? first.picture.frames,
    },
    sound: first.sound.map((stream, index) => ({
      ...stream,
      samples: sum(parts.map((part) => part.sound[index]?.samples ?? null)),
    })),
  }
}
