import { basename, dirname, extname, join } from 'node:path'
import type { ProxyOffer } from '@ennick/contract'
import { type Candidate, findTrackSets, nameOfSet, type ProposalRow, stem, type Wanted } from '@ennick/core'
import { and, asc, eq, notExists, sql } from 'drizzle-orm'
import { proposeApart } from '../reading/propose-apart.ts'
import { announce } from '../store/announce.ts'
import { cameraProxies } from '../store/catalogue-schema.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { KnownClip, KnownFile, KnownPair, Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { originalName } from '../store/original-name.ts'
import { pairEvidence } from '../store/pair-evidence.ts'
import { placeFile } from '../store/place-file.ts'
import { placeOf } from '../store/place-words.ts'
import { files, pairFiles, pairs, volumes } from '../store/schema.ts'
import { stayingFirst } from '../store/stays.ts'
import { tiePair } from '../store/tie-pair.ts'
import { bothPictures } from './both-pictures.ts'
import { PictureCatalogue, readSignatures } from './picture-catalogue.ts'

/** A proxy that waits: one file, or that of its picture and those of its sound. */
interface Waiting {
  readonly file: KnownFile
  readonly beside: readonly KnownFile[]
}

interface Offer extends Waiting {
  readonly outcome: ProxyOffer['outcome']
  readonly reason: string
  readonly clip: KnownClip | null
  readonly rivals: readonly KnownClip[]
}

/** Proxies that others made and that belong to no pair yet, with the clips that they fit, by evidence. */
export async function listOffers(database: Queryable, material: Material): Promise<ProxyOffer[]> {
  const offers = await readOffers(database, material)
  return offers.map(({ file, beside, clip, outcome, reason, rivals }) => {
    const picture = file.facts?.picture
    const likeliest = clip ?? rivals[0]
    const isJudged = clip !== null || outcome === 'likely'
    const rows = likeliest && isJudged ? evidenceOf(material, likeliest, { file, beside }) : []
    const differing = rows.filter((row) => !row.agrees)
    return {
      ...{ fileId: file.id, path: file.path, volumeLabel: file.volume.label, outcome, reason },
      raster: picture ? `${picture.width}×${picture.height}` : '',
      clipId: clip?.id ?? null,
      clipName: clip?.name ?? null,
      rivals: rivals.map((rival) => ({ clipId: rival.id, path: rival.main.path })),
      agrees: clip !== null && differing.length === 0,
      frames: likeliest ? bothPictures(likeliest, file) : [],
      differences: differing.map((row) => `${row.aspect}: ${row.expected} / ${row.found}`),
    }
  })
}

/**
 * Ties proxies to the clips that they fit, or that a person chose, with the evidence as it is. They stay where they are.
 * @param fileIds those that fit
 */
export async function acceptOffers(
  database: Database,
  productionId: string,
  { fileIds, choices }: { fileIds: readonly string[]; choices: readonly { fileId: string; clipId: string }[] },
): Promise<number> {
  return database.transaction(async (transaction) => {
    const material = await readMaterial(transaction, productionId)
    const offers = await readOffers(transaction, material)
    const fitting = new Set(fileIds)
    const chosen = new Map(choices.map(({ fileId, clipId }) => [fileId, material.clips.get(clipId)]))
    let paired = 0
    for (const { file, beside, clip: fits } of offers) {
      const clip = chosen.get(file.id) ?? (fitting.has(file.id) ? fits : null)
      if (!clip) continue
      const name = basename(file.path)
      const item = { name, kind: 'proxy', origin: 'adopted' } as const
      const parts = partsOf({ file, beside }).map(({ file: own, part }) => ({ ...own, part }))
      const moved = clip.pairs.find((pair) => isMoved(pair, parts))
      const pairId = moved?.id ?? (await tiePair(transaction, clip, item, parts))
      if (moved) await moveParts(transaction, moved.id, name, parts)
      const byWhom = chosen.has(file.id) ? ', as a person chose' : ''
      const what = moved
        ? `The proxy ${name}, made elsewhere, was moved from ${placeOf(partOf(moved))} to ${placeOf(file)}.`
        : `Paired the proxy ${name}, made elsewhere, with ${clip.name}${byWhom}.`
      await writeHistory(transaction, productionId, 'pair', pairId, what)
      paired++
    }
    await announce(transaction, productionId, 'volumes', 'clips', 'pairs', 'cuts')
    return paired
  })
}

