import { basename, dirname, join } from 'node:path'
import {
  chosenNameTrouble,
  type FrameRange,
  hasAlpha,
  legalWords,
  pathsOfFile,
  pieceName,
  piecesOf,
  pullsOf,
  rangeLength,
  stem,
} from '@ennick/core'
import type { CutState } from '../cuts/cut-state.ts'
import { hasChanged } from '../store/backups.ts'
import type { Lacking } from '../store/job-types.ts'
import {
  type KnownClip,
  type KnownFile,
  type KnownPair,
  type Material,
  playsNow,
  type VolumeRow,
} from '../store/known-material.ts'
import { whyAway } from '../store/place-words.ts'
import { worth } from '../viewer/sides.ts'

/** What of a cut is copied: its originals, or what it is watched and cut with. */
export type PullOf = 'originals' | 'proxies'

/** A clip that a cut uses, and the files that are copied for it. */
export interface PulledClip {
  readonly clip: KnownClip
  readonly files: readonly KnownFile[]
  /** The stretches of its one file that are copied; null where it goes as a whole. */
  readonly pieces: readonly FrameRange[] | null
  /** Why nothing of it can be copied; null where it can. */
  readonly outstanding: string | null
}

export interface PullPlan {
  readonly clips: readonly PulledClip[]
  /** Events that are on no original yet, in words. */
  readonly unknown: readonly { readonly event: string; readonly name: string }[]
  /** Every file once, by volume: those that go as a whole, and those of which stretches do. */
  readonly volumes: readonly PlannedVolume[]
}

export interface PlannedVolume {
  readonly volume: VolumeRow
  /** Below the folder that everything goes to. */
  readonly folder: string
  readonly files: readonly KnownFile[]
  readonly pieces: readonly PlannedPiece[]
}

/** A stretch of a file that is copied on its own. */
export interface PlannedPiece {
  readonly clip: KnownClip
  readonly file: KnownFile
  readonly range: FrameRange
  /** Below the folder of its volume. */
  readonly path: string
  /** About as large as its part of the frames. */
  readonly bytes: number
}

/**
 * What a cut needs to go elsewhere: of each clip that it uses, and of recordings that its sound comes from, the files
 * that are here; of the others why they are not.
 * @param handles frames more at either end of what is used, where of originals no more than that is copied; null for
 * whole files
 */
export function planPull(state: CutState, of: PullOf, handles: number | null): PullPlan {
  const { cut, resolutions, material } = state
  const pulls = pullsOf(cut, resolutions, state.clips)
  const ids = new Set(pulls.map(({ clip }) => clip.id))
  const clips = [...ids]
    .flatMap((id) => material.clips.get(id) ?? [])
    .map((clip) => pulledOf(clip, of))
    .map((pulled): PulledClip => {
      const [only, ...others] = pulled.files
      const canBePieces = handles !== null && of === 'originals' && only?.facts && !only.sequence && others.length === 0
      if (!canBePieces || !only?.facts) return pulled
      const uses = pulls
        .filter(({ clip }) => clip.id === pulled.clip.id)
        .map(({ range, event }) => ({ range, rate: event.sourceRate }))
      return { ...pulled, pieces: piecesOf(only.facts, uses, handles) }
    })
  return { clips, unknown: unknownOf(state, (number) => `event ${number}`), volumes: byVolumes(clips) }
}

/** Every original of a production. */
export function planAll(material: Material, newest: readonly CutState[]): PullPlan {
  const clips = [...material.clips.values()]
    .filter(({ role }) => role === 'original')
    .map((clip) => pulledOf(clip, 'originals'))
  const unknown = newest.flatMap((state) => unknownOf(state, (number) => `event ${number} of “${state.row.name}”`))
  return { clips, unknown, volumes: byVolumes(clips) }
}

/** What is said of what an event uses, while it is on no original. */
export const onNoOriginal = (event: string): string => `It is on no original yet, in ${event}: mend it.`

/** What is not in a copy, or would not be, and why. */
export interface Outstanding extends Lacking {
  readonly volumeLabel: string | null
}

/**
 * What is outstanding of a plan, before anything is copied or after.
 * @param clipsInIt of which all was copied; absent before
 */
export function outstandingOf(plan: PullPlan, clipsInIt?: ReadonlySet<string>): Outstanding[] {
  const clips = plan.clips.flatMap(({ clip, outstanding }): Outstanding[] => {
    const isMissing = clipsInIt ? !clipsInIt.has(clip.id) : outstanding !== null
    const reason = outstanding ?? 'Not all of its files were copied.'
    return isMissing ? [{ name: clip.name, volumeLabel: clip.main.volume.label, reason }] : []
  })
  const unknown = plan.unknown.map(({ event, name }) => ({ name, volumeLabel: null, reason: onNoOriginal(event) }))
  return [...clips, ...unknown]
}

