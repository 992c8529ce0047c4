import { lstat } from 'node:fs/promises'
import { join } from 'node:path'
import type { HeldElsewhere } from '@ennick/contract'
import { type HashedFile, hashKinds, pathsOfFile } from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import { isOneFile } from '../disk/file-identity.ts'
import { type FileStamp, stampOfStats } from '../disk/fingerprint.ts'
import { isBeneath, withFolder, withHeld } from '../disk/held-folder.ts'
import { hashFile } from '../engine/copy.ts'
import { explainFileError, PlainError } from '../errors.ts'
import { readApart } from '../reading/read-apart.ts'
import { anyOf } from '../store/any-of.ts'
import type { Queryable } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { files, volumes } from '../store/schema.ts'
import { stays } from '../store/stays.ts'
import { isAsKnown, sameStamp, stampOf } from './describe-file.ts'
import { BrokenHistory, historyFolder, isOfHistory, readHistory } from './manifest-history.ts'
import { PassedOverKinds } from './passed-over.ts'
import { pathIn, walk } from './walk.ts'

/** So many files that are nowhere else are named. */
const mostNamed = 500
/** Files of so many bytes are read where their times do not say enough. */
const mostReadBytes = 1_048_576

/** A file of a box as it lies on it now. */
interface OnBox extends FileStamp {
  readonly path: string
}

/** Whether a file with that stamp, at that full path, is as it was when it was read back, as far as can be told. */
type IsUntouched = (now: FileStamp, fullPath: string) => boolean | Promise<boolean>

/** A copy that was read back, or compared whole. */
interface Copy {
  /** Below its volume's root. */
  readonly path: string
  readonly isUntouched: IsUntouched
}

/** A place to which something of a box was copied and read back. */
interface Place {
  readonly volume: VolumeRow
  /** Below the volume's root; null where the ledger knows files of it one by one. */
  readonly folder: string | null
  /** The copy of what lies on the box; null where it has none that was read back. */
  readonly copyOf: (file: OnBox) => Copy | null
}

/**
 * What lies on a box that leaves again now, file by file, and where else each was copied to and read back: by the
 * manifests of its offloads, and by copies that were compared whole. A file counts as copied where it is as it was
 * then, by size and time, and its copy lies at its place on a volume that stays and is here, with that size, and was
 * not touched since. Nothing large is read whole, and nothing is written.
 * @throws PlainError where the box is away or cannot be read
 */
export async function readHeldElsewhere(database: Queryable, box: VolumeRow): Promise<HeldElsewhere> {
  if (!box.isHere)
    throw new PlainError('volume-away', `“${box.label}” is away: what is on it now cannot be looked at.`, {
      status: 409,
    })
  const unreadable: string[] = []
  const passedOver = new PassedOverKinds()
  const onBox: OnBox[] = []
  try {
    for await (const { path } of walk(box.rootPath, {
      onUnreadable: (each) => unreadable.push(each.path),
      onPassedOver: passedOver.add,
    })) {
      // The box’s own manifests go along with an offload and grow at the copy: they are no footage.
      if (isOfHistory(path)) continue
      const stamp = await stampOf(join(box.rootPath, path)).catch(() => null)
      if (stamp) onBox.push({ path, ...stamp })
      else unreadable.push(path)
    }
  } catch (error) {
    const why = explainFileError(error, box.rootPath)
    throw new PlainError('volume-away', `“${box.label}” cannot be read: ${why}`, { status: 409 })
  }
  const { places, notLookedAt } = await placesOf(database, box)
  const copies = places.map((place) => ({ label: place.volume.label, folder: place.folder, files: 0 }))
  const alone: { path: string; reason: string }[] = []
  let aloneCount = 0
  for (const file of onBox) {
    let reason = 'It was copied nowhere, or not as it is now.'
    const copiedTo = new Set<string>()
    for (const [index, place] of places.entries()) {
      // What an offload's manifest says of a volume is not looked at once more clip by clip.
      if (place.folder === null && copiedTo.has(place.volume.id)) continue
      const known = place.copyOf(file)
      if (known === null) continue
      const now = await lookAtCopy(box, file, place.volume, known.path)
      const fullPath = join(place.volume.rootPath, known.path)
      if (now === null || !(await known.isUntouched(now, fullPath))) {
        const what = now === null ? 'is not there any more, or has another size' : 'was touched since it was read back'
        reason = `Its copy at ${known.path} on “${place.volume.label}” ${what}.`
        continue
      }
      copiedTo.add(place.volume.id)
      const copy = copies[index]
      if (copy) copy.files++
    }
    if (copiedTo.size) continue
    if (++aloneCount <= mostNamed) alone.push({ path: file.path, reason })
  }
  return {
    files: onBox.length,
    bytes: onBox.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0),
    ...{ alone, aloneCount },
    copies: copies.filter((copy) => copy.files > 0),
    notLookedAt,
    unreadable: unreadable.slice(0, mostNamed),
    passedOver: passedOver.list(),
  }
}

