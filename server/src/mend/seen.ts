import {
  distanceOfSignatures,
  type PictureSignature,
  type ProposalRow,
  signedFrames,
  signPictures,
  stretchStarts,
} from '@ennick/core'
import { isBeneath } from '../disk/held-folder.ts'
import { lookAt } from '../engine/look.ts'
import { readSignatures } from '../pairs/picture-catalogue.ts'
import type { Queryable } from '../store/database.ts'
import type { FoundFile } from '../store/job-types.ts'
import type { Material } from '../store/known-material.ts'
import { asPlaced } from './media-places.ts'
import type { WantedThing } from './wanted.ts'

/** Files that are looked at for one search, beside those that were looked at before: a second each. */
const looksAtMost = 200
/** The nearest by their facts are looked at, and no others. */
const ratedAtMost = 4

/**
 * How far the pictures of files are from those of lost originals, where their facts leave a doubt: by the id of what is
 * wanted, and by file. The original's own pictures are known from when it was here; else those of a proxy of it are.
 */
export async function seenPictures(
  database: Queryable,
  material: Material,
  {
    things,
    rows,
    files,
  }: {
    readonly things: readonly WantedThing[]
    readonly rows: readonly ProposalRow[]
    readonly files: readonly FoundFile[]
  },
  signal: AbortSignal,
): Promise<ReadonlyMap<string, ReadonlyMap<string, number>>> {
  const byId = new Map(files.map((file) => [file.id, file]))
  const wantedById = new Map(things.map((wanted) => [wanted.thing.id, wanted]))
  const doubtful = rows.flatMap((row) => {
    const wanted = wantedById.get(row.wantedId)
    if (!wanted || wanted.thing.clipId === null || row.outcome === 'fits') return []
    const found = row.rated.slice(0, ratedAtMost).flatMap(({ candidateId }) => byId.get(candidateId) ?? [])
    const moving = found.filter(({ facts }) => facts.kind === 'picture')
    return moving.length ? [{ wanted, moving }] : []
  })
  if (doubtful.length === 0) return new Map()
  const marks = (wanted: WantedThing): string[] => {
    const clip = material.clips.get(wanted.thing.clipId ?? '')
    const proxies = clip?.pairs.flatMap((pair) => pair.files.filter(({ part }) => part !== 'sound')) ?? []
    const own = wanted.wanted.fingerprint
    return [...(own === null ? [] : [own]), ...proxies.map(({ file }) => file.fingerprint)]
  }
  const signatures = await readSignatures(database, [
    ...new Set(doubtful.flatMap(({ wanted, moving }) => [...marks(wanted), ...moving.map((file) => file.fingerprint)])),
  ])
  let looks = 0
  const signatureOf = async (file: FoundFile): Promise<PictureSignature | null> => {
    const known = signatures.get(file.fingerprint)
    if (known || looks++ >= looksAtMost) return known ?? null
    const taken = await look(file, signal)
    if (taken) signatures.set(file.fingerprint, taken)
    return taken
  }
  const seen = new Map<string, ReadonlyMap<string, number>>()
  for (const { wanted, moving } of doubtful) {
    const own = marks(wanted).flatMap((mark) => signatures.get(mark) ?? [])[0]
    if (!own) continue
    const distances = new Map<string, number>()
    for (const file of moving) {
      const other = await signatureOf(file)
      const distance = other && distanceOfSignatures(own, other)
      if (distance !== null) distances.set(file.id, distance)
    }
    if (distances.size > 0) seen.set(wanted.thing.id, distances)
  }
  return seen
}

async function look(file: FoundFile, signal: AbortSignal): Promise<PictureSignature | null> {
  const { facts } = file
  const placed = asPlaced(file)
  if (!facts.picture || !(await isBeneath(placed.root, placed.sequence ? placed.root : placed.fullPath))) return null
  const starts = stretchStarts(facts.picture.frames, signedFrames)
  const { stretches } = await lookAt({ ...placed, facts }, starts, signedFrames, signal)
  return signPictures(stretches)
}
