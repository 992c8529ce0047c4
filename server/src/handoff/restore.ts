import { lstat } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { recipeDraft } from '@ennick/contract'
import { count, type HashKind, hashKinds, isCompoundFile, type ListContent } from '@ennick/core'
import { and, eq, isNull, like } from 'drizzle-orm'
import { z } from 'zod'
import { type CellChange, readCells, writeEdit } from '../clips/write-values.ts'
import { addCut } from '../cuts/add-cut.ts'
import { readAllCutStates } from '../cuts/cut-state.ts'
import { type HeldFolder, withFolder, withHeld } from '../disk/held-folder.ts'
import { hashFile } from '../engine/copy.ts'
import { explainFileError, isFileError, PlainError } from '../errors.ts'
import { declareRole } from '../intake/declare-role.ts'
import { readListed } from '../intake/manifest-history.ts'
import { scanVolume } from '../intake/scan.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { editChanges, edits } from '../store/catalogue-schema.ts'
import { writeHistory } from '../store/history.ts'
import { joinedFiles } from '../store/job-schema.ts'
import type { JobInput, JobResult } from '../store/job-types.ts'
import type { Material, VolumeRow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { keepRecipe, readRecipes } from '../store/recipes.ts'
import { cuts, decisions, events, volumes } from '../store/schema.ts'
import { calledOtherwise, type FoundArchive, findArchive, keyThere, withSound } from './archive-record.ts'

type RestoreInput = Extract<JobInput, { kind: 'restore' }>
/** A file of the archive that is not what it should be, and why. */
interface Trouble {
  readonly path: string
  readonly reason: string
}

type RestoreResult = Extract<JobResult, { kind: 'restore' }>

/**
 * Puts a production together again from its archive: reads every file back where that is wanted, scans the folders of
 * its volumes, gives each clip what was said of it, and reads the lists of its cuts. Nothing in the archive is changed.
 * A run that was cut short goes on where it was.
 */
export async function restoreArchive(
  context: WorkContext,
  meter: ProgressMeter,
  { folder, verifies }: RestoreInput,
): Promise<RestoreResult> {
  const { database, job } = context
  const archive = await findArchive(folder).catch((error) => {
    throw error instanceof PlainError ? new JobFailure(error.message) : error
  })
  const trouble: Trouble[] = []
  const verified = verifies ? await verifyAll(context, meter, folder, archive, trouble) : null
  const alongside = <T>(task: (held: HeldFolder) => Promise<T>): Promise<T> =>
    withHeld(folder, (held) => withFolder(held, archive.along, task))
  const recipes = await alongside((along) => keepRecipes(context, along, trouble))
  const own = await database.select().from(volumes).where(eq(volumes.productionId, job.productionId))
  const byLabel = new Map(own.map((volume) => [volume.label, volume]))
  const restored = archive.record.volumes.flatMap(({ label, folder: name }) => {
    const volume = byLabel.get(label)
    return volume ? [{ volume, name }] : []
  })
  await declareRoles(context, archive, restored)
  let growing = 0
  for (const { volume } of restored) growing += (await scanVolume(context, meter, volume.id)).growing ?? 0
  if (growing)
    throw new JobFailure(
      `Something is still writing ${count(growing, 'file')} of the archive. Wait until all of it is there, and retry.`,
    )
  const material = await readMaterial(database, job.productionId)
  const clipAt = clipsByPlace(material, restored)
  const described = await describeClips(context, archive, clipAt)
  await keepJoined(context, archive, material, clipAt)
  await alongside((along) => readLists(context, { archive, along, clipAt }, trouble))
  const states = await readAllCutStates(database, await readMaterial(database, job.productionId))
  const result: RestoreResult = {
    ...{ kind: 'restore', verified, trouble, recipes, clips: material.clips.size, described },
    lacks: archive.record.lacks,
    cuts: states.map(({ row, resolutions }) => ({
      ...{ name: row.name, version: row.version, events: resolutions.length },
      onOriginal: resolutions.filter(({ state }) => state === 'on original').length,
    })),
  }
  const parts = `${count(result.clips, 'clip')}, ${count(states.length, 'list')}`
  const what = `Put together again from the archive in ${folder}: ${parts}.`
  await writeHistory(database, job.productionId, 'production', job.productionId, what)
  await announce(database, job.productionId, 'volumes', 'clips', 'pairs', 'cuts', 'recipes')
  const [first] = trouble
  if (first) {
    const which = count(trouble.length, 'file of the archive is', 'files of the archive are')
    throw new JobFailure(`${which} not what was written: ${first.path}: ${first.reason} All else is here.`, { result })
  }
  return result
}

/** Reads every file back that the archive's manifests list, and says which are not what was written. */
function verifyAll(
  { database, signal }: WorkContext,
  meter: ProgressMeter,
  folder: string,
  { record }: FoundArchive,
  trouble: Trouble[],
): Promise<number> {
  return withHeld(folder, async (held) => {
    const folders = new Set(record.volumes.map((volume) => volume.folder))
    const listed = new Map<string, { kind: HashKind; hash: string }>()
    for (const kind of hashKinds)
      for (const [path, hash] of await readListed(database, held, kind, 'verify'))
        if (folders.has(path.split('/')[0] ?? '')) listed.set(path, { kind, hash })
    if (listed.size === 0) throw new JobFailure(`${folder} has no manifest by which its files could be verified.`)
    let total = 0
    for (const path of listed.keys()) total += await sizeOf(join(folder, path))
    meter.restart()
    let matching = 0
    let bytes = 0
    const onBytes = (read: number): void => {
      bytes += read
      meter.report(bytes, total, 'bytes')
    }
    for (const [path, { kind, hash }] of listed) {
      signal.throwIfAborted()
      try {
        if ((await hashIn(held, path, { kind, signal, onBytes })) === hash) matching++
        else trouble.push({ path, reason: `Its ${kind} is another than the manifest’s.` })
      } catch (error) {
        signal.throwIfAborted()
        if (!isFileError(error)) throw error
        trouble.push({ path, reason: explainFileError(error, path) })
      }
    }
    return matching
  })
}

/** The checksum of a file in the archive; null of what is no file. */
const hashIn = (held: HeldFolder, path: string, options: Parameters<typeof hashFile>[1]): Promise<string | null> =>
  withFolder(held, dirname(path), async (folder) => {
    const open = await folder.open(basename(path))
    try {
      return (await open.stat()).isFile() ? await hashFile(folder.pathOf(open, basename(path)), options) : null
    } finally {
      await open.close()
    }
  })

const sizeOf = (path: string): Promise<number> =>
  lstat(path).then(
    ({ size }) => size,
    () => 0,
  )

const recipesFile = z.array(recipeDraft.extend({ id: z.string() }))

/** Recipes that this Ennick does not know, by their ids or their names. @returns the names of those that were kept */
async function keepRecipes({ database }: WorkContext, along: HeldFolder, trouble: Trouble[]): Promise<string[]> {
  const name = 'recipes.json'
  const read = await along
    .readText(name)
    .then((text) => recipesFile.parse(JSON.parse(text ?? '[]')))
    .catch((error) => {
      const isOurs = isFileError(error) || error instanceof SyntaxError || error instanceof z.ZodError
      if (!isOurs) throw error
      const reason = isFileError(error) ? explainFileError(error, name) : 'It holds no recipes that can be read here.'
      trouble.push({ path: name, reason })
      return []
    })
  const known = await readRecipes(database)
  const names = new Set([...known.values()].map(({ name }) => name))
  const kept: string[] = []
  for (const { id, ...draft } of read) {
    if (known.has(id) || names.has(draft.name)) continue
    await keepRecipe(database, draft, null)
    kept.push(draft.name)
  }
  return kept
}

/** The volume that a place of the archive is on, and its path there. */
function placeOn(
  place: string,
  restored: readonly { volume: VolumeRow; name: string }[],
): { volume: VolumeRow; path: string } | null {
  const on = restored.find(({ name }) => place.startsWith(`${name}/`))
  return on ? { volume: on.volume, path: place.slice(on.name.length + 1) } : null
}

/** Before anything is scanned, so that the scan makes of each file what it was. */
async function declareRoles(
  { database }: WorkContext,
  { record }: FoundArchive,
  restored: readonly { volume: VolumeRow; name: string }[],
): Promise<void> {
  for (const { place, role } of record.clips) {
    const on = role === null ? null : placeOn(place, restored)
    if (on) await declareRole(database, on.volume, on.path, role)
  }
}

/** How that edit's title ends: by it a later run knows what an earlier one has said. */
const fromArchive = ', from the archive'

/** Which clip lies at a place of the archive. */
type ClipAt = (place: string) => string | undefined

function clipsByPlace(material: Material, restored: readonly { volume: VolumeRow; name: string }[]): ClipAt {
  const byFile = new Map(
    [...material.clips.values()].map((clip) => [`${clip.main.volumeId} ${clip.main.path}`, clip.id]),
  )
  return (place) => {
    const on = placeOn(place, restored)
    return on ? byFile.get(`${on.volume.id} ${on.path}`) : undefined
  }
}

/** What is where in joined files, which are not here themselves; what an earlier run has kept is not kept twice. */
async function keepJoined(
  { database, job: { productionId } }: WorkContext,
  { record }: FoundArchive,
  { joined, volumes: places }: Material,
  clipAt: ClipAt,
): Promise<void> {
  const place = places.find(({ kind }) => kind === 'made')
  if (!place) return
  for (const { name, rate, entries } of record.joined) {
    if (joined.isCalled(name)) continue
    await database.insert(joinedFiles).values({
      ...{ productionId, volumeId: place.id, path: `joined/${name}`, recipe: '', sizeBytes: 0, fingerprint: '' },
      ...{ rateNumerator: rate.numerator, rateDenominator: rate.denominator, removedAt: new Date() },
      entries: calledOtherwise(entries, clipAt),
    })
  }
}

/**
 * Gives each clip what was said of it, as one edit; what people have said since an earlier run stays.
 * @returns how many cells changed
 */
async function describeClips(
  { database, job }: WorkContext,
  { record }: FoundArchive,
  clipAt: ClipAt,
): Promise<number> {
  const cells = record.clips.flatMap(({ place, reel, described }) => {
    const clipId = clipAt(place)
    if (clipId === undefined) return []
    const said = Object.entries(withSound(described, clipAt)).map(([field, after]) => ({ clipId, field, after }))
    return reel ? [...said, { clipId, field: 'reel', after: reel }] : said
  })
  return database.transaction(async (transaction) => {
    const now = await readCells(transaction, cells)
    const earlier = await transaction
      .selectDistinct({ clipId: editChanges.clipId })
      .from(editChanges)
      .innerJoin(edits, eq(edits.id, editChanges.editId))
      .where(and(eq(edits.productionId, job.productionId), like(edits.title, `%${fromArchive}`)))
    const done = new Set(earlier.map(({ clipId }) => clipId))
    const fresh = cells.filter(({ clipId }) => !done.has(clipId))
    const changes = fresh.flatMap((cell): CellChange[] => {
      const before = now(cell)
      return before?.value === cell.after.value && before.from === cell.after.from ? [] : [{ ...cell, before }]
    })
    await writeEdit(
      transaction,
      job.productionId,
      `What was said of ${count(record.clips.length, 'clip')}${fromArchive}`,
      changes,
    )
    return changes.length
  })
}

/**
 * Reads the lists of the archive's cuts, each version after the one before it.
 * @param trouble gets those that could not be read
 */
async function readLists(
  { database, job }: WorkContext,
  { archive: { record }, along, clipAt }: { archive: FoundArchive; along: HeldFolder; clipAt: ClipAt },
  trouble: Trouble[],
): Promise<void> {
  const { productionId } = job
  const kept = { read: (id: string) => readMaterial(database, id) }
  const there = await database
    .select({ id: cuts.id, text: cuts.sourceText, bytes: cuts.sourceBytes, version: cuts.version })
    .from(cuts)
    .where(eq(cuts.productionId, productionId))
  const newest = new Map<number, { id: string; version: number }>()
  for (const { file, fileName, rate, line, takesGood, ...cut } of record.cuts) {
    const before = newest.get(line)
    try {
      const open = await along.open(file)
      const bytes = await open.readFile().finally(() => open.close())
      const content: ListContent = isCompoundFile(bytes) ? bytes : bytes.toString('utf8')
      // What an earlier run has read is not read twice.
      const at = there.findIndex(
        ({ text, bytes: own, version }) =>
          version === (before?.version ?? 0) + 1 && (own ? bytes.equals(own) : text === content),
      )
      const [known] = at < 0 ? [] : there.splice(at, 1)
      const added =
        known ??
        (await addCut(database, kept, productionId, {
          fileName,
          content,
          rate,
          nextOf: before?.id,
          takeGood: takesGood,
        }))
      newest.set(line, { id: added.id, version: added.version })
      for (const { position, ...awaited } of cut.awaited)
        await database
          .update(events)
          .set({ awaited })
          .where(and(eq(events.cutId, added.id), eq(events.position, position)))
      for (const { position, place } of cut.chosen) {
        const chosenClipId = clipAt(place)
        const at = and(eq(events.cutId, added.id), eq(events.position, position), isNull(events.chosenClipId))
        if (chosenClipId !== undefined) await database.update(events).set({ chosenClipId }).where(at)
      }
      for (const { findingKey, decidedAt, ...decision } of cut.decisions)
        await database
          .insert(decisions)
          .values({
            ...{ cutId: added.id, ...decision },
            ...{ findingKey: keyThere(findingKey, clipAt), decidedAt: new Date(decidedAt) },
          })
          .onConflictDoNothing()
    } catch (error) {
      if (!(error instanceof PlainError) && !isFileError(error)) throw error
      trouble.push({ path: file, reason: error instanceof PlainError ? error.message : explainFileError(error, file) })
    }
  }
}