/** The stamp of a plain file of that size, that is reached by no link and is not the box's own by another path. */
async function lookAtCopy(
  box: VolumeRow,
  file: OnBox,
  { rootPath }: VolumeRow,
  path: string,
): Promise<FileStamp | null> {
  const full = join(rootPath, path)
  const info = await lstat(full, { bigint: true }).catch(() => null)
  if (!info?.isFile() || Number(info.size) !== file.sizeBytes) return null
  const isOther = (await isBeneath(rootPath, full)) && !(await isOneFile(full, join(box.rootPath, file.path)))
  return isOther ? stampOfStats(info) : null
}

async function placesOf(
  database: Queryable,
  box: VolumeRow,
): Promise<{ places: Place[]; notLookedAt: HeldElsewhere['notLookedAt'] }> {
  const notLookedAt: HeldElsewhere['notLookedAt'] = []
  const places: Place[] = []
  const own = await filesOn(database, box, null)
  for (const { volume, folder, manifests } of await offloadsOf(database, box)) {
    const label = volume.label
    if (!volume.isHere) {
      notLookedAt.push({ label, folder, reason: 'It is away.' })
      continue
    }
    try {
      const listed = await readManifests(volume.rootPath, folder, manifests)
      const known = await knownCopies(database, own, volume, folder)
      const copyOf = (file: OnBox): Copy | null => {
        const entry = listed.get(file.path)
        if (!entry || !isAsListed(entry, file)) return null
        const path = join(folder, file.path)
        return { path, isUntouched: known.get(path) ?? whetherAsListed(entry, file) }
      }
      places.push({ volume, folder, copyOf })
    } catch (error) {
      const isBroken = error instanceof BrokenHistory
      notLookedAt.push({ label, folder, reason: isBroken ? error.message : explainFileError(error, volume.rootPath) })
    }
  }
  for (const [volume, known] of await comparedCopies(database, box)) {
    places.push({
      ...{ volume, folder: null },
      copyOf: (file) => {
        const compared = known.get(file.path)
        return compared?.isOriginalUntouched(file) ? compared.copy : null
      },
    })
  }
  return { places, notLookedAt }
}

/** When an offload had read back what its manifest lists. */
interface ListedFile extends HashedFile {
  readonly listedAt: string
}

/**
 * Of a copy that the ledger does not know: an offload gives it the time of its original. What has another was there
 * before the offload, or was touched since; a small one is read to know, a larger one has to be older than its manifest.
 */
const whetherAsListed =
  ({ listedAt, hashes }: ListedFile, original: OnBox): IsUntouched =>
  async (now, fullPath) => {
    if (now.mtimeMicros === original.mtimeMicros) return true
    const kind = hashKinds.find((each) => hashes[each] !== undefined)
    if (now.sizeBytes > mostReadBytes || kind === undefined) return now.mtimeMicros <= Date.parse(listedAt) * 1000
    const { signal } = new AbortController()
    return (await hashFile(fullPath, { kind, signal }).catch(() => null)) === hashes[kind]
  }

const isAsListed = ({ sizeBytes, modifiedAt }: HashedFile, file: OnBox): boolean =>
  sizeBytes === file.sizeBytes && modifiedAt !== null && Date.parse(modifiedAt) === Math.trunc(file.mtimeMicros / 1000)

/** Where a box was offloaded to, each place once, with the manifests that were written there of what was read back. */
async function offloadsOf(
  database: Queryable,
  box: VolumeRow,
): Promise<{ volume: VolumeRow; folder: string; manifests: ReadonlySet<string> }[]> {
  const { rows } = await database.execute<{ destination_id: string; folder: string; manifests: string[] }>(sql`
    select ${jobs.input}->>'destinationId' as destination_id, ${jobs.input}->>'folder' as folder,
      array_agg(${jobs.result}->>'manifest') as manifests
    from ${jobs} where ${jobs.productionId} = ${box.productionId} and ${jobs.input}->>'kind' = 'offload'
      and ${jobs.input}->>'volumeId' = ${box.id} and ${jobs.result}->>'manifest' is not null
    group by 1, 2 order by 1, 2`)
  const known = await database
    .select()
    .from(volumes)
    .where(and(eq(volumes.productionId, box.productionId), stays(volumes.kind)))
  const byId = new Map(known.map((volume) => [volume.id, volume]))
  return rows.flatMap(({ destination_id: id, folder, manifests }) => {
    const volume = byId.get(id)
    return volume ? [{ volume, folder, manifests: new Set(manifests) }] : []
  })
}

/**
 * What offloads list of what they read back, of each path as the newest has it. A history that came with a box lists
 * also what was not copied, as another file had its place.
 */
const readManifests = (
  root: string,
  folder: string,
  ours: ReadonlySet<string>,
): Promise<ReadonlyMap<string, ListedFile>> =>
  withHeld(root, (held) =>
    withFolder(held, folder, async (beside) => {
      const listed = new Map<string, ListedFile>()
      for (const { name, text } of (await readHistory(beside, false))?.lists ?? []) {
        if (!ours.has(pathIn(folder, `${historyFolder}/${name}`))) continue
        const { files: all, createdAt } = await readApart('hash list', { text })
        for (const file of all) listed.set(file.path, { ...file, listedAt: createdAt })
      }
      return listed
    }),
  )

