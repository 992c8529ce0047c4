import { normalName, stem } from './names.ts'

/** What a name says of a shot that comes in versions, as plates and mixes do. */
export interface ShotVersion {
  /** What names of all versions of the shot have in common, comparable. */
  readonly shot: string
  readonly version: number
}

/** A "v" with a number, between separators or at an end: the "v0003" of "SH010_comp_v0003", never that of "rev2". */
const versionMark = /(?<=^|[._\- ])v(\d{1,5})(?=$|[._\- ])/gi

/** What stands for the numbers of stills, which one version may come as and another not. */
const ofStills = /[._\- ]?#+$/

/** The same of a file, or of stills, whatever kind of file it is. */
export const versionOfFile = (name: string): ShotVersion | null => shotVersion(stem(name).replace(ofStills, ''))

/**
 * Of which shot a name is a version, and which: "SH010_comp_v003" is the third of "SH010_comp". Where a name has several
 * marks the last one counts: those before it say of what.
 * @param stem a name without its ending
 * @returns null for a name that says nothing of a version
 */
export function shotVersion(stem: string): ShotVersion | null {
  const mark = [...stem.matchAll(versionMark)].at(-1)
  if (!mark) return null
  const behind = mark.index + mark[0].length
  return { shot: normalName(`${stem.slice(0, mark.index)}v#${stem.slice(behind)}`), version: Number(mark[1]) }
}
