import { randomUUID } from 'node:crypto'
import { basename, join } from 'node:path'
import {
  cameraOfReel,
  findCameraProxies,
  findSpannedTakes,
  findTrackSets,
  groupBy,
  groupFromFolders,
  isSmallTwin,
  isTrackSet,
  type MediaFacts,
  nameOfSet,
  normalName,
  possibleStems,
  reelInFile,
  removableKinds,
  sequenceFramePaths,
  sequenceName,
  stem,
} from '@ennick/core'
import { and, asc, eq, inArray, isNotNull, isNull, ne, not, notExists, sql } from 'drizzle-orm'
import { isOneFile } from '../disk/file-identity.ts'
import { anyOf } from '../store/any-of.ts'
import { hasChanged, heldContent } from '../store/backups.ts'
import { cameraProxies, clipCopies, type DescribedValue } from '../store/catalogue-schema.ts'
import type { Transaction } from '../store/database.ts'
import { lockClasses } from '../store/lock-classes.ts'
import type { ProductionRow } from '../store/production-row.ts'
import { Declared } from '../store/roles.ts'
import { clipFiles, clips, declaredRoles, type FilePart, files, pairFiles, type volumes } from '../store/schema.ts'
import { isTakenOut } from '../store/taken-out.ts'
import { lookForVolume } from '../store/volume-presence.ts'
import { bringBackOther } from './bring-back-other.ts'
import { completeSets } from './complete-sets.ts'
import { lookForPlaced } from './describe-file.ts'
import { partFromUsedAgain } from './used-again.ts'

type FileRow = typeof files.$inferSelect
type VolumeRow = typeof volumes.$inferSelect
/** A file that was read and belongs to nothing yet. */
export type Arrival = FileRow & { readonly facts: MediaFacts }

/**
 * Gives every file that belongs to nothing yet its place: as a copy of a clip's file, as a camera's small proxy, as a
 * part of a spanned take, as a track of a clip, or as a clip of its own. What is a clip's lost file in a new place stays
 * a file, for a mend.
 * @param there paths that a scan has just found: what the ledger still has beside them has left; null: as it has them
 * @returns whether any of them got one
 */
export async function settleArrivals(
  transaction: Transaction,
  production: ProductionRow,
  volume: VolumeRow,
  there: ReadonlySet<string> | null = null,
): Promise<boolean> {
  await lockArrivals(transaction, production.id)
  await partFromUsedAgain(transaction, volume)
  await bringBackOther(transaction, volume)
  const waiting = await readArrivals(transaction, volume)
  const arrived = waiting.filter(({ path }) => there?.has(path) ?? true)
  const said = new Declared(await transaction.select().from(declaredRoles).where(eq(declaredRoles.volumeId, volume.id)))
  const isProxy = ({ path, facts }: Arrival): boolean => {
    const declared = said.of({ path, volume })
    return declared ? declared.role !== 'original' : volume.kind === 'upload' && facts.kind === 'picture'
  }
  await insertProxies(
    transaction,
    production,
    arrived.filter(isProxy).map((file) => ({ fileId: file.id, clipId: null })),
  )
  // Where only proxies come, what is none waits for somebody to say what it is.
  const originals = arrived.filter(
    (file) => !isProxy(file) && (volume.kind !== 'upload' || said.of({ ...file, volume })),
  )
  if (originals.length) await settleOriginals(transaction, production, volume, originals)
  await matchWaitingProxies(transaction, production)
  return arrived.length > 0 && (await readArrivals(transaction, volume)).length < waiting.length
}

/** Until the transaction ends nobody else gives files of a production their place. */
export const lockArrivals = (transaction: Transaction, productionId: string): Promise<unknown> =>
  transaction.execute(sql`select pg_advisory_xact_lock(${lockClasses.arrivals}, hashtext(${productionId}))`)

