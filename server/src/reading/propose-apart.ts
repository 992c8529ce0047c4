import { type Candidate, type KnownIdentity, type ProposalRow, shortlist, type Wanted } from '@ennick/core'
import { readApart } from './read-apart.ts'

/**
 * Proposes a file for each of many wanted things, in a thread of its own. Of all files at hand only those on the
 * shortlist are handed over, and more than what they are called, hold and say of themselves is asked of those alone.
 * @param files all at hand, by which it is known how rare things are
 * @param of what else is known of those on the shortlist
 * @throws NotRead when it takes too long; the signal's reason when that ends it
 */
export async function proposeApart<File extends KnownIdentity>(
  wanted: readonly Wanted[],
  files: readonly File[],
  of: (few: readonly File[]) => readonly Candidate[] | Promise<readonly Candidate[]>,
  { suffixes, isShared }: { suffixes: readonly string[]; isShared: boolean },
  limits: { seconds: number; signal?: AbortSignal },
): Promise<ProposalRow[]> {
  if (wanted.length === 0) return []
  const short = shortlist(wanted, files, suffixes)
  const candidates = await of(short.files)
  return readApart('proposal', { wanted, candidates, suffixes, shortlist: short.shortlist, isShared }, limits)
}