type FileRow = Pick<
  typeof files.$inferSelect,
  'id' | 'volumeId' | 'path' | 'sequence' | 'sizeBytes' | 'mtimeMicros' | 'eachStamp' | 'fingerprint'
>
/** Without what its file says of itself, which is most of a row. */
const columns = {
  ...{ id: files.id, volumeId: files.volumeId, path: files.path, sequence: files.sequence },
  ...{ sizeBytes: files.sizeBytes, mtimeMicros: files.mtimeMicros, eachStamp: files.eachStamp },
  fingerprint: files.fingerprint,
}

/** What the ledger has on a volume, or in a folder of it. */
const filesOn = (database: Queryable, { id: onId }: VolumeRow, folder: string | null): Promise<FileRow[]> =>
  database
    .select(columns)
    .from(files)
    .where(
      and(
        eq(files.volumeId, onId),
        eq(files.isGone, false),
        folder === null ? undefined : sql`starts_with(${files.path}, ${`${folder}/`})`,
      ),
    )

/** Whether a file of the ledger, or each still of a numbered one, is as the ledger knows it. */
async function whetherUntouched(root: string, file: FileRow): Promise<(now: FileStamp) => boolean> {
  if (!file.sequence) return (now) => sameStamp(file, now)
  // Of numbered stills the ledger has one stamp for all of them.
  const areAll = await isAsKnown({ ...file, fullPath: join(root, file.path), root })
  return () => areAll
}

/**
 * What the ledger knows in the folder of an offload, by path: a copy that is as it is known there, and is not known to
 * be another than what lies on the box.
 */
async function knownCopies(
  database: Queryable,
  own: readonly FileRow[],
  volume: VolumeRow,
  folder: string,
): Promise<ReadonlyMap<string, IsUntouched>> {
  const originals = new Map(own.map((file) => [pathIn(folder, file.path), file]))
  const known = new Map<string, IsUntouched>()
  for (const copy of await filesOn(database, volume, folder)) {
    const original = originals.get(copy.path)
    const isAnother = original?.sizeBytes === copy.sizeBytes && original.fingerprint !== copy.fingerprint
    const isUntouched = isAnother ? () => false : await whetherUntouched(volume.rootPath, copy)
    for (const each of pathsOfFile(copy)) known.set(each, isUntouched)
  }
  return known
}

interface ComparedCopy {
  readonly isOriginalUntouched: (now: FileStamp) => boolean
  readonly copy: Copy
}

/** By the volume that they lie on, and by their path on a box: files that are known to be the same, byte for byte. */
async function comparedCopies(
  database: Queryable,
  box: VolumeRow,
): Promise<ReadonlyMap<VolumeRow, ReadonlyMap<string, ComparedCopy>>> {
  const { rows } = await database.execute<{ own_id: string; other_id: string }>(sql`
    with tied as (
      select clip_id, file_id from clip_files
      union all select clip_id, file_id from clip_copies where is_verified and not is_unlike
    ) select distinct own.id as own_id, other.id as other_id
      from files own join tied on tied.file_id = own.id join tied others on others.clip_id = tied.clip_id
        join files other on other.id = others.file_id and other.fingerprint = own.fingerprint
        join volumes lies on lies.id = other.volume_id
      where own.volume_id = ${box.id} and not own.is_gone and own.problem is null and not other.is_gone
        and other.problem is null and lies.is_here and lies.kind <> 'made' and ${stays(sql`lies.kind`)}`)
  const wanted = [...new Set(rows.flatMap((row) => [row.own_id, row.other_id]))]
  const known = await database.select(columns).from(files).where(anyOf(files.id, wanted))
  const byId = new Map(known.map((file) => [file.id, file]))
  const all = await database.select().from(volumes).where(eq(volumes.productionId, box.productionId))
  const volumeById = new Map(all.map((volume) => [volume.id, volume]))
  const found = new Map<VolumeRow, Map<string, ComparedCopy>>()
  for (const { own_id: ownId, other_id: otherId } of rows) {
    const [own, other] = [byId.get(ownId), byId.get(otherId)]
    const volume = volumeById.get(other?.volumeId ?? '')
    if (!own || !other || !volume) continue
    const copies = found.get(volume) ?? new Map<string, ComparedCopy>()
    found.set(volume, copies)
    const [paths, others] = [pathsOfFile(own), pathsOfFile(other)]
    if (paths.length !== others.length) continue
    const isOriginalUntouched = await whetherUntouched(box.rootPath, own)
    const isUntouched = await whetherUntouched(volume.rootPath, other)
    for (const [index, path] of paths.entries())
      copies.set(path, { isOriginalUntouched, copy: { path: others[index] as string, isUntouched } })
  }
  return found
}
