import { basename, dirname, join } from 'node:path'
import { count, type FindingClip, preflight, type Resolution, writeDelimited } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { FolderLeft, type HeldFolder, withFolder, withHeld } from '../disk/held-folder.ts'
import { explainFileError, isFileError } from '../errors.ts'
import { assertVolumeHere } from '../intake/assert-volume-here.ts'
import { dropJournal, Refused, readJournal, type SourceFile, type VerifiedCopy } from '../intake/copier.ts'
import { type CopiedFiles, type CopyRun, copyFiles } from '../intake/copy-files.ts'
import { sameStamp, stampOf } from '../intake/describe-file.ts'
import { readListed, writeGeneration } from '../intake/manifest-history.ts'
import { lookAtVolumes } from '../intake/presence.ts'
import { assertAttempt } from '../queue/attempt.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import type { JobInput, JobResult } from '../store/job-schema.ts'
import type { KnownFile } from '../store/material.ts'
import { cuts, volumes } from '../store/schema.ts'
import { listFileName, safeName, type WrittenFile, writeFolderIn, writeLists } from './hand-off.ts'
import { copyPiece } from './pull-piece.ts'
import { type PlannedVolume, type PulledClip, type PullPlan, pathsOf, placesOf, planPull } from './pull-plan.ts'

type PullInput = Extract<JobInput, { kind: 'pull' }>
type PullResult = Extract<JobResult, { kind: 'pull' }>

/** A file of a volume that is copied, and what of the catalogue it is a part of. */
type WantedFile = SourceFile & { readonly known: KnownFile }

const backAgain = 'The pull goes on when it is back.'

/**
 * Copies what a cut needs into a folder of its own: each file hashed while it is read, read back and compared before it
 * has its name; what is there already is compared and never overwritten. Beside it go a manifest, a table of what is
 * in it and what is not, and the lists of the cut on these very copies, where nothing is missing. What is away stays
 * outstanding: another pull into the same folder goes on from there.
 */
export async function pullMedia(context: WorkContext, meter: ProgressMeter, input: PullInput): Promise<PullResult> {
  const { database, job } = context
  // What left a moment ago is outstanding, and nothing waits for it.
  await lookAtVolumes(database, await database.select().from(volumes).where(eq(volumes.productionId, job.productionId)))
  const state = await readCutState(database, input.cutId)
  const plan = planPull(state, input.of, input.handles)
  const target = join(input.folder, input.name)
  if (plan.volumes.length === 0) throw new JobFailure('Nothing of what this cut uses is here: nothing was copied.')
  try {
    return await withHeld(input.folder, (folder) =>
      withFolder(folder, input.name, (to) => pullInto(to, { context, meter, input, state, plan }), { make: true }),
    )
  } catch (error) {
    context.signal.throwIfAborted()
    if (isFileError(error)) throw new JobFailure(explainFileError(error, target), { cause: error })
    throw error
  }
}

interface Pull {
  readonly context: WorkContext
  readonly meter: ProgressMeter
  readonly input: PullInput
  readonly state: CutState
  readonly plan: PullPlan
}