async function readArrivals(transaction: Transaction, volume: VolumeRow): Promise<Arrival[]> {
  const belongs = (table: typeof clipFiles | typeof pairFiles | typeof cameraProxies | typeof clipCopies) =>
    notExists(transaction.select({ one: sql`1` }).from(table).where(eq(table.fileId, files.id)))
  const rows = await transaction
    .select()
    .from(files)
    .where(
      and(
        eq(files.volumeId, volume.id),
        eq(files.isGone, false),
        isNotNull(files.facts),
        belongs(clipFiles),
        belongs(pairFiles),
        belongs(cameraProxies),
        belongs(clipCopies),
      ),
    )
    .orderBy(files.path)
  return rows as Arrival[]
}

async function settleOriginals(
  transaction: Transaction,
  production: ProductionRow,
  volume: VolumeRow,
  arrived: readonly Arrival[],
): Promise<void> {
  const { lost, copies, itself } = await knownContent(transaction, production, volume, arrived)
  for (const [clipId, file] of copies)
    await transaction.insert(clipCopies).values({ clipId, fileId: file.id, isVerified: false }).onConflictDoNothing()
  const copied = new Set([...copies].map(([, file]) => file.id))
  const unclaimed = arrived.filter(
    ({ id, fingerprint }) => !lost.has(fingerprint) && !copied.has(id) && !itself.has(id),
  )
  const small = await knownProxies(transaction, production, unclaimed)
  await insertProxies(transaction, production, small)
  const isSmall = new Set(small.map(({ fileId }) => fileId))
  const free = unclaimed.filter(({ id }) => !isSmall.has(id))
  const { joined, freed } = await completeSets(transaction, production.id, volume.id, free)
  const again = await transaction.select().from(files).where(anyOf(files.id, freed))
  const fresh = [...free.filter(({ id }) => !joined.has(id)), ...(again as Arrival[])]

  const sets = findTrackSets(fresh)
  const ofSet = new Set(sets.flat().map(({ id }) => id))
  const takes = [...findSpannedTakes(fresh.filter(({ id }) => !ofSet.has(id))), ...sets]
  const partOf = new Map(takes.flatMap((take) => take.map((file) => [file.id, take] as const)))
  // A spanned take is compared with small recordings through its first part alone: it never is one itself.
  const candidates = await withClipsOfVolume(
    transaction,
    volume,
    fresh.filter((file) => !partOf.has(file.id)),
  )
  const offers = findCameraProxies(candidates, production.proxySuffixes)
  const isFresh = new Set(fresh.map((file) => file.id))
  const proxyIds = new Set(offers.map((offer) => offer.proxyId).filter((id) => isFresh.has(id)))

  const whole = fresh.filter((file) => !partOf.has(file.id) && !proxyIds.has(file.id)).map((file) => [file])
  const clipOfFile = await makeClips(transaction, production.id, volume, [...whole, ...takes])
  for (const { id, clipId } of candidates) if (clipId !== null) clipOfFile.set(id, clipId)
  await insertProxies(
    transaction,
    production,
    offers
      .filter((offer) => proxyIds.has(offer.proxyId))
      .map((offer) => ({ fileId: offer.proxyId, clipId: clipOfFile.get(offer.originalId) ?? null })),
  )
}

/** Content that a proxy has elsewhere, of a pair or waiting for one: a drive was copied with all that was made. */
async function knownProxies(
  transaction: Transaction,
  production: ProductionRow,
  arrived: readonly Arrival[],
): Promise<{ fileId: string; clipId: string | null }[]> {
  if (arrived.length === 0) return []
  const ids = sql.param(arrived.map(({ id }) => id))
  const { rows } = await transaction.execute<{ file_id: string; clip_id: string | null }>(sql`
    with proxies as (
      select ${cameraProxies.fileId}, ${cameraProxies.clipId} from ${cameraProxies}
        where ${cameraProxies.productionId} = ${production.id}
      union all select made.file_id, pair.clip_id from ${pairFiles} made join pairs pair on pair.id = made.pair_id
        join clips on clips.id = pair.clip_id where clips.production_id = ${production.id}
    ) select distinct on (arrived.id) arrived.id as file_id, proxies.clip_id
      from ${files} arrived join ${files} known on known.fingerprint = arrived.fingerprint
        and known.size_bytes = arrived.size_bytes and known.id <> arrived.id
        join proxies on proxies.file_id = known.id
      where arrived.id = any(${ids}::uuid[]) order by arrived.id, proxies.clip_id nulls last`)
  return rows.map((row) => ({ fileId: row.file_id, clipId: row.clip_id }))
}