function unknownOf({ cut, resolutions }: CutState, inWords: (number: string) => string): PullPlan['unknown'] {
  return cut.events.flatMap(({ number, clipName }, position) =>
    resolutions[position]?.clipId == null ? [{ event: inWords(number), name: clipName ?? 'without a name' }] : [],
  )
}

function byVolumes(clips: readonly PulledClip[]): PlannedVolume[] {
  const byVolume = new Map<string, VolumeInPlan>()
  for (const { clip, files, pieces } of clips)
    for (const file of files) {
      const fresh: VolumeInPlan = { volume: file.volume, files: new Map(), pieces: [] }
      const known = byVolume.get(file.volumeId) ?? fresh
      byVolume.set(file.volumeId, known)
      if (pieces) known.pieces.push(...pieces.map((range) => pieceOf(clip, file, range)))
      else known.files.set(file.id, file)
    }
  const taken = new Set<string>()
  return [...byVolume.values()].map(({ volume, files, pieces }) => ({
    ...{ volume, pieces, files: [...files.values()] },
    folder: folderNameOf(volume.label, taken),
  }))
}

interface VolumeInPlan {
  readonly volume: VolumeRow
  readonly files: Map<string, KnownFile>
  readonly pieces: PlannedPiece[]
}

function pieceOf(clip: KnownClip, file: KnownFile, range: FrameRange): PlannedPiece {
  const { facts } = file
  const own = stem(basename(file.path))
  const name = facts ? pieceName(own, facts, range) : own
  const frames = facts?.picture?.frames ?? 1
  return {
    ...{ clip, file, range, path: join(dirname(file.path), name) },
    bytes: Math.ceil((file.sizeBytes * rangeLength(range)) / frames),
  }
}

/** Where all that is copied of a clip lies, below the folder that everything goes to. */
export function placesOf(plan: PullPlan, { clip, files, pieces }: PulledClip): string[] {
  return plan.volumes.flatMap((planned) =>
    pieces
      ? planned.pieces.filter((piece) => piece.clip.id === clip.id).map(({ path }) => join(planned.folder, path))
      : files
          .filter(({ volumeId }) => volumeId === planned.volume.id)
          .flatMap((file) => pathsOf(file).map((path) => join(planned.folder, path))),
  )
}

function pulledOf(clip: KnownClip, of: PullOf): PulledClip {
  const pair = of === 'proxies' ? bestProxy(clip) : null
  if (pair) return { clip, files: pair.files.map(({ file }) => file), pieces: null, outstanding: null }
  if (of === 'proxies' && !travelsAsItIs(clip))
    return { clip, files: [], pieces: null, outstanding: 'It has no proxy that is here: make one.' }
  const why = whyNotAsItIs(clip)
  return { clip, files: why === null ? clip.files : [], pieces: null, outstanding: why }
}

/** Why the files of an original are not copied for it; null where they are. */
function whyNotAsItIs({ files }: KnownClip): string | null {
  const lost = files.find(({ presence }) => presence !== 'here')
  if (lost)
    return lost.presence === 'away'
      ? whyAway(lost.volume)
      : `${lost.path} is not on “${lost.volume.label}” any more: mend it.`
  const changed = files.find(hasChanged)
  return changed
    ? `${changed.path} holds something else than when it was first seen: mend it, or accept what it is now.`
    : null
}

/** Why an original that is copied is damaged; null of one that is not, of what is not copied, and of its proxy. */
export const damageOf = ({ clip, files }: PulledClip): string | null => (files.includes(clip.main) ? clip.damage : null)

/** Sound, stills and pictures with an alpha channel need no proxy. */
const travelsAsItIs = ({ main }: KnownClip): boolean =>
  main.sequence !== null || !main.facts?.picture || hasAlpha(main.facts.picture.pixelFormat)

/** Of several proxies that are here the one that agrees best with its original. */
function bestProxy(clip: KnownClip): KnownPair | null {
  const here = clip.pairs.filter((pair) => pair.kind === 'proxy' && playsNow(pair))
  return here.sort((a, b) => worth(a.verdict) - worth(b.verdict))[0] ?? null
}

/** A folder for each volume, called as it is, whatever the disk that it goes to takes in names. */
function folderNameOf(label: string, taken: Set<string>): string {
  const legal = legalWords(label).trim()
  const plain = chosenNameTrouble(legal) === null ? legal : `_${legal}_`
  for (let number = 1; ; number++) {
    const name = number === 1 ? plain : `${plain} (${number})`
    if (taken.has(name.toLowerCase())) continue
    taken.add(name.toLowerCase())
    return name
  }
}

/** The paths of a file on its volume: of numbered stills each. */
export const pathsOf = (file: KnownFile): string[] => [...new Set(pathsOfFile(file))]
