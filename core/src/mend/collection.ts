import { fileName, normalName } from '../naming/index.ts'
import { groupBy } from '../text/index.ts'

/** A file that a collection has to hold. */
export interface NeededFile {
  readonly id: string
  readonly name: string
  /** What its content was when it was first seen: an original that was overwritten is not what is needed. */
  readonly fingerprint: string
  /** Null where nobody knows how large that was. */
  readonly sizeBytes: number | null
}

/** A file that lies in a folder. */
export interface CollectedFile {
  /** Below the folder. */
  readonly path: string
  readonly fingerprint: string
  readonly sizeBytes: number
}

/** What became of a needed file: its content is there, another content has its name, or neither is there. */
export interface NeededOutcome {
  readonly id: string
  readonly outcome: 'there' | 'another' | 'missing'
  /** Where it is, or the one that has its name. */
  readonly path: string | null
}

export interface Collection {
  readonly needed: readonly NeededOutcome[]
  /** What nobody asked for; content that is there twice is extra from its second time on. */
  readonly extra: readonly CollectedFile[]
}

/**
 * Compares what a folder claims to hold with what it has to hold: by content first, wherever it lies and whatever it is
 * called, then by name. Two needed files of one content may be served by one file.
 */
export function compareCollection(needed: readonly NeededFile[], found: readonly CollectedFile[]): Collection {
  const byContent = groupBy(found, ({ fingerprint }) => fingerprint)
  const byName = groupBy(found, ({ path }) => normalName(fileName(path)))
  const asked = new Set<CollectedFile>()
  const outcomes = needed.map((file): NeededOutcome => {
    const alike = (byContent.get(file.fingerprint) ?? []).filter(
      ({ sizeBytes }) => file.sizeBytes === null || sizeBytes === file.sizeBytes,
    )
    const namesakes = byName.get(normalName(file.name)) ?? []
    const same = alike.find((each) => namesakes.includes(each)) ?? alike[0]
    const [named] = namesakes
    const there = same ?? named
    if (there) asked.add(there)
    return { id: file.id, outcome: same ? 'there' : named ? 'another' : 'missing', path: there?.path ?? null }
  })
  return { needed: outcomes, extra: found.filter((file) => !asked.has(file)) }
}