/** Fresh files, and those of the volume that are clips already: a proxy may come with a later scan. */
async function withClipsOfVolume(transaction: Transaction, volume: VolumeRow, fresh: readonly Arrival[]) {
  const settled = await transaction
    .select({ id: files.id, path: files.path, facts: files.facts, clipId: clipFiles.clipId })
    .from(clipFiles)
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .where(and(eq(files.volumeId, volume.id), isNotNull(files.facts), eq(clipFiles.part, 'whole')))
  return [
    ...fresh.map(({ id, path, facts }) => ({ id, path, facts, clipId: null })),
    ...settled.map((row) => ({ ...row, facts: row.facts as MediaFacts })),
  ]
}

/**
 * Content that some clip's file is held to have already. Where that is gone this is that file, moved: a mend can point
 * the clip to it. Where one of the two lies on a volume that leaves again, they are the card's original and its copy.
 * Where both do, a camera wrote to two cards at once, and where both stay, one drive is a backup of the other: under one
 * name. What is the very same file, by a hard link or as a folder that is mounted twice, is none of these.
 */
async function knownContent(
  transaction: Transaction,
  production: ProductionRow,
  volume: VolumeRow,
  arrived: readonly Arrival[],
): Promise<{ lost: Set<string>; copies: (readonly [string, Arrival])[]; itself: Set<string> }> {
  const byContent = groupBy(arrived, (file) => file.fingerprint)
  const rows = []
  const marks = [...byContent.keys()]
  for (let index = 0; index < marks.length; index += 5000) {
    rows.push(
      ...(await transaction.query.files.findMany({
        where: inArray(files.fingerprint, marks.slice(index, index + 5000)),
      })),
      // What was written over is lost by what it was.
      ...(await transaction.query.files.findMany({
        where: and(
          ne(files.firstFingerprint, files.fingerprint),
          inArray(files.firstFingerprint, marks.slice(index, index + 5000)),
        ),
      })),
    )
  }
  const links = rows.length
    ? await transaction
        .select({ clipId: clipFiles.clipId, fileId: clipFiles.fileId })
        .from(clipFiles)
        .innerJoin(clips, eq(clips.id, clipFiles.clipId))
        .where(
          and(
            eq(clips.productionId, production.id),
            inArray(
              clipFiles.fileId,
              rows.map((row) => row.id),
            ),
          ),
        )
        .orderBy(asc(clips.name), asc(clips.id), asc(clipFiles.ordinal))
    : []
  const volumeById = new Map((await transaction.query.volumes.findMany()).map((row) => [row.id, row]))
  const fileById = new Map(rows.map((row) => [row.id, row]))
  const lost = new Set<string>()
  const left: FileRow[] = []
  const itself = new Set<string>()
  const taken = new Set<string>()
  const copies: (readonly [string, Arrival])[] = []
  for (const { clipId, fileId } of links) {
    const file = fileById.get(fileId) as FileRow
    const home = volumeById.get(file.volumeId) as VolumeRow
    const place = { fullPath: join(home.rootPath, file.path), root: home.rootPath, sequence: file.sequence }
    const stamp = await lookForPlaced(place).catch(() => 'not known' as const)
    if (file.isGone || (home.isHere && (stamp === null || stamp === 'not known'))) {
      lost.add(heldContent(file))
      if (!file.isGone && stamp === null) left.push(file)
    } else if (home.id !== volume.id && !hasChanged(file)) {
      const others = byContent.get(file.fingerprint)?.filter((other) => other.sizeBytes === file.sizeBytes) ?? []
      const alike: Arrival[] = []
      for (const other of others)
        if (await isOneFile(firstPath(home, file), firstPath(volume, other))) itself.add(other.id)
        else alike.push(other)
      // What was offloaded by hand may have been renamed; where several are alike, the one of the same name is it.
      const leavesOne = removableKinds.has(home.kind) !== removableKinds.has(volume.kind)
      const free = alike.filter(({ id }) => !taken.has(id))
      const among = free.length ? free : alike
      const named =
        among.find((other) => other.path === file.path) ?? among.find((other) => nameOf(other) === nameOf(file))
      const twin = named ?? (leavesOne ? among[0] : undefined)
      if (!twin) continue
      taken.add(twin.id)
      copies.push([clipId, twin])
    }
  }
  await noteGone(transaction, left, volumeById)
  return { lost, copies, itself }
}