/** Whether what waits is what a pair was made of, at another place: a folder of it was renamed. */
const isMoved = (
  { origin, files: gone, madeFingerprints }: KnownPair,
  parts: readonly { fingerprint: string }[],
): boolean =>
  // What Ennick made may be deleted by it: somebody's copy of that never takes its place.
  origin === 'adopted' &&
  gone.every(({ file }) => file.presence === 'gone') &&
  madeFingerprints.length === parts.length &&
  parts.every(({ fingerprint }, ordinal) => fingerprint === madeFingerprints[ordinal])

const partOf = ({ files: [first] }: KnownPair): KnownFile => (first as KnownPair['files'][number]).file

async function moveParts(
  transaction: Transaction,
  pairId: string,
  name: string,
  parts: readonly { id: string }[],
): Promise<void> {
  await transaction.update(pairs).set({ name, checkedAt: new Date() }).where(eq(pairs.id, pairId))
  for (const [ordinal, { id: fileId }] of parts.entries())
    await transaction
      .update(pairFiles)
      .set({ fileId })
      .where(and(eq(pairFiles.pairId, pairId), eq(pairFiles.ordinal, ordinal)))
}

/** The files of a proxy, each with the part that it plays. */
const partsOf = ({ file, beside }: Waiting) =>
  beside.length === 0
    ? [{ file, part: 'whole' as const }]
    : [{ file, part: 'picture' as const }, ...beside.map((sound) => ({ file: sound, part: 'sound' as const }))]

const evidenceOf = (material: Material, clip: KnownClip, waiting: Waiting) =>
  pairEvidence(
    clip,
    clip.main,
    partsOf(waiting),
    { contentWidth: null, contentHeight: null, laidSound: null },
    material.production.proxySuffixes,
  ) ?? []

