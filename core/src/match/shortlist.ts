import { CandidateIndex } from './candidate-index.ts'
import type { KnownIdentity, Wanted } from './identity.ts'
import { countValues, type ValueCounts } from './value-counts.ts'

/** The few of all files at hand that may be what is wanted, and how many of all say what they say. */
export interface Shortlist {
  /** The ids of the files that each wanted thing may be, by the id of that. */
  readonly few: ReadonlyMap<string, readonly string[]>
  readonly counts: ValueCounts
}

/**
 * Makes the shortlist, and says which files are on it. Of all others nothing more has to be known: a proposal is made
 * of these and of the counts.
 */
export function shortlist<File extends KnownIdentity>(
  wanted: readonly Wanted[],
  files: readonly File[],
  suffixes: readonly string[],
): { shortlist: Shortlist; files: File[] } {
  const index = new CandidateIndex(wanted, files, suffixes)
  const few = new Map(wanted.map((item) => [item.id, index.of(item)]))
  const listed = [...new Set([...few.values()].flat())]
  // Where the start itself is known, nobody asks how many files cover a use.
  const uses = wanted.flatMap(({ startFrame, uses: [first] }) => (first && startFrame === null ? [first] : []))
  return {
    shortlist: {
      few: new Map([...few].map(([id, found]) => [id, found.map((file) => file.id)])),
      counts: countValues(files, listed, uses),
    },
    files: listed,
  }
}
