import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { removableKinds } from '@ennick/core'
import { and, eq, ne, sql } from 'drizzle-orm'
import { ask, NotAnswering, within } from '../disk/answering.ts'
import { type FileStamp, fingerprint, stampOfStats } from '../disk/fingerprint.ts'
import { isVolumeHere } from '../disk/volume-presence.ts'
import { clipCopies } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'
import { clipFiles, files, volumes } from './schema.ts'
import { stays } from './stays.ts'

type VolumeRow = typeof volumes.$inferSelect

type KnownFile = Pick<typeof files.$inferSelect, 'path' | 'sequence' | 'sizeBytes' | 'mtimeMicros' | 'fingerprint'>

/** What is known to lie on a volume. */
const knownFiles = (database: Queryable, volumeId: string, most: number): Promise<KnownFile[]> =>
  database
    .select({
      path: files.path,
      sequence: files.sequence,
      sizeBytes: files.sizeBytes,
      mtimeMicros: files.mtimeMicros,
      fingerprint: files.fingerprint,
    })
    .from(files)
    // Of what could never be read there is no stamp.
    .where(and(eq(files.volumeId, volumeId), eq(files.isGone, false), ne(files.fingerprint, '')))
    .limit(most)

/** Paths below a volume's root at which something is known to lie; of numbered stills the folder. */
const pathsOf = (known: readonly KnownFile[]): string[] =>
  known.map(({ path, sequence }) => (sequence ? sequence.folder : path))

/** So many say well enough whether a volume is in, which is asked every other second. */
const enough = 20
/** Where another volume has the same place all that matter are asked: some may be gone from a card. */
const many = 1000

/** What is said of a volume in that moment. */
export type Presence = 'here' | 'away' | 'not answering'

/** Whether a volume of the ledger is in now, and may be used. */
export const lookForVolume = async (database: Queryable, volume: VolumeRow): Promise<boolean> =>
  (await presenceOf(database, volume)) === 'here'

/**
 * Looks for a volume, which may be used or not, and may hang. Whether its disk says anything at all is asked of that
 * alone, before and as long as the look goes on: the database, which is asked on the way, may take its time.
 */
export async function presenceOf(database: Queryable, volume: VolumeRow): Promise<Presence> {
  const { rootPath } = volume
  if (!volume.isAllowed) return 'away'
  try {
    const answers = () => ask(rootPath, () => stat(rootPath).catch(() => null))
    await answers()
    const look = isThere(database, volume)
    while (!(await within(secondsBetween, look))) await answers()
    return (await look) ? 'here' : 'away'
  } catch (error) {
    if (error instanceof NotAnswering) return 'not answering'
    throw error
  }
}

/** A look that takes longer than this is asked about. */
const secondsBetween = 5

/**
 * Whether a volume of the ledger, which may be used, is in now. Cards are often mounted under one name: of several at
 * one place that one is in of which something is there as it is known, and one of which nothing is known yet where that is
 * so of no other.
 */
async function isThere(database: Queryable, volume: VolumeRow): Promise<boolean> {
  const others = await othersAtItsPlace(database, volume)
  if (others.length === 0) {
    const isHere = await isVolumeHere(volume, async () => pathsOf(await knownFiles(database, volume.id, enough)))
    return isHere && !(removableKinds.has(volume.kind) && (await isAnother(database, volume)))
  }
  const own = await knownFiles(database, volume.id, many)
  if (own.length === 0)
    for (const { id } of others) if (await holdsAny(volume.rootPath, await knownFiles(database, id, many))) return false
  const isHere = await isVolumeHere(volume, async () => pathsOf(own))
  return isHere && (own.length === 0 || holdsAny(volume.rootPath, own))
}

/**
 * Whether a folder holds any of some files, as they are known by size and time: cameras name what they write alike on
 * every card, and may write as many bytes. Where a box's times are read in another zone, all of them are shifted alike.
 */
