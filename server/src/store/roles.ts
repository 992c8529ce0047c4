import { type FileRole, groupBy, type MediaFacts, type RoleSigns, roleOf, TwinIndex } from '@ennick/core'
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

interface RoleContext {
  readonly production: Pick<typeof productions.$inferSelect, 'id' | 'proxySuffixes'>
  readonly volumes: readonly VolumeRow[]
}

/**
 * The roles of some files.
 * @param others files that may be larger than those, of which they are twins
 */
export const readRoles = async (
  database: Queryable,
  material: RoleContext,
  subjects: readonly RoleSubject[],
  others: readonly RoleSubject[] = subjects,
): Promise<Map<string, KnownRole>> =>
  rolesOf(database, material, subjects, smallTwins(subjects, others, material.production.proxySuffixes))

/** Small twins among all files of a production: they follow from the facts of the files and from nothing else. */
export interface KeptTwins {
  readonly of: readonly Pick<RoleSubject, 'id' | 'path' | 'facts'>[]
  readonly suffixes: string
  readonly twins: ReadonlyMap<string, string>
}

/**
 * The roles of all originals of a production.
 * @param before the twins of the reading before, which hold as long as the files are the same
 */
export async function readAllRoles(
  database: Queryable,
  material: RoleContext,
  subjects: readonly RoleSubject[],
  before: KeptTwins | null,
): Promise<{ roles: Map<string, KnownRole>; twins: KeptTwins }> {
  const suffixes = material.production.proxySuffixes.join('\n')
  const isSame =
    before?.suffixes === suffixes &&
    before.of.length === subjects.length &&
    subjects.every(({ id, facts, path }, index) => {
      const was = before.of[index]
      return was?.id === id && was.facts === facts && was.path === path
    })
  const twins = isSame
    ? before
    : {
        ...{ of: subjects, suffixes },
        twins: smallTwins(subjects, subjects, material.production.proxySuffixes),
      }
  return { roles: await rolesOf(database, material, subjects, twins.twins), twins }
}

async function rolesOf(
  database: Queryable,
  material: RoleContext,
  subjects: readonly RoleSubject[],
  twins: ReadonlyMap<string, string>,
): Promise<Map<string, KnownRole>> {
  const ids = material.volumes.map(({ id }) => id)
  const declared = new Declared(await database.select().from(declaredRoles).where(anyOf(declaredRoles.volumeId, ids)))
  const tied = await readTied(database, material.production.id, subjects)
  return new Map(
    subjects.map((file) => {
      const signs: RoleSigns = {
        declared: declared.of(file),
        tied: tied.get(file.fingerprint) ?? null,
        madeBy: file.facts?.madeBy ?? null,
        isAmongProxies: file.volume?.kind === 'upload',
        twinOf: twins.get(file.id) ?? null,
      }
      const { role, reason } = roleOf(signs)
      const declaredRole = declared.exactly(file)
      return [file.id, role === 'original' && !declaredRole ? original : { role, roleReason: reason, declaredRole }]
    }),
  )
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
  of({ path, volume }: Pick<RoleSubject, 'path' | 'volume'>): RoleSigns['declared'] {
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
): Promise<Map<string, NonNullable<RoleSigns['tied']>>> {
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
  subjects: readonly RoleSubject[],
  others: readonly RoleSubject[],
  suffixes: readonly string[],
): Map<string, string> {
  const moving = (list: readonly RoleSubject[]) =>
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
