import {
  clipFacts,
  type EvidenceRow,
  isTrackSet,
  type MediaFacts,
  type Recipe,
  soundChangedSince,
  syncedSince,
  whyNotOneClip,
  worstPresence,
} from '@ennick/core'
import { fromBackups } from './backups.ts'
import { readGuideless } from './guideless-tracks.ts'
import {
  type ClipRow,
  contentOf,
  type KnownClip,
  type KnownFile,
  type KnownPair,
  type PairRow,
} from './known-material.ts'
import type { MaterialRows } from './material-rows.ts'
import { pairEvidence } from './pair-evidence.ts'
import { differs, judge } from './pair-verdict.ts'
import type { RoleSubject } from './roles.ts'
import { withSaidFacts } from './said-facts.ts'
import { soundLinkOf } from './sound-link.ts'

/** What is known of files and clips besides their own rows. */
export interface WhatIsSaid {
  /** What was found damaged when it was tried, by file and content. */
  readonly complaints: ReadonlyMap<string, string>
  /** The content of recordings, by their clips. */
  readonly marks: ReadonlyMap<string, string>
  /** Tracks that were heard and are no guide, by content. */
  readonly guideless: ReadonlyMap<string, string>
}

/** What pairs are judged by. */
export interface ClipRules {
  readonly recipes: ReadonlyMap<string, Recipe>
  readonly versions: ReadonlyMap<string, readonly Recipe[]>
  readonly suffixes: readonly string[]
}

/** What a clip is put together from. */
export interface ClipParts {
  readonly row: ClipRow
  readonly own: readonly { readonly file: KnownFile; readonly part: string }[]
  readonly copies: KnownClip['copies']
  readonly unlikeCopies: KnownClip['unlikeCopies']
  readonly linkedIds: readonly string[]
  readonly tied: readonly {
    readonly pair: PairRow
    readonly made: KnownPair['files']
    /** Fingerprints of the recordings that it was made of, as they are now. */
    readonly recordings: readonly (string | null)[]
  }[]
  /** What marks the content of the clips of the recording that it is synced with, as they are now. */
  readonly recordings: readonly (string | null)[]
  readonly damages: readonly (string | undefined)[]
  /** Its tracks that were heard and are no guide, as one word; undefined where none is. */
  readonly guideless: string | undefined
}

/** A clip, and what it was put together from. */
export interface AssembledClip {
  readonly parts: ClipParts
  readonly clip: KnownClip
  /** Its first file, of which its role is asked, by the clip's id. */
  readonly subject: RoleSubject
  /** The same with its role, where that is not the usual one. */
  readonly withRole: KnownClip
}

/** Files by links to them; those that are not of this production's volumes are left out. */
export function linkedFiles<Link extends { readonly fileId: string }, Linked>(
  links: readonly Link[] | undefined,
  fileById: ReadonlyMap<string, KnownFile>,
  as: (file: KnownFile, link: Link) => Linked,
): Linked[] {
  const found: Linked[] = []
  for (const link of links ?? []) {
    const file = fileById.get(link.fileId)
    if (file) found.push(as(file, link))
  }
  return found
}

export function partsOf(
  row: ClipRow,
  rows: MaterialRows,
  fileById: ReadonlyMap<string, KnownFile>,
  { complaints, marks, guideless }: WhatIsSaid,
): ClipParts {
  const linked = linkedFiles(rows.filesOfClip.groups.get(row.id), fileById, (file, { part }) => ({ file, part }))
  const isOwn = new Set(linked.map(({ file }) => file.id))
  const beside = linkedFiles(rows.copiesOfClip.groups.get(row.id), fileById, (file, link) => ({ ...link, file }))
    // A copy that a mend has made its home is none beside that.
    .filter(({ file }) => !isOwn.has(file.id))
  const known = beside.filter(({ isUnlike }) => !isUnlike).map(({ file, isVerified }) => ({ file, isVerified }))
  const unlikeCopies = beside.filter(({ isUnlike }) => isUnlike).map(({ file }) => file)
  const { own, copies } = fromBackups(linked, known)
  return {
    ...{ row, own, copies, unlikeCopies, linkedIds: [...isOwn] },
    tied: (rows.pairsOfClip.groups.get(row.id) ?? []).map((pair) => ({
      pair,
      made: linkedFiles(rows.filesOfPair.groups.get(pair.id), fileById, (file, { part }) => ({ file, part })),
      recordings: (pair.laidSound?.soundIds ?? []).map((id) => marks.get(id) ?? null),
    })),
    recordings: (soundLinkOf(row)?.soundIds ?? []).map((id) => marks.get(id) ?? null),
    damages: own.map(({ file }) => file.problem ?? complaints.get(`${file.id} ${file.fingerprint}`)),
    guideless: guideless.size === 0 ? undefined : guideless.get(contentOf({ files: own.map(({ file }) => file) })),
  }
}

