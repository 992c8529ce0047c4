import { join, relative } from 'node:path'
import type { Candidate, ProposalRow } from '@ennick/core'
import { readAllCutStates, readCutRow } from '../cuts/cut-state.ts'
import { explainFileError } from '../errors.ts'
import { describeFile, forEachAtOnce, sameStamp, stampOf } from '../intake/describe-file.ts'
import { type Unreadable, walk } from '../intake/walk.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { NotRead, readApart } from '../reading/read-apart.ts'
import type { FoundFile, JobResult } from '../store/job-schema.ts'
import { type KnownFile, type Material, readMaterial, type VolumeRow } from '../store/material.ts'
import { type KnownRole, type RoleSubject, readRoles } from '../store/roles.ts'
import { type WantedThing, wantedThings } from './wanted.ts'

/** A whole night of searching is no plan. */
const planSeconds = 3600

/** Searches a folder and all below it for everything that a repoint could mend, and plans the batch as a whole. */
export async function searchFolder(
  context: WorkContext,
  meter: ProgressMeter,
  input: { cutId: string; folder: string; findingKeys: string[] | null },
): Promise<JobResult> {
  const { database, signal } = context
  const { productionId } = await readCutRow(database, input.cutId)
  const material = await readMaterial(database, productionId)
  const found: string[] = []
  const unreadable: Unreadable[] = []
  try {
    for await (const file of walk(input.folder, (folder) => unreadable.push(folder))) {
      signal.throwIfAborted()
      if (file.isMedia) found.push(join(input.folder, file.path))
    }
  } catch (error) {
    signal.throwIfAborted()
    throw new JobFailure(`The folder cannot be searched: ${explainFileError(error, input.folder)}`)
  }
  const known = new Map(
    [...material.files.values()].filter((file) => file.facts !== null).map((file) => [file.fullPath, file]),
  )
  const madePaths = new Set([...material.pairs.values()].flatMap((pair) => pair.files.map(({ file }) => file.fullPath)))
  const looked: FoundFile[] = []
  let done = 0
  await forEachAtOnce(found, 2, async (path) => {
    signal.throwIfAborted()
    const file = madePaths.has(path) ? null : await lookAt(path, known.get(path), signal)
    if (file) looked.push(file)
    meter.report(++done, found.length, 'files')
  })

  const states = await readAllCutStates(database, material)
  const state = states.find(({ row }) => row.id === input.cutId)
  if (!state) throw new JobFailure('The cut was taken out of the production before the search ended.')
  const others = states.filter((other) => other !== state)
  const things = wantedThings(state, others, input.findingKeys)
  const { originals, reels } = attached(material)
  const subject = (file: FoundFile): RoleSubject => {
    const volume = volumeOf(material, file.path)
    return { ...file, volume, path: volume ? relative(volume.rootPath, file.path) : file.path }
  }
  const mains = [...material.clips.values()].map(({ main }) => ({ ...main, id: main.fullPath }))
  const roles = await readRoles(database, material, looked.map(subject), [...mains, ...looked.map(subject)])
  const candidate = (file: FoundFile): Candidate => ({
    id: file.id,
    path: file.path,
    facts: file.facts,
    reel: file.facts.reel ?? reels.get(file.path) ?? null,
    fingerprint: file.fingerprint,
    ...(roles.get(file.id) as KnownRole),
  })
  const suffixes = material.production.proxySuffixes
  const clips = things.filter(({ thing }) => thing.clipId !== null)
  const free = looked.filter((file) => !originals.has(file.path))
  const plan = (list: readonly WantedThing[], files: readonly FoundFile[]): Promise<ProposalRow[]> =>
    readApart(
      'proposal',
      { wanted: list.map(({ wanted }) => wanted), candidates: files.map(candidate), suffixes, isShared: false },
      { signal, seconds: planSeconds },
    ).catch((error) => {
      throw error instanceof NotRead
        ? new JobFailure(`The search could not be planned: ${error.message} Search a smaller folder.`)
        : error
    })
  const clipRows = await plan(clips, free)
  // A file that a lost clip gets in this plan is spoken for; events may go to any other, also to one that is a clip
  // already.
  const taken = new Set(clipRows.map((row) => row.candidateId))
  const rest = looked.filter((file) => !taken.has(file.id))
  const eventRows = await plan(
    things.filter(({ thing }) => thing.clipId === null),
    rest,
  )
  const rows = [...clipRows, ...eventRows]
  const mentioned = new Set(rows.flatMap((row) => row.rated.map((entry) => entry.candidateId)))
  return {
    kind: 'search',
    looked: found.length,
    unreadable,
    things: things.map(({ thing }) => thing),
    rows,
    candidates: looked.filter((file) => mentioned.has(file.id)),
  }
}

async function lookAt(path: string, known: KnownFile | undefined, signal: AbortSignal): Promise<FoundFile | null> {
  const stamp = await stampOf(path).catch(() => null)
  if (!stamp) return null
  if (known?.facts && sameStamp(known, stamp))
    return { id: path, path, ...stamp, fingerprint: known.fingerprint, facts: known.facts }
  const described = await describeFile(path, stamp, { signal }).catch((error: NodeJS.ErrnoException) => {
    signal.throwIfAborted()
    if (error.code) return null
    throw error
  })
  return described?.facts
    ? { id: path, path, ...stamp, fingerprint: described.fingerprint, facts: described.facts }
    : null
}

/** The innermost volume that a file lies on. */
function volumeOf(material: Material, path: string): VolumeRow | null {
  const holding = material.volumes.filter(({ rootPath }) => path.startsWith(`${rootPath}/`))
  return holding.sort((a, b) => b.rootPath.length - a.rootPath.length)[0] ?? null
}

/** Files that are a present original already, and the reels that people or rules gave to clips. */
function attached(material: Material): { originals: Set<string>; reels: Map<string, string> } {
  const originals = new Set<string>()
  const reels = new Map<string, string>()
  for (const clip of material.clips.values()) {
    for (const file of clip.files) {
      if (file.presence === 'here') originals.add(file.fullPath)
      if (clip.reel) reels.set(file.fullPath, clip.reel)
    }
  }
  return { originals, reels }
}