/** What was moved away from a volume is seen to be gone from that, where it is in as surely as anything is. */
async function noteGone(
  transaction: Transaction,
  left: readonly FileRow[],
  volumeById: ReadonlyMap<string, VolumeRow>,
): Promise<void> {
  for (const [volumeId, gone] of groupBy(left, (file) => file.volumeId)) {
    const home = volumeById.get(volumeId)
    if (!home || !(await lookForVolume(transaction, home))) continue
    const ids = gone.map(({ id }) => id)
    await transaction.update(files).set({ isGone: true }).where(anyOf(files.id, ids))
  }
}

/** Where a file lies, of numbered stills the first. */
const firstPath = ({ rootPath }: VolumeRow, { path, sequence }: FileRow): string => {
  const [first] = sequence ? sequenceFramePaths(sequence) : [path]
  return join(rootPath, first ?? path)
}

const nameOf = ({ path }: Pick<FileRow, 'path'>): string => normalName(basename(path))

/**
 * Makes a clip for each group of files: one whole file, one sequence, or the parts of a take. @returns the clip of each
 * file
 */
export async function makeClips(
  transaction: Transaction,
  productionId: string,
  volume: VolumeRow,
  groups: readonly (readonly Arrival[])[],
): Promise<Map<string, string>> {
  const clipOfFile = new Map<string, string>()
  const made = groups.map((parts) => {
    const clipId = randomUUID()
    for (const part of parts) clipOfFile.set(part.id, clipId)
    return { clipId, parts }
  })
  for (let index = 0; index < made.length; index += 500) {
    const some = made.slice(index, index + 500)
    await transaction
      .insert(clips)
      .values(some.map(({ clipId, parts }) => ({ id: clipId, productionId, ...firstWords(volume, parts) })))
    await transaction
      .insert(clipFiles)
      .values(
        some.flatMap(({ clipId, parts }) =>
          parts.map((part, ordinal) => ({ clipId, ordinal, fileId: part.id, part: partPlayed(part, parts) })),
        ),
      )
  }
  return clipOfFile
}

/** What part of its clip a file is. */
function partPlayed(file: Arrival, parts: readonly Arrival[]): FilePart {
  if (file.sequence) return 'frame'
  if (parts.length === 1) return 'whole'
  return isTrackSet(parts) ? (file.facts.picture ? 'picture' : 'sound') : 'span'
}

