import { type Candidate, type ProposalRow, propose, shortlist, type Wanted } from '../match/index.ts'

/** Proposals among all of some files: the shortlist, and what is proposed of it. */
export function proposeAmong(
  wanted: readonly Wanted[],
  files: readonly Candidate[],
  suffixes: readonly string[],
  isShared = false,
): ProposalRow[] {
  const short = shortlist(wanted, files, suffixes)
  return propose(wanted, short.files, suffixes, short.shortlist, isShared)
}