const isSameList = <T>(a: readonly T[], b: readonly T[], isSame: (a: T, b: T) => boolean): boolean =>
  a.length === b.length && a.every((item, index) => isSame(item, b[index] as T))

export const isSameParts = (a: ClipParts, b: ClipParts): boolean =>
  a.row === b.row &&
  a.guideless === b.guideless &&
  isSameList(a.linkedIds, b.linkedIds, Object.is) &&
  isSameList(a.unlikeCopies, b.unlikeCopies, Object.is) &&
  isSameList(a.own, b.own, (one, other) => one.file === other.file && one.part === other.part) &&
  isSameList(a.copies, b.copies, (one, other) => one.file === other.file && one.isVerified === other.isVerified) &&
  isSameList(
    a.tied,
    b.tied,
    (one, other) =>
      one.pair === other.pair &&
      isSameList(one.recordings, other.recordings, Object.is) &&
      isSameList(one.made, other.made, (made, others) => made.file === others.file && made.part === others.part),
  ) &&
  isSameList(a.recordings, b.recordings, Object.is) &&
  isSameList(a.damages, b.damages, Object.is)

/** A clip put together with its files, its copies and its pairs, each pair judged by what is known now. */
export function assembleClip(has: ClipParts, rules: ClipRules): KnownClip {
  const { row } = has
  const own = has.own.map(({ file }) => withSaidFacts(row, file))
  const first = own[0] as KnownFile
  const isSpanned = has.own[0]?.part === 'span'
  const main = own.length > 1 ? { ...first, facts: factsOfAll(own) } : first
  const link = soundLinkOf(row)
  const presence = worstPresence(own.map((file) => file.presence))
  const tied = has.tied.map(({ pair, made, recordings }): KnownPair => {
    // What was compared once is compared with what is known now: a reel set since then counts at once.
    const recipe = rules.recipes.get(pair.recipeId ?? '') ?? null
    // What others made has none; what Ennick made for the production has one in a trial as well.
    const madeBy =
      rules.versions.get(pair.recipeId ?? '')?.find(({ version }) => version === pair.recipeVersion) ?? recipe
    // Not kept: the evidence of a whole production is larger than all else that is known of it, and seldom looked at.
    const compare = (): EvidenceRow[] | null => {
      const compared = pair.isCompared ? pairEvidence(row, main, made, pair, rules.suffixes, madeBy) : null
      const proof = (pair.proof ?? []).filter(({ aspect }) => !compared?.some((line) => line.aspect === aspect))
      return compared && [...compared, ...proof]
    }
    const wantsRecording = madeBy?.syncedSound ?? false
    const soundChange = soundChangedSince(pair.laidSound, link, recordings, wantsRecording)
    return {
      ...{ recipe, files: made, soundChange, originalChanged: differs(pair.originalFingerprints, own) },
      verdict: judge(
        { comparison: compare(), recipe, soundChange, ...pair },
        own,
        made.map(({ file }) => file),
        presence,
      ),
      compare,
      ...pair,
    }
  })
  return {
    ...{
      files: own,
      linkedIds: has.linkedIds,
      main,
      copies: has.copies,
      unlikeCopies: has.unlikeCopies,
      presence,
      isSpanned,
      isTrackSet: isTrackSet(own),
      notOneClip: whyNotOneClip(own),
      syncChange: link && syncedSince(link, contentOf({ files: own }), has.recordings),
      pairs: tied,
    },
    ...{
      role: 'original',
      roleReason: null,
      declaredRole: null,
      damage: has.damages.find((damage) => damage !== undefined) ?? null,
      guidelessTracks: readGuideless(has.guideless),
    },
    // Last, as in pairs: of a hundred thousand clips Node 20 would keep twice the memory otherwise (docs/speed.md).
    ...row,
  }
}

function factsOfAll(parts: readonly KnownFile[]): MediaFacts | null {
  const facts = parts.flatMap((part) => part.facts ?? [])
  return facts.length === parts.length ? clipFacts(facts) : null
}