async function readOffers(database: Queryable, material: Material): Promise<Offer[]> {
  const productionId = material.production.id
  const rows = await database
    .select({ file: files })
    .from(cameraProxies)
    .innerJoin(files, eq(files.id, cameraProxies.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(
      and(
        eq(cameraProxies.productionId, productionId),
        eq(files.isGone, false),
        notExists(database.select({ one: sql`1` }).from(pairFiles).where(eq(pairFiles.fileId, files.id))),
      ),
    )
    // Of the same file on two volumes the one that was known first is offered, whichever row is read first.
    .orderBy(asc(volumes.createdAt), asc(volumes.label), asc(files.path))
  if (rows.length === 0) return []
  const volumeById = new Map(material.volumes.map((volume) => [volume.id, volume]))
  const waiting = inSets(
    oneOfEach(
      material,
      rows.flatMap(({ file }) => {
        const volume = volumeById.get(file.volumeId)
        return volume ? [placeFile(file, volume)] : []
      }),
    ),
  )
  const wanted = waiting.map(wantedFor)
  const candidates = [...material.clips.values()].flatMap(candidateOf)
  const rule = { suffixes: material.production.proxySuffixes, isShared: true }
  const ask = (things: readonly Wanted[]): Promise<ProposalRow[]> =>
    proposeApart(things, candidates, (few) => few, rule, { seconds: 120 })
  const byFacts = await ask(wanted)
  const seen = await lookedAt(
    database,
    productionId,
    waiting.map(({ file }) => file),
    byFacts,
  )
  const proposals = seen.size
    ? await ask(wanted.map((item) => ({ ...item, pictures: seen.get(item.id) ?? null })))
    : byFacts
  return waiting.map((each, index) => offerOf(material, each, proposals[index] as ProposalRow))
}

/**
 * Of proxies with the same content one, on a volume that stays where there is one, and else the first; none where a
 * pair has it: those are its backups.
 */
function oneOfEach(material: Material, waiting: readonly KnownFile[]): KnownFile[] {
  const contentOf = ({ fingerprint, sizeBytes }: KnownFile): string => `${fingerprint} ${sizeBytes}`
  const paired = [...material.pairs.values()].flatMap(({ files: made }) => made.map(({ file }) => file))
  const taken = new Set(paired.filter(({ presence }) => presence !== 'gone').map(contentOf))
  return [...waiting]
    .sort(stayingFirst)
    .filter((file) => {
      const isFirst = !taken.has(contentOf(file))
      taken.add(contentOf(file))
      return isFirst
    })
    .sort((a, b) => (a.path < b.path ? -1 : 1))
}

/** Files that say that they are the tracks of one proxy wait as one. */
function inSets(files: readonly KnownFile[]): Waiting[] {
  const read = files.flatMap((file) => (file.facts ? [{ ...file, facts: file.facts }] : []))
  const sets = findTrackSets(read).filter(([first]) => first?.facts.picture)
  const ofPicture = new Map(sets.map(([picture, ...sound]) => [picture?.id, sound]))
  const sounds = new Set([...ofPicture.values()].flat().map(({ id }) => id))
  return files.filter(({ id }) => !sounds.has(id)).map((file) => ({ file, beside: ofPicture.get(file.id) ?? [] }))
}

/**
 * How far the pictures of clips are from those of proxies that were looked at, by the proxies' ids: of the clips that
 * the facts point to, and of those that look nearest.
 */
async function lookedAt(
  database: Queryable,
  productionId: string,
  waiting: readonly KnownFile[],
  byFacts: readonly ProposalRow[],
): Promise<Map<string, ReadonlyMap<string, number>>> {
  const signatures = await readSignatures(
    database,
    waiting.map(({ fingerprint }) => fingerprint),
  )
  const rows = waiting.flatMap(({ id, fingerprint }, index) => {
    const signature = signatures.get(fingerprint)
    const clipIds = (byFacts[index] as ProposalRow).rated.map(({ candidateId }) => candidateId)
    return signature?.stretches.length ? [{ id, signature, clipIds }] : []
  })
  if (rows.length === 0) return new Map()
  const catalogue = await PictureCatalogue.read(database, productionId)
  const distances = await catalogue.distances(database, rows)
  return new Map(rows.map(({ id }, index) => [id, distances[index] as ReadonlyMap<string, number>]))
}

/** What a proxy says of the original that it was made of. */
function wantedFor({ file, beside }: Waiting): Wanted {
  const { facts } = file
  const name = basename(file.path)
  return {
    id: file.id,
    names: facts && beside.length ? [name, `${nameOfSet(stem(name), facts)}${extname(name)}`] : [name],
    path: file.path,
    kind: facts?.kind ?? null,
    reel: facts?.reel ?? null,
    rate: facts?.picture?.rate ?? null,
    startFrame: facts?.startFrame ?? null,
    dropFrame: facts?.dropFrame ?? false,
    frames: facts?.picture?.frames ?? null,
    channels: null,
    fingerprint: null,
    pictures: null,
    picture: null,
    uses: [],
  }
}

const candidateOf = (clip: KnownClip): Candidate[] =>
  clip.main.facts && clip.role === 'original'
    ? [
        {
          id: clip.id,
          // Where its tracks are files of their own, the clip is what they are called.
          path: clip.isTrackSet ? join(dirname(clip.main.path), originalName(clip)) : clip.main.path,
          facts: clip.main.facts,
          reel: clip.reel,
          fingerprint: clip.main.fingerprint,
          role: clip.role,
          roleReason: null,
        },
      ]
    : []

function offerOf(material: Material, waiting: Waiting, row: ProposalRow): Offer {
  const rivals = row.rated.flatMap(({ candidateId }) => material.clips.get(candidateId) ?? [])
  const clip = row.candidateId === null ? null : (material.clips.get(row.candidateId) ?? null)
  const outcome = row.outcome === 'refused' || row.outcome === 'not found' ? 'waits' : row.outcome
  return { ...waiting, outcome, reason: row.reason, clip, rivals }
}