/** What is known of a clip as it comes in: from the label on its box, its file, its notes and its folders. */
function firstWords(volume: VolumeRow, parts: readonly Arrival[]) {
  const [first] = parts as [Arrival, ...Arrival[]]
  const { facts, path, sequence } = first
  const name = sequence
    ? sequenceName(sequence)
    : parts.length === 1
      ? stem(basename(path))
      : isTrackSet(parts)
        ? nameOfSet(stem(path), facts)
        : stem(path).replace(/[_.-]\d{1,4}$/, '')
  const described: Record<string, DescribedValue> = {}
  const say = (field: string, value: string | null | undefined, from: DescribedValue['from']): void => {
    if (value && !described[field]) described[field] = { value, from }
  }
  const notes = facts.soundNotes
  say('scene', notes?.scene, 'file')
  say('take', notes?.take, 'file')
  say('notes', notes?.note, 'file')
  if (notes?.circled) say('circled', 'yes', 'file')
  say('cameFrom', volume.label, 'rule')
  for (const field of ['day', 'camera', 'unit'] as const) say(field, volume.box[field], 'person')
  const folders = groupFromFolders(path)
  say('day', folders.day, 'rule')
  say('day', dayOf(facts.createdAt ?? notes?.originationDate ?? null), 'file')
  say('camera', folders.camera, 'rule')
  if (facts.reel) say('camera', cameraOfReel(facts.reel), 'rule')
  const reel = reelInFile(facts)
  if (reel !== null) return { name, reel, reelFrom: 'file' as const, described }
  const ofBox = facts.kind === 'still' ? null : volume.box.reel || null
  return { name, reel: ofBox, reelFrom: ofBox === null ? null : ('person' as const), described }
}

const dayOf = (at: string | null): string | null => /^\d{4}-\d{2}-\d{2}/.exec(at ?? '')?.[0] ?? null

async function insertProxies(
  transaction: Transaction,
  production: ProductionRow,
  rows: readonly { fileId: string; clipId: string | null }[],
): Promise<void> {
  if (rows.length === 0) return
  const list = JSON.stringify(rows.map(({ fileId, clipId }) => ({ file_id: fileId, clip_id: clipId })))
  await transaction.execute(
    sql`insert into ${cameraProxies} (file_id, clip_id, production_id) select file_id, clip_id, ${production.id}::uuid
      from jsonb_to_recordset(${list}::jsonb) as arrived(file_id uuid, clip_id uuid) on conflict do nothing`,
  )
}

/** Small proxies that came before their originals look whether those are there now. */
async function matchWaitingProxies(transaction: Transaction, production: ProductionRow): Promise<void> {
  const waiting = await transaction
    .select({ id: files.id, path: files.path, facts: files.facts })
    .from(cameraProxies)
    .innerJoin(files, eq(files.id, cameraProxies.fileId))
    .where(and(eq(cameraProxies.productionId, production.id), isNull(cameraProxies.clipId)))
  if (waiting.length === 0) return
  const stems = [...new Set(waiting.flatMap((file) => possibleStems(file.path, production.proxySuffixes)))]
  const originals = await transaction
    .select({ clipId: clipFiles.clipId, path: files.path, facts: files.facts })
    .from(clipFiles)
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(clips, eq(clips.id, clipFiles.clipId))
    .where(
      and(
        eq(clips.productionId, production.id),
        not(isTakenOut),
        eq(clipFiles.ordinal, 0),
        anyOf(sql`ennick_fold(${clips.name})`, stems),
      ),
    )
  const byStem = groupBy(originals, (original) => normalName(stem(original.path)))
  for (const file of waiting) {
    const small = { path: file.path, facts: file.facts as MediaFacts }
    const candidates = possibleStems(file.path, production.proxySuffixes).flatMap((key) => byStem.get(key) ?? [])
    const fitting = candidates.filter(
      (original) =>
        original.facts?.picture &&
        isSmallTwin({ path: original.path, facts: original.facts }, small, production.proxySuffixes),
    )
    // Of two that fit, none is guessed: it goes on waiting, and a person decides.
    const only = fitting.length === 1 ? fitting[0] : undefined
    if (only)
      await transaction.update(cameraProxies).set({ clipId: only.clipId }).where(eq(cameraProxies.fileId, file.id))
  }
}
