/** One link that a mend changes: a clip's file, an event's chosen clip, or the made item that serves a clip. */
export interface LinkChange {
  readonly link:
    | { readonly kind: 'clip file'; readonly clipId: string; readonly ordinal: number }
    | { readonly kind: 'event'; readonly cutId: string; readonly position: number }
    | { readonly kind: 'pair'; readonly clipId: string; readonly recipeId: string }
    /** The path of a made file, below its place. */
    | { readonly kind: 'made file'; readonly clipId: string; readonly pairId: string; readonly fileId: string }
    /** What the content of an original is to be. */
    | { readonly kind: 'content'; readonly clipId: string; readonly fileId: string }
    /** Which version of a cut is its newest. */
    | { readonly kind: 'newest version'; readonly lineId: string }
  readonly before: string | null
  readonly after: string | null
  /** Of a clip's file: the content that the one before was held to have, so that it is told when it is another since. */
  readonly held?: string
  /** The same in words for the history. */
  readonly label: string
}

/** What a link is known by: equal for equal links, however their parts are ordered. */
export function keyOfLink(link: LinkChange['link']): string {
  if (link.kind === 'clip file') return `clip file ${link.clipId} ${link.ordinal}`
  if (link.kind === 'made file') return `made file ${link.fileId}`
  if (link.kind === 'content') return `content ${link.fileId}`
  if (link.kind === 'newest version') return `newest version ${link.lineId}`
  return link.kind === 'event' ? `event ${link.cutId} ${link.position}` : `pair ${link.clipId} ${link.recipeId}`
}

/** A link no longer has the value that a mend or its undo would change: someone mended it since. */
export class MendConflict extends Error {
  override readonly name = 'MendConflict'
}

/** What takes a mend back: the same links in reverse order, before and after exchanged. */
export function invert(changes: readonly LinkChange[]): LinkChange[] {
  return [...changes]
    .reverse()
    .map((change) => ({ ...change, before: change.after, after: change.before, label: `taken back: ${change.label}` }))
}

/**
 * Checks that no link is changed twice, and that every one still has the value a mend starts from.
 * @param current answers the present value of a link
 * @throws MendConflict naming the first that has not; nothing may then be changed.
 */
export function assertApplicable(
  changes: readonly LinkChange[],
  current: (link: LinkChange['link']) => string | null,
): void {
  const seen = new Set<string>()
  for (const change of changes) {
    const key = keyOfLink(change.link)
    if (seen.has(key)) throw new MendConflict(`This link would be changed twice at once: ${change.label}.`)
    seen.add(key)
    if (current(change.link) !== change.before)
      throw new MendConflict(`This link was changed since: ${change.label}. Look at it again before mending.`)
  }
}
