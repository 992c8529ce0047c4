import { basename, join } from 'node:path'
import { isDeepStrictEqual } from 'node:util'
import {
  clipFacts,
  type EvidenceRow,
  isTrackSet,
  JoinedSources,
  type MediaFacts,
  mapPath,
  type PathMapping,
  type Recipe,
  soundChangedSince,
  syncedSince,
  whyNotOneClip,
  worstPresence,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import { fromBackups } from './backups.ts'
import { readComplaints } from './complaints.ts'
import type { Queryable } from './database.ts'
import { readGuideless, readGuidelessTracks } from './guideless-tracks.ts'
import { joinedFiles } from './job-schema.ts'
import {
  type ClipRow,
  contentOf,
  type KnownClip,
  type KnownFile,
  type KnownPair,
  type Material,
  type PairRow,
  type VolumeRow,
} from './known-material.ts'
import { lutAssignments } from './lut-schema.ts'
import { type MaterialRows, readRows } from './material-rows.ts'
import { pairEvidence } from './pair-evidence.ts'
import { differs, judge } from './pair-verdict.ts'
import { type ProductionRow, readProduction } from './production-row.ts'
import { readRecipeVersions } from './recipes.ts'
import { type KeptTwins, type KnownRole, readAllRoles } from './roles.ts'
import { withSaidFacts } from './said-facts.ts'
import { type files, volumes } from './schema.ts'
import { recordingMarks, soundLinkOf, soundUseOf } from './sound-link.ts'

/** What was put together last of a production, from which the next reading takes what has not changed. */
interface Remembered {
  readonly rows: MaterialRows
  readonly volumes: ReadonlyMap<string, VolumeRow>
  readonly files: ReadonlyMap<string, KnownFile>
  readonly clips: ReadonlyMap<string, AssembledClip>
  readonly twins: KeptTwins
  /** The production's name, suffixes and recipes: when they change, everything is judged anew. */
  readonly rules: string
}

/** What a clip is put together from. */
interface ClipParts {
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

interface AssembledClip {
  readonly parts: ClipParts
  readonly clip: KnownClip
  /** The same with its role, where that is not the usual one. */
  readonly withRole: KnownClip
}

/** So many productions are remembered, those that were read last. */
const mostRemembered = 2
/** What nobody has read in so long is let go. */
const idleMilliseconds = 300_000
const remembered = new Map<string, Remembered>()
let idle: NodeJS.Timeout | null = null

function remember(productionId: string, what: Remembered): void {
  remembered.delete(productionId)
  remembered.set(productionId, what)
  for (const id of [...remembered.keys()].slice(0, -mostRemembered)) remembered.delete(id)
  if (idle) clearTimeout(idle)
  idle = setTimeout(() => remembered.clear(), idleMilliseconds).unref()
}

/**
 * Of a whole production only what has changed since the last reading is read and put together again: what is the same
 * is the same object, in which others may keep what follows from it.
 * @param clipIds reads these clips alone, with their files and pairs: much quicker than all of a large production
 * @param pathMap where this machine has folders that the ledger knows by another path
 * @throws PlainError when there is no such production.
 */
export async function readMaterial(
  database: Queryable,
  productionId: string,
  clipIds: readonly string[] | null = null,
  pathMap: readonly PathMapping[] = [],
): Promise<Material> {
  const isWhole = clipIds === null && pathMap.length === 0
  const before = isWhole ? (remembered.get(productionId) ?? null) : null
  const production = await readProduction(database, productionId)
  const stored = await database
    .select()
    .from(volumes)
    .where(eq(volumes.productionId, productionId))
    .orderBy(volumes.createdAt, volumes.label)
  const volumeRows = stored.map((row) => {
    const placed = { ...row, rootPath: mapPath(row.rootPath, pathMap) ?? row.rootPath }
    const known = before?.volumes.get(row.id)
    return known && isDeepStrictEqual(known, placed) ? known : placed
  })
  const volumeById = new Map(volumeRows.map((row) => [row.id, row]))
  const versions = await readRecipeVersions(database)
  const recipes = new Map([...versions].map(([id, [newest]]) => [id, newest]))
  const suffixes = [
    ...new Set([...production.proxySuffixes, ...[...recipes.values()].map((recipe) => recipe.suffix).filter(Boolean)]),
  ]
  const rules = JSON.stringify([production.name, suffixes, [...versions]])
  const known = before?.rules === rules ? before : null
  const rows = await readRows(database, productionId, [...volumeById.keys()], clipIds, before?.rows ?? null)
  const fileById = placeFiles(rows, volumeById, known)
  const complaints = await readComplaints(database)
  const marks = await recordingMarks(database, rows.pairs.rows, rows.clips.rows)
  // Asked of clips alone that a guide is promised on.
  const promised = rows.clips.rows.filter((row) => soundUseOf(row) === 'guide')
  const contents = promised.map(({ id }) =>
    contentOf({ files: linkedFiles(rows.filesOfClip.groups.get(id), fileById, (file) => file) }),
  )
  const guideless = await readGuidelessTracks(database, contents)
  const assembled = new Map<string, AssembledClip>()
  for (const row of rows.clips.rows) {
    const parts = partsOf(row, rows, fileById, { complaints, marks, guideless })
    if (parts.own.length === 0) continue
    const last = known?.clips.get(row.id)
    if (last && isSameParts(last.parts, parts)) assembled.set(row.id, last)
    else {
      const clip = assembleClip(parts, { recipes, versions, suffixes })
      assembled.set(row.id, { parts, clip, withRole: clip })
    }
  }

  const material = {
    production: { ...production, proxySuffixes: suffixes },
    recipes,
    lutAssignments: await database.select().from(lutAssignments).where(eq(lutAssignments.productionId, productionId)),
    volumes: volumeRows,
    files: fileById,
    joined: await readJoined(database, production),
  }
  const mains = [...assembled.values()].map(({ clip: { id, main } }) => ({
    ...{ id, path: main.path, volume: main.volume, fingerprint: main.fingerprint, facts: main.facts },
  }))
  const { roles, twins } = await readAllRoles(database, material, mains, before?.twins ?? null)
  const allClips = new Map<string, KnownClip>()
  const allPairs = new Map<string, KnownPair>()
  for (const [id, { parts, clip, withRole }] of assembled) {
    const role = roles.get(id)
    const isUsual = !role || (role.role === 'original' && role.declaredRole === null)
    const isSame = role && Object.entries(role).every(([key, value]) => withRole[key as keyof KnownRole] === value)
    const now = isUsual ? clip : isSame ? withRole : { ...clip, ...role }
    if (now !== withRole) assembled.set(id, { parts, clip, withRole: now })
    allClips.set(id, now)
    for (const pair of now.pairs) allPairs.set(pair.id, pair)
  }
  if (isWhole) remember(productionId, { rows, volumes: volumeById, files: fileById, clips: assembled, twins, rules })
  return { ...material, clips: allClips, pairs: allPairs }
}

/** A trial knows the joined files of its production. */
async function readJoined(database: Queryable, { id, trialOf }: ProductionRow): Promise<JoinedSources> {
  const rows = await database
    .select()
    .from(joinedFiles)
    .where(eq(joinedFiles.productionId, trialOf?.productionId ?? id))
  return new JoinedSources(
    rows.map((row) => ({
      ...{ id: row.id, name: basename(row.path), entries: row.entries },
      rate: { numerator: row.rateNumerator, denominator: row.rateDenominator },
    })),
  )
}

/** Every file with where it is; what has not changed is the same. */
function placeFiles(
  { files: read }: MaterialRows,
  volumeById: ReadonlyMap<string, VolumeRow>,
  known: Remembered | null,
): ReadonlyMap<string, KnownFile> {
  const areSame = known?.rows.files === read
  const placed = new Map<string, KnownFile>()
  for (const row of read.rows) {
    const volume = volumeById.get(row.volumeId) as VolumeRow
    const last = known?.files.get(row.id)
    const isSame = last?.volume === volume && (areSame || known?.rows.files.byId.get(row.id)?.row === row)
    placed.set(row.id, isSame ? last : placeFile(row, volume))
  }
  return placed
}

/** Files by links to them; those that are not of this production's volumes are left out. */
function linkedFiles<Link extends { readonly fileId: string }, Linked>(
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

function partsOf(
  row: ClipRow,
  rows: MaterialRows,
  fileById: ReadonlyMap<string, KnownFile>,
  { complaints, marks, guideless }: Record<'complaints' | 'marks' | 'guideless', ReadonlyMap<string, string>>,
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

const isSameParts = (a: ClipParts, b: ClipParts): boolean =>
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
function assembleClip(
  has: ClipParts,
  rules: {
    readonly recipes: ReadonlyMap<string, Recipe>
    readonly versions: ReadonlyMap<string, readonly Recipe[]>
    readonly suffixes: readonly string[]
  },
): KnownClip {
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
    const compare = (): EvidenceRow[] | null => {
      const compared = pair.isCompared ? pairEvidence(row, main, made, pair, rules.suffixes, madeBy) : null
      const proof = (pair.proof ?? []).filter(({ aspect }) => !compared?.some((line) => line.aspect === aspect))
      return compared && [...compared, ...proof]
    }
    const wantsRecording = madeBy?.syncedSound ?? false
    const soundChange = soundChangedSince(pair.laidSound, link, recordings, wantsRecording)
    return {
      ...{ ...pair, recipe, files: made, soundChange },
      originalChanged: differs(pair.originalFingerprints, own),
      verdict: judge(
        { ...pair, comparison: compare(), recipe, soundChange },
        own,
        made.map(({ file }) => file),
        presence,
      ),
      // The evidence of a whole production is larger than all else that is known of it, and seldom looked at.
      get comparison() {
        return compare()
      },
    }
  })
  return {
    ...row,
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
  }
}

function factsOfAll(parts: readonly KnownFile[]): MediaFacts | null {
  const facts = parts.flatMap((part) => part.facts ?? [])
  return facts.length === parts.length ? clipFacts(facts) : null
}

/** Where a file is, given what is known of it and whether its volume is in. */
export function placeFile(row: typeof files.$inferSelect, volume: VolumeRow): KnownFile {
  // What was gone before its volume left is gone, and not on it.
  const presence = row.isGone ? 'gone' : volume.isHere ? 'here' : 'away'
  return { ...row, volume, root: volume.rootPath, fullPath: join(volume.rootPath, row.path), presence }
}
