import {
  type FileRole,
  groupBy,
  type MediaFacts,
  roleOf,
  type RoleSigns as SignsOfOne,
  spanOf,
  TwinIndex,
} from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import { anyOf } from './any-of.ts'
import type { Queryable } from './database.ts'
import { clips, declaredRoles, files, pairFiles, pairs, type productions, type volumes } from './schema.ts'

type VolumeRow = typeof volumes.$inferSelect

export interface KnownRole {
  readonly role: FileRole
  readonly roleReason: string | null
  /** What a person said of this very file. */
  readonly declaredRole: FileRole | null
}

/** A file whose role is asked. */
export interface RoleSubject {
  readonly id: string
  /** Below the root of its volume, if it lies on one that is known. */
  readonly path: string
  readonly volume: VolumeRow | null
  readonly fingerprint: string
  readonly facts: MediaFacts | null
}

const original: KnownRole = { role: 'original', roleReason: null, declaredRole: null }

/** What of it tells whether it is another's twin. */
type TwinSubject = Pick<RoleSubject, 'id' | 'path' | 'facts'>

interface RoleContext {
  readonly production: Pick<typeof productions.$inferSelect, 'id' | 'proxySuffixes'>
  readonly volumes: readonly VolumeRow[]
}

/** What the ledger says of places and contents, from which roles follow. */
export interface RoleSigns {
  readonly declared: readonly (typeof declaredRoles.$inferSelect)[]
  /** Content that it has as made or adopted of something else, by fingerprint. */
  readonly tied: ReadonlyMap<string, NonNullable<SignsOfOne['tied']>>
}

/**
 * The roles of some files.
 * @param others files that may be larger than those, of which they are twins
 */
export async function readRoles(
  database: Queryable,
  { production, volumes: known }: RoleContext,
  subjects: readonly RoleSubject[],
  others: readonly TwinSubject[],
): Promise<Map<string, KnownRole>> {
  const signs = await readRoleSigns(database, { productionId: production.id, volumes: known }, subjects)
  const roleOfFile = roleBySigns(signs, smallTwins(subjects, others, production.proxySuffixes))
  return new Map(subjects.map((file) => [file.id, roleOfFile(file)]))
}

/** Small twins among all files of a production: they follow from the facts of the files and from nothing else. */
export interface KeptTwins {
  readonly of: readonly RoleSubject[]
  readonly suffixes: string
  readonly twins: ReadonlyMap<string, string>
}

/** @param before those of the reading before, which hold as long as the files are the same */
export function findTwins(
  subjects: readonly RoleSubject[],
  suffixes: readonly string[],
  before: KeptTwins | null,
): KeptTwins {
  const word = suffixes.join('\n')
  const isSame =
    before?.suffixes === word &&
    before.of.length === subjects.length &&
    subjects.every(({ id, facts, path }, index) => {
      const was = before.of[index]
      return was?.id === id && was.facts === facts && was.path === path
    })
  return { of: subjects, suffixes: word, twins: isSame ? before.twins : smallTwins(subjects, subjects, suffixes) }
}

export async function readRoleSigns(
  database: Queryable,
  { productionId, volumes: known }: { productionId: string; volumes: readonly VolumeRow[] },
  subjects: readonly RoleSubject[],
): Promise<RoleSigns> {
  const ids = known.map(({ id }) => id)
  return {
    declared: await database.select().from(declaredRoles).where(anyOf(declaredRoles.volumeId, ids)),
    tied: await readTied(database, productionId, subjects),
  }
}

/** The role of each file that is asked for. @param twins the paths of larger ones by the ids of their small twins */
export function roleBySigns(signs: RoleSigns, twins: ReadonlyMap<string, string>): (file: RoleSubject) => KnownRole {
  const declared = new Declared(signs.declared)
  return (file) => {
    const { role, reason } = roleOf({
      declared: declared.of(file),
      tied: signs.tied.get(file.fingerprint) ?? null,
      madeBy: file.facts?.madeBy ?? null,
      isAmongProxies: file.volume?.kind === 'upload',
      twinOf: twins.get(file.id) ?? null,
    })
    const declaredRole = declared.exactly(file)
    return role === 'original' && !declaredRole ? original : { role, roleReason: reason, declaredRole }
  }
}

/** What people said of places. */
export class Declared {
  readonly #byVolume: ReadonlyMap<string, (typeof declaredRoles.$inferSelect)[]>

  constructor(rows: readonly (typeof declaredRoles.$inferSelect)[]) {
    this.#byVolume = groupBy(rows, (row) => row.volumeId)
  }

  exactly({ path, volume }: Pick<RoleSubject, 'path' | 'volume'>): FileRole | null {
    const rows = (volume && this.#byVolume.get(volume.id)) ?? []
    return rows.find((row) => row.path === path)?.role ?? null
  }

  /** By the longest place that the file lies in, or is. */
  of({ path, volume }: Pick<RoleSubject, 'path' | 'volume'>): SignsOfOne['declared'] {
    if (!volume) return null
    const holding = (this.#byVolume.get(volume.id) ?? [])
      .filter((row) => row.path === '' || row.path === path || path.startsWith(`${row.path}/`))
      .sort((a, b) => b.path.length - a.path.length)[0]
    return holding ? { role: holding.role, where: `“${holding.path || volume.label}”` } : null
  }
}

/** Content that the ledger has as made or adopted of something else: a copy of a proxy is one. */
async function readTied(
  database: Queryable,
  productionId: string,
  subjects: readonly RoleSubject[],
): Promise<Map<string, NonNullable<SignsOfOne['tied']>>> {
  if (subjects.length === 0) return new Map()
  const rows = await database
    .selectDistinct({ fingerprint: files.fingerprint, kind: pairs.kind, name: pairs.name })
    .from(files)
    .innerJoin(pairFiles, eq(pairFiles.fileId, files.id))
    .innerJoin(pairs, eq(pairs.id, pairFiles.pairId))
    .innerJoin(clips, eq(clips.id, pairs.clipId))
    .where(
      and(
        eq(clips.productionId, productionId),
        // What was taken as it is has the content of its original, and makes that no proxy.
        sql`not ${pairs.originalFingerprints} ? ${files.fingerprint}`,
        anyOf(files.fingerprint, [...new Set(subjects.map((file) => file.fingerprint))]),
      ),
    )
  return new Map(
    rows.map(({ fingerprint, kind, name }) => [fingerprint, { role: kind === 'review' ? 'proxy' : kind, name }]),
  )
}

/** Files that are smaller twins of others: named after them, with their timecode and length. By the other's path. */
function smallTwins(
  subjects: readonly TwinSubject[],
  others: readonly TwinSubject[],
  suffixes: readonly string[],
): Map<string, string> {
  const moving = (list: readonly TwinSubject[]) =>
    list.flatMap(({ id, path, facts }) =>
      facts?.kind === 'picture' && facts.picture && facts.startFrame ? [{ id, path, facts }] : [],
    )
  const index = new TwinIndex(moving(others), suffixes)
  const twins = new Map<string, string>()
  for (const small of moving(subjects)) {
    const [large] = index.originalsOf(small)
    if (large) twins.set(small.id, large.path)
  }
  return twins
}

/** Of very many files those that begin and end with one of a few: no other is a twin of theirs. */
export function endingTogether(
  few: readonly Pick<RoleSubject, 'facts'>[],
): (other: Pick<RoleSubject, 'facts'>) => boolean {
  const spans = new Set(few.map(spanOf))
  return (other) => spans.has(spanOf(other))
}