async function holdsAny(rootPath: string, known: readonly KnownFile[]): Promise<boolean> {
  const shifts = new Set<number>()
  for await (const { file, stamp } of ofKnownSize(rootPath, known)) {
    if (file.sequence || stamp.mtimeMicros === file.mtimeMicros) return true
    shifts.add(Math.round((stamp.mtimeMicros - file.mtimeMicros) / coarsestMicros))
  }
  const [shift = 0] = shifts
  return shifts.size === 1 && shift !== 0 && shift % (zoneStepMicros / coarsestMicros) === 0
}

/** Zones differ by quarters of an hour; no file system of a card notes times more coarsely than this. */
const zoneStepMicros = 15 * 60 * 1_000_000
const coarsestMicros = 2_000_000

/**
 * Those of some files that are there with the size that is known of them. Of numbered stills the ledger has one stamp
 * for all of them: where nothing else is known, their folder has to do.
 */
async function* ofKnownSize(
  rootPath: string,
  known: readonly KnownFile[],
): AsyncGenerator<{ file: KnownFile; path: string; stamp: FileStamp }> {
  const plain = known.filter(({ sequence }) => sequence === null)
  for (const file of plain.length ? plain : known) {
    const path = join(rootPath, file.sequence ? file.sequence.folder : file.path)
    const info = await stat(path, { bigint: true }).catch(() => null)
    if (info !== null && (file.sequence || Number(info.size) === file.sizeBytes))
      yield { file, path, stamp: stampOfStats(info) }
  }
}

/** Volumes of its production that are put in at the place of one. */
export const othersAtItsPlace = (database: Queryable, { id, productionId, rootPath }: VolumeRow) =>
  database
    .select({ id: volumes.id })
    .from(volumes)
    .where(and(eq(volumes.productionId, productionId), eq(volumes.rootPath, rootPath), ne(volumes.id, id)))

/** Whether what is at a card's place is another one, as far as can be told: nothing of what it alone holds may be lost. */
export async function isAnother(database: Queryable, volume: VolumeRow): Promise<boolean> {
  const some = await knownFiles(database, volume.id, enough)
  if (some.length === 0 || (await holdsAny(volume.rootPath, some))) return false
  return (await holdsNothing(database, volume)) && (await clipsOnItAlone(database, volume)) > 0
}

/** Whether something is known of a volume, and nothing of that is at its place, as far as sizes and times tell. */
async function holdsNothing(database: Queryable, { id, rootPath }: VolumeRow): Promise<boolean> {
  const known = await knownFiles(database, id, Number.MAX_SAFE_INTEGER)
  return known.length > 0 && !(await holdsAny(rootPath, known))
}

/** The same by what the files hold: cameras that start together write files of one name, size and time. */
export async function holdsNothingByContent(database: Queryable, { id, rootPath }: VolumeRow): Promise<boolean> {
  const known = await knownFiles(database, id, Number.MAX_SAFE_INTEGER)
  if (known.length === 0) return false
  for await (const { file, path } of ofKnownSize(rootPath, known))
    if (file.sequence || (await fingerprint(path, file.sizeBytes).catch(() => null)) === file.fingerprint) return false
  return true
}

/** How many clips live on a volume and have no copy on one that stays. */
export async function clipsOnItAlone(database: Queryable, volume: VolumeRow): Promise<number> {
  const { rows } = await database.execute<{ clips: number }>(sql`
    select count(distinct link.clip_id)::int as clips from ${clipFiles} link join ${files} on ${files.id} = link.file_id
    where ${files.volumeId} = ${volume.id} and not ${files.isGone} and not exists (
      select from ${clipCopies} copy join files other on other.id = copy.file_id
        join ${volumes} home on home.id = other.volume_id
      where copy.clip_id = link.clip_id and not other.is_gone and other.problem is null
        and ${stays(sql`home.kind`)})`)
  return rows[0]?.clips ?? 0
}
