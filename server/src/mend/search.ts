import {
  type Candidate,
  type KnownIdentity,
  onVolume,
  type ProposalRow,
  type Rate,
  removableKinds,
  sameSequence,
  type Wanted,
} from '@ennick/core'
import { readAllCutStates, readCutRow } from '../cuts/cut-state.ts'
import { describeFile, describeSequence, forEachAtOnce, lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { asKnownStills, type KnownStills } from '../intake/stills-mark.ts'
import type { Unreadable } from '../intake/walk.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { proposeApart } from '../reading/propose-apart.ts'
import { NotRead } from '../reading/read-apart.ts'
import type { Database } from '../store/database.ts'
import type { FoundFile, JobResult, ScopeResult, SearchScope } from '../store/job-types.ts'
import type { KnownFile, Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { productionRate } from '../store/production-row.ts'
import { endingTogether, type KnownRole, type RoleSubject, readRoles } from '../store/roles.ts'
import { asPlaced, besideEachOther, type MediaPlace, mediaPlaces } from './media-places.ts'
import { seenPictures } from './seen.ts'
import { type WantedThing, wantedThings } from './wanted.ts'

/** A whole night of searching is no plan. */
const planSeconds = 3600

/**
 * Searches one place after another for everything that a repoint could mend: what the first does not settle is looked
 * for in the next, among all that was looked at so far. Each place is planned as a whole.
 */
export async function searchPlaces(
  context: WorkContext,
  meter: ProgressMeter,
  input: { cutId: string; folder: string | null; scopes?: readonly SearchScope[]; findingKeys: string[] | null },
): Promise<JobResult> {
  const { database, signal } = context
  const { productionId } = await readCutRow(database, input.cutId)
  const material = await readMaterial(database, productionId)
  // A trial knows little by itself: what its production knows is looked through as well.
  const { trialOf } = material.production
  const home = trialOf && (await readMaterial(database, trialOf.productionId).catch(() => null))
  const all = home ? [home, material] : [material]
  const known = new Map(
    all.flatMap(({ files }) =>
      [...files.values()].filter(({ facts, isReplaced }) => facts && !isReplaced).map((file) => [file.fullPath, file]),
    ),
  )
  const madePaths = new Set(
    all.flatMap(({ pairs }) => [...pairs.values()].flatMap(({ files }) => files.map(({ file }) => file.fullPath))),
  )
  const states = await readAllCutStates(database, material)
  const state = states.find(({ row }) => row.id === input.cutId)
  if (!state) throw new JobFailure('The cut was taken out of the production before the search ended.')
  const others = states.filter((other) => other !== state)
  const things = wantedThings(state, others, input.findingKeys)

  const unreadable: Unreadable[] = []
  const looked = new Map<string, FoundFile>()
  /** Files as their last scan has them: one that a plan speaks of is looked at before anybody hears of it. */
  const unseen = new Set<FoundFile>()
  const knownStills = all.flatMap(({ files }) => [...files.values()].flatMap(asKnownStills))
  const rate = productionRate(material.production)
  const look = (place: MediaPlace): Promise<FoundFile | null> =>
    lookAt(place, known.get(place.path), { rate, knownAs: knownStills, signal })
  const areAsKnown = async (rows: readonly ProposalRow[]): Promise<boolean> => {
    const spoken = new Set(rows.flatMap(({ rated }) => rated.map(({ candidateId }) => candidateId)))
    const files = [...unseen].filter(({ id }) => spoken.has(id))
    let [done, asKnown] = [0, true]
    await forEachAtOnce(files, 2, async (file) => {
      signal.throwIfAborted()
      const now = await look({ sequence: null, ...file })
      unseen.delete(file)
      if (now) looked.set(file.id, now)
      else looked.delete(file.id)
      if (now?.fingerprint !== file.fingerprint) asKnown = false
      meter.report(++done, files.length, 'files')
    })
    return asKnown
  }
  const plan = planner(database, material, attached(all), { signal, areAsKnown })
  const seen = new Set<string>()
  const settled: ProposalRow[] = []
  const scopes: ScopeResult[] = []
  let open = things
  let rows: ProposalRow[] = []
  // Searches that an older version of Ennick had put on the queue name no scopes.
  for (const scope of input.scopes ?? (['below'] as const)) {
    const places = (await placesOf(scope, input.folder, known, unreadable, signal)).filter(
      ({ path }) => !seen.has(path),
    )
    for (const { path } of places) seen.add(path)
    const candidates = places.filter(({ path }) => !madePaths.has(path))
    if (scope === 'known')
      for (const file of candidates.flatMap(({ path }) => foundAsScanned(known.get(path)) ?? [])) {
        looked.set(file.id, file)
        unseen.add(file)
      }
    else {
      let done = 0
      await forEachAtOnce(candidates, 2, async (place) => {
        signal.throwIfAborted()
        const file = await look(place)
        if (file) looked.set(file.id, file)
        meter.report(++done, candidates.length, 'files')
      })
    }
    const taken = new Set(settled.map(({ candidateId }) => candidateId))
    const free = (): FoundFile[] => [...looked.values()].filter(({ id }) => !taken.has(id))
    let found = await plan(open, free())
    while (!found) found = await plan(open, free())
    rows = found
    const isOpen = (row: ProposalRow): boolean => row.outcome === 'not found' || row.outcome === 'refused'
    settled.push(...rows.filter((row) => !isOpen(row)))
    scopes.push({ scope, looked: places.length, settled: rows.filter((row) => !isOpen(row)).length })
    rows = rows.filter(isOpen)
    const openIds = new Set(rows.map(({ wantedId }) => wantedId))
    open = open.filter(({ thing }) => openIds.has(thing.id))
    if (open.length === 0) break
  }
  const planned = [...settled, ...rows]
  const mentioned = new Set(planned.flatMap((row) => row.rated.map((entry) => entry.candidateId)))
  return {
    kind: 'search',
    looked: seen.size,
    unreadable,
    scopes,
    things: things.map(({ thing }) => thing),
    rows: planned,
    candidates: [...looked.values()].filter((file) => mentioned.has(file.id)),
  }
}

/** Where a scope looks: every medium below its folder or in it, or every file known that is here now. */
async function placesOf(
  scope: SearchScope,
  folder: string | null,
  known: ReadonlyMap<string, KnownFile>,
  unreadable: Unreadable[],
  signal: AbortSignal,
): Promise<MediaPlace[]> {
  if (scope === 'known')
    return [...known.values()]
      .filter((file) => file.presence === 'here')
      .map((file) => ({ path: file.fullPath, sequence: besideEachOther(file) }))
  if (folder === null) throw new JobFailure('This search names no folder.')
  return mediaPlaces(folder, { isShallow: scope === 'folder', unreadable, signal })
}

/**
 * Plans for wanted things among files: for lost originals first, then for events, each as a whole. A plan is null when
 * some file of it turned out to be another by now.
 */
function planner(
  database: Database,
  material: Material,
  { originals, reels }: Attached,
  { signal, areAsKnown }: { signal: AbortSignal; areAsKnown(rows: readonly ProposalRow[]): Promise<boolean> },
) {
  const { proxySuffixes: suffixes } = material.production
  const mains = [...material.clips.values()].map(({ main: { fullPath: id, path, facts } }) => ({ id, path, facts }))
  const subject = (file: FoundFile): RoleSubject => {
    return { ...file, volume: null, ...onVolume(material.volumes, file.path) }
  }
  return async (things: readonly WantedThing[], looked: readonly FoundFile[]): Promise<ProposalRow[] | null> => {
    const candidatesOf = async (few: readonly Identified[]): Promise<Candidate[]> => {
      const mayBeLarger = endingTogether(few)
      const others = [...mains.filter(mayBeLarger), ...looked.filter(mayBeLarger).map(subject)]
      const roles = await readRoles(
        database,
        material,
        few.map(({ file }) => subject(file)),
        others,
      )
      return few.map(({ file, ...identity }) => ({
        ...identity,
        ...(roles.get(file.id) as KnownRole),
        leaves: removableKinds.has(onVolume(material.volumes, file.path)?.volume.kind ?? ''),
      }))
    }
    const ask = (wanted: readonly Wanted[], files: readonly FoundFile[]): Promise<ProposalRow[]> => {
      const known = files.map((file): Identified => {
        const { id, path, facts, fingerprint } = file
        return { id, path, facts, fingerprint, reel: facts.reel ?? reels.get(path) ?? null, file }
      })
      const rule = { suffixes, isShared: false }
      return proposeApart(wanted, known, candidatesOf, rule, { signal, seconds: planSeconds }).catch((error) => {
        throw error instanceof NotRead
          ? new JobFailure(`The search could not be planned: ${error.message} Search a smaller folder.`)
          : error
      })
    }
    const plan = async (list: readonly WantedThing[], files: readonly FoundFile[]): Promise<ProposalRow[] | null> => {
      const wanted = list.map((each) => each.wanted)
      const rows = await ask(wanted, files)
      if (!(await areAsKnown(rows))) return null
      // Where facts leave a doubt, pictures are asked: those of another clip are not it, whatever it is called.
      const seen = await seenPictures(database, material, { things: list, rows, files }, signal)
      if (seen.size === 0) return rows
      return ask(
        wanted.map((each) => ({ ...each, pictures: seen.get(each.id) ?? null })),
        files,
      )
    }
    const clipRows = await plan(
      things.filter(({ thing }) => thing.clipId !== null),
      looked.filter((file) => !originals.has(file.path)),
    )
    if (!clipRows) return null
    // A file that a lost clip gets in this plan is spoken for; events may go to any other, also to one that is a clip
    // already.
    const taken = new Set(clipRows.map((row) => row.candidateId))
    const eventRows = await plan(
      things.filter(({ thing }) => thing.clipId === null),
      looked.filter((file) => !taken.has(file.id)),
    )
    return eventRows && [...clipRows, ...eventRows]
  }
}

/** What a found file says of itself, with the file. */
type Identified = KnownIdentity & { readonly file: FoundFile }

/** A known file as its last scan has it; null when that could not read it. */
function foundAsScanned(known: KnownFile | undefined): FoundFile | null {
  if (!known?.facts) return null
  const { fullPath, sizeBytes, mtimeMicros, eachStamp, fingerprint, facts } = known
  return {
    ...{ id: fullPath, path: fullPath, sizeBytes, mtimeMicros, eachStamp, fingerprint, facts },
    sequence: besideEachOther(known),
  }
}

async function lookAt(
  place: MediaPlace,
  known: KnownFile | undefined,
  { rate, knownAs, signal }: { rate: Rate; knownAs: readonly KnownStills[]; signal: AbortSignal },
): Promise<FoundFile | null> {
  const { path, sequence } = place
  const placed = asPlaced(place)
  const stamp = await lookForPlaced(placed).catch(() => null)
  if (!stamp) return null
  const found = { id: path, path, ...stamp, sequence }
  if (known?.facts && sameStamp(known, stamp) && sameSequence(besideEachOther(known), sequence))
    return { ...found, fingerprint: known.fingerprint, facts: known.facts }
  const reading = sequence
    ? describeSequence(placed.root, sequence, stamp, { rate, knownAs, signal })
    : describeFile(path, stamp, { isOneOfMany: true, signal })
  const described = await reading.catch((error: NodeJS.ErrnoException) => {
    signal.throwIfAborted()
    if (error.code) return null
    throw error
  })
  return described?.facts ? { ...found, fingerprint: described.fingerprint, facts: described.facts } : null
}

/** Files that are a present original already, and the reels that people or rules gave to clips. */
interface Attached {
  readonly originals: ReadonlySet<string>
  readonly reels: ReadonlyMap<string, string>
}

function attached(all: readonly Material[]): Attached {
  const originals = new Set<string>()
  const reels = new Map<string, string>()
  for (const clip of all.flatMap(({ clips }) => [...clips.values()])) {
    for (const file of clip.files) {
      if (file.presence === 'here') originals.add(file.fullPath)
      if (clip.reel) reels.set(file.fullPath, clip.reel)
    }
  }
  return { originals, reels }
}
