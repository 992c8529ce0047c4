import { join } from 'node:path'
import { type Candidate, planRepoint } from '@ennick/core'
import { readCutState } from '../cutting/cut-state.ts'
import { wantedThings } from '../cutting/wanted.ts'
import { explainFileError } from '../errors.ts'
import type { FoundFile, JobResult } from '../store/job-schema.ts'
import type { World, WorldFile } from '../store/world.ts'
import type { WorkContext } from './context.ts'
import { describeFile, forEachAtOnce, sameStamp, stampOf } from './describe-file.ts'
import { JobFailure } from './failure.ts'
import type { ProgressMeter } from './progress.ts'
import { walk } from './walk.ts'

/** Searches a folder and all below it for everything that a repoint could mend, and plans the batch as a whole. */
export async function searchFolder(
  context: WorkContext,
  meter: ProgressMeter,
  input: { cutId: string; folder: string; findingKeys: string[] | null },
): Promise<JobResult> {
  const { database, signal } = context
  const state = await readCutState(database, input.cutId)
  const { world } = state
  const found: string[] = []
  try {
    for await (const file of walk(input.folder)) {
      signal.throwIfAborted()
      if (file.isMedia) found.push(join(input.folder, file.path))
    }
  } catch (error) {
    signal.throwIfAborted()
    throw new JobFailure(`The folder cannot be searched: ${explainFileError(error, input.folder)}`)
  }
  const known = new Map([...world.files.values()].filter((file) => file.facts !== null).map((file) => [file.fullPath, file]))
  const madePaths = new Set([...world.pairs.values()].flatMap((pair) => pair.files.map(({ file }) => file.fullPath)))
  const looked: FoundFile[] = []
  let done = 0
  await forEachAtOnce(found, 2, async (path) => {
    signal.throwIfAborted()
    const file = madePaths.has(path) ? null : await lookAt(path, known.get(path), signal)
    if (file) looked.push(file)
    meter.report(++done, found.length, 'files')
  })

  const things = wantedThings(state, input.findingKeys)
  const { originals, reels } = attached(world)
  const candidate = (file: FoundFile): Candidate => ({
    id: file.id,
    path: file.path,
    facts: file.facts,
    reel: file.facts.reel ?? reels.get(file.path) ?? null,
    fingerprint: file.fingerprint,
  })
  const suffixes = world.production.proxySuffixes
  const clips = things.filter(({ thing }) => thing.clipId !== null)
  const free = looked.filter((file) => !originals.has(file.path))
  const clipRows = planRepoint(
    clips.map(({ wanted }) => wanted),
    free.map(candidate),
    suffixes,
  )
  // A file that a lost clip gets in this plan is spoken for; events may go to any other, also to one that is a clip already.
  const taken = new Set(clipRows.map((row) => row.candidateId))
  const rest = looked.filter((file) => !taken.has(file.id))
  const eventRows = planRepoint(
    things.filter(({ thing }) => thing.clipId === null).map(({ wanted }) => wanted),
    rest.map(candidate),
    suffixes,
  )
  const rows = [...clipRows, ...eventRows]
  const mentioned = new Set(rows.flatMap((row) => row.rated.map((entry) => entry.candidateId)))
  return {
    kind: 'search',
    looked: found.length,
    things: things.map(({ thing }) => thing),
    rows,
    candidates: looked.filter((file) => mentioned.has(file.id)),
  }
}

async function lookAt(path: string, known: WorldFile | undefined, signal: AbortSignal): Promise<FoundFile | null> {
  const stamp = await stampOf(path).catch(() => null)
  if (!stamp) return null
  if (known?.facts && sameStamp(known, stamp)) return { id: path, path, ...stamp, fingerprint: known.fingerprint, facts: known.facts }
  const described = await describeFile(path, stamp, { signal }).catch((error: NodeJS.ErrnoException) => {
    signal.throwIfAborted()
    if (error.code) return null
    throw error
  })
  return described?.facts ? { id: path, path, ...stamp, fingerprint: described.fingerprint, facts: described.facts } : null
}

/** Files that are a present original already, and the reels that people or rules gave to clips. */
function attached(world: World): { originals: Set<string>; reels: Map<string, string> } {
  const originals = new Set<string>()
  const reels = new Map<string, string>()
  for (const clip of world.clips.values()) {
    for (const file of clip.files) {
      if (file.presence === 'here') originals.add(file.fullPath)
      if (clip.reel) reels.set(file.fullPath, clip.reel)
    }
  }
  return { originals, reels }
}