async function pullInto(to: HeldFolder, pull: Pull): Promise<PullResult> {
  const { context, meter, input, state, plan } = pull
  const { database, job } = context
  const refused: { path: string; reason: string }[] = []
  const wanted = new Map<PlannedVolume, WantedFile[]>()
  for (const each of plan.volumes) wanted.set(each, await listWanted(each, refused))
  const listed = await readListed(to, input.hash)
  await assertRoom(to, wanted)
  const pieces = plan.volumes.flatMap((planned) => planned.pieces)
  const totalBytes = [
    ...[...wanted.values()].flat().map(({ sizeBytes }) => sizeBytes),
    ...pieces.map(({ bytes }) => bytes),
  ].reduce((sum, bytes) => sum + bytes, 0)
  let doneBytes = 0
  meter.restart()
  const onBytes = (bytes: number): void => {
    doneBytes += bytes
    meter.report(doneBytes, totalBytes, 'bytes')
  }
  const copies: VerifiedCopy[] = []
  let already = 0
  for (const [planned, files] of wanted) {
    const copied = await copyVolume(to, pull, { planned, files, listed, before: copies.length, onBytes })
    copies.push(...copied.verified.map((copy) => ({ ...copy, path: `${planned.folder}/${copy.path}` })))
    refused.push(...copied.refused.map((each) => ({ ...each, path: `${planned.folder}/${each.path}` })))
    already += copied.already
  }
  await assertAttempt(database, job)
  const manifest = copies.length ? await writeGeneration(to, input.name, input.hash, copies) : null
  const byPath = new Map(copies.map((copy) => [copy.path, copy]))
  const isIn = (pulled: PulledClip): boolean =>
    pulled.outstanding === null && placesOf(plan, pulled).every((path) => byPath.has(path))
  const outstanding = outstandingOf(plan, isIn)
  const lists = await listsOf(pull, to, outstanding.length === 0)
  const table = { name: 'what is in it.csv', content: tableOf(pull, byPath) }
  const stamp = new Date().toISOString().slice(0, 19).replaceAll(':', '-')
  const taken = await writeFolderIn(to, `lists ${stamp}`, [table, ...lists.written], async (name) => name)
  const result: PullResult = {
    kind: 'pull',
    ...{ copied: copies.length - already, already, manifest, refused, outstanding },
    bytes: copies.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0),
    events: coverage(state, plan, isIn),
    ...{ lists: taken, withoutLists: lists.without },
  }
  const told = [
    `${count(copies.length, 'file')} verified by ${input.hash}`,
    ...(refused.length ? [`${refused.length} not copied`] : []),
    ...(outstanding.length ? [`${outstanding.length} outstanding`] : []),
  ].join(', ')
  await writeHistory(
    database,
    job.productionId,
    'cut',
    input.cutId,
    `Pulled the ${input.of} of “${state.row.name}” to ${to.path}: ${told}.`,
  )
  await announce(database, job.productionId, 'cuts', 'handoffs')
  if (refused.length)
    throw new JobFailure(
      `${copies.length} of ${copies.length + refused.length} files are copied and verified. ` +
        `${refused[0]?.path}: ${refused[0]?.reason} Look at it, and retry: it goes on from there.`,
      { result },
    )
  if (outstanding.length === 0)
    for (const { folder } of plan.volumes) await withFolder(to, folder, (held) => dropJournal(held))
  return result
}

/** The files of a volume as they lie there; one that is another by now is not copied for what it was. */
async function listWanted(
  { volume, folder, files }: PlannedVolume,
  refused: { path: string; reason: string }[],
): Promise<WantedFile[]> {
  const wanted: WantedFile[] = []
  for (const known of files)
    for (const path of pathsOf(known))
      try {
        const stamp = await stampOf(join(volume.rootPath, path))
        if (known.sequence === null && !sameStamp(known, stamp))
          refused.push({
            path: `${folder}/${path}`,
            reason: 'It is another than at the last look: check, and pull again.',
          })
        else wanted.push({ ...stamp, path, known })
      } catch (error) {
        if (!isFileError(error)) throw error
        refused.push({ path: `${folder}/${path}`, reason: explainFileError(error, path) })
      }
  return wanted
}

async function assertRoom(to: HeldFolder, wanted: ReadonlyMap<PlannedVolume, readonly WantedFile[]>): Promise<void> {
  let needed = 0
  for (const [{ folder }, files] of wanted)
    for (const { path, sizeBytes } of files) {
      if (!(await isThere(to, join(folder, path)))) needed += sizeBytes
    }
  for (const { folder, pieces } of wanted.keys())
    for (const { path, bytes } of pieces) if (!(await isThere(to, join(folder, path)))) needed += bytes
  const free = await to.freeBytes()
  if (needed > free)
    throw new JobFailure(
      `It does not fit: ${inGigabytes(needed)} are to be copied and ${inGigabytes(free)} are free at ${to.path}. ` +
        'Nothing was copied.',
    )
}

const isThere = (to: HeldFolder, path: string): Promise<boolean> =>
  withFolder(to, dirname(path), async (held) => (await held.look(basename(path))) !== null).catch(() => false)

const inGigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(2)} GB`

function copyVolume(
  to: HeldFolder,
  { context, input }: Pull,
  run: {
    planned: PlannedVolume
    files: readonly WantedFile[]
    listed: ReadonlyMap<string, string>
    /** Files of other volumes that are copied by now. */
    before: number
    onBytes: (bytes: number) => void
  },
) {
  const { volume, folder } = run.planned
  const prefix = `${folder}/`
  const listed = new Map(
    [...run.listed].flatMap(([path, hash]) => (path.startsWith(prefix) ? [[path.slice(prefix.length), hash]] : [])),
  )
  return withHeld(volume.rootPath, async (from) => {
    await assertVolumeHere(context.database, volume, backAgain)
    return withFolder(
      to,
      folder,
      async (into) => {
        const soFar = (verified: number): string =>
          `after ${count(run.before + verified, 'file')} ${run.before + verified === 1 ? 'was' : 'were'} copied and read back`
        const assertThere = async (verified: number): Promise<void> => {
          for (const [held, name, volumeId] of [
            [from, `Volume “${volume.label}”`, volume.id],
            [into, into.path, null],
          ] as const)
            await held.assertThere().catch((error) => {
              if (!(error instanceof FolderLeft)) throw error
              throw new JobFailure(
                `${name} left ${soFar(verified)}. Those are safe; put it in again, and it goes on.`,
                volumeId === null ? {} : { waitsForVolume: volumeId },
              )
            })
        }
        const full = (verified: number): JobFailure =>
          new JobFailure(
            `${into.path} is full ${soFar(verified)}. Free some space and retry, and it goes on from there.`,
          )
        const journal = await readJournal(into, input.hash)
        const { onBytes } = run
        const copied = await copyFiles(
          { context, from, to: into, kind: input.hash, journal, listed, assertThere, full, onBytes },
          run.files.map(({ known: _, ...file }) => file),
        )
        return copyPieces(
          copied,
          { context, from, to: into, kind: input.hash, assertThere, full, onBytes },
          run.planned,
        )
      },
      { make: true },
    )
  })
}

/** The stretches of a volume's files, behind those that go as a whole. */
async function copyPieces(
  copied: CopiedFiles,
  run: Pick<CopyRun, 'context' | 'from' | 'to' | 'kind' | 'assertThere' | 'full' | 'onBytes'>,
  { volume, pieces }: PlannedVolume,
): Promise<CopiedFiles> {
  const { verified, refused } = copied
  let { already } = copied
  for (const piece of pieces) {
    run.context.signal.throwIfAborted()
    try {
      const stamp = await stampOf(join(volume.rootPath, piece.file.path))
      if (!sameStamp(piece.file, stamp)) throw new Refused(changedSince)
      const { copy, wasThere } = await withFolder(run.from, dirname(piece.file.path), async (folder) => {
        const name = basename(piece.file.path)
        const open = await folder.open(name)
        return copyPiece(run.context, piece, folder.pathOf(open, name), run.to, run.kind).finally(() => open.close())
      })
      verified.push(copy)
      if (wasThere) already++
    } catch (error) {
      run.context.signal.throwIfAborted()
      await run.assertThere(verified.length)
      if ((error as NodeJS.ErrnoException).code === 'ENOSPC') throw run.full(verified.length)
      if (!(error instanceof Refused) && !isFileError(error)) throw error
      refused.push({
        path: piece.path,
        reason: error instanceof Refused ? error.message : explainFileError(error, piece.path),
      })
    }
    run.onBytes(piece.bytes)
  }
  return { verified, already, refused }
}

const changedSince = 'It is another than at the last look: check, and pull again.'

function outstandingOf(plan: PullPlan, isIn: (pulled: PulledClip) => boolean): { name: string; reason: string }[] {
  return [
    ...plan.clips.flatMap((pulled) =>
      isIn(pulled)
        ? []
        : [{ name: pulled.clip.name, reason: pulled.outstanding ?? 'Not all of its files were copied.' }],
    ),
    ...plan.unknown.map(({ number, name }) => ({ name, reason: `No original of it is known, in event ${number}.` })),
  ]
}

/** An event is covered when all files of its clip are in the copy, and the clip is as long as it needs. */
function coverage(
  { resolutions }: CutState,
  plan: PullPlan,
  isIn: (pulled: PulledClip) => boolean,
): PullResult['events'] {
  const whole = new Set(plan.clips.flatMap((pulled) => (isIn(pulled) ? [pulled.clip.id] : [])))
  const isCovered = ({ clipId, state }: Resolution): boolean =>
    clipId !== null && whole.has(clipId) && state !== 'short'
  return { of: resolutions.length, covered: resolutions.filter(isCovered).length }
}

/** What is in the copy, and what is not, for a person and their table (RFC 4180). */
function tableOf({ plan, state }: Pull, copies: ReadonlyMap<string, VerifiedCopy>): string {
  const events = new Map<string, string[]>()
  state.resolutions.forEach(({ clipId }, position) => {
    if (clipId !== null) events.set(clipId, [...(events.get(clipId) ?? []), state.cut.events[position]?.number ?? ''])
  })
  const rows = plan.clips.flatMap((pulled) => {
    const { clip, outstanding } = pulled
    const told = [clip.name, clip.reel ?? '', (events.get(clip.id) ?? []).join(' ')]
    if (outstanding !== null) return [[...told, 'outstanding', clip.main.volume.label, '', '', '', outstanding]]
    return placesOf(plan, pulled).map((path) => {
      const copy = copies.get(path)
      const of = [clip.main.volume.label, path, String(copy?.sizeBytes ?? ''), copy?.hash ?? '']
      return [...told, copy ? 'copied and read back' : 'not copied', ...of, pulled.pieces ? 'a stretch of it' : '']
    })
  })
  const unknown = plan.unknown.map(({ number, name }) => [
    ...[name, '', number, 'outstanding', '', '', '', '', 'No original of it is known.'],
  ])
  const columns = ['Clip', 'Reel', 'Events', 'State', 'Volume', 'File', 'Bytes', 'Checksum', 'Remark']
  return writeDelimited(',', columns, [...rows, ...unknown])
}

interface Lists {
  readonly written: readonly WrittenFile[]
  readonly without: string | null
}

/**
 * The lists that go along: with originals the cut on these very copies, once nothing is in the way of a handoff and
 * nothing is missing; with proxies the list that was read, which names them.
 */
async function listsOf({ context, input, state, plan }: Pull, to: HeldFolder, isComplete: boolean): Promise<Lists> {
  if (input.of === 'proxies') return { written: [await listAsRead(context, state)], without: null }
  if (!isComplete) return { written: [], without: 'Something is outstanding: the lists go along when all is copied.' }
  const { open } = preflight(state.findings, state.decisions)
  if (open.length)
    return { written: [], without: `${count(open.length, 'finding')} in the way of a handoff: mend, and pull again.` }
  const placed = new Map(plan.clips.map((pulled) => [pulled.clip.id, placedClip(pulled, plan, to.path)]))
  const clips = new Map([...state.clips].map(([id, clip]) => [id, { ...clip, ...placed.get(id)?.(clip) }]))
  const lists = await writeLists({ ...state, clips }, {})
  const written = lists.flatMap((list) =>
    list.text === null ? [] : [{ name: listFileName(state.cut.name, list), content: list.text }],
  )
  const [refusal] = lists.filter(({ text }) => text === null)
  return { written, without: written.length ? null : (refusal?.reason ?? 'No format can say this cut.') }
}

/** What lists say of a clip whose copies lie in a folder: their paths, and of stretches where each lies on its timecode. */
const placedClip =
  (pulled: PulledClip, plan: PullPlan, folder: string) =>
  ({ originalPaths, parts, tracks, facts }: FindingClip): Partial<FindingClip> => {
    const places = placesOf(plan, pulled).map((path) => join(folder, path))
    if (pulled.pieces) {
      const first = facts.startFrame ?? 0
      const stretches = pulled.pieces.map(({ startFrame, endFrame }, index) => ({
        path: places[index] as string,
        range: { startFrame: first + startFrame, endFrame: first + endFrame },
      }))
      return { originalPaths: places, parts: stretches }
    }
    // Of numbered stills a list names the pattern.
    const files = new Map(pulled.files.map((file) => [file.fullPath, join(folder, folderOf(plan, file), file.path)]))
    const moved = (path: string): string => files.get(path) ?? path
    return {
      originalPaths: originalPaths.map(moved),
      parts: parts.map((part) => ({ ...part, path: moved(part.path) })),
      ...(tracks && { tracks: tracks.map(moved) }),
    }
  }

const folderOf = (plan: PullPlan, { volumeId }: KnownFile): string =>
  plan.volumes.find(({ volume }) => volume.id === volumeId)?.folder ?? ''

async function listAsRead({ database }: WorkContext, { row }: CutState): Promise<WrittenFile> {
  const [list] = await database
    .select({ text: cuts.sourceText, bytes: cuts.sourceBytes })
    .from(cuts)
    .where(eq(cuts.id, row.id))
  return { name: safeName(row.fileName), content: list?.bytes ?? list?.text ?? '' }
}
