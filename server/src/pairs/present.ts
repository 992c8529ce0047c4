import { basename } from 'node:path'
import type { LedgerPair, LedgerRow, PairDetail } from '@ennick/contract'
import { describeCopy, type PairVerdict, type PictureFacts, wasDecodedWhole } from '@ennick/core'
import { stripOf } from '../clips/strip.ts'
import type { UsesOfClips } from '../clips/uses.ts'
import type { Queryable } from '../store/database.ts'
import { readHistory } from '../store/history.ts'
import type { KnownClip, KnownPair, Material } from '../store/known-material.ts'
import { productionRate } from '../store/production-row.ts'
import { bothPictures } from './both-pictures.ts'
import { nameTodayOf } from './name-today.ts'
import { planCopyOf } from './stamped-copy.ts'

export function presentLedger(material: Material, uses: UsesOfClips): LedgerRow[] {
  const rate = productionRate(material.production)
  return [...material.clips.values()].map((clip) => ({
    clipId: clip.id,
    name: basename(clip.main.path),
    reel: clip.reel,
    volumeLabel: clip.main.volume.label,
    presence: clip.presence,
    needsProxy: clip.main.facts?.kind === 'picture',
    pairs: clip.pairs.map((pair) => presentPair(clip, pair)),
    strip: stripOf(clip, rate, uses),
  }))
}

export const pictureOf = (pair: KnownPair): PictureFacts | null =>
  pair.files.find(({ part }) => part !== 'sound')?.file.facts?.picture ?? null

/** The recipe that a pair was made with, and its version then; null for one that others made. */
export const recipeOf = ({ recipe, recipeVersion }: KnownPair): string | null =>
  recipe ? `${recipe.name}, version ${recipeVersion}` : null

export function presentPair(clip: KnownClip, pair: KnownPair): LedgerPair {
  const picture = pictureOf(pair)
  return {
    id: pair.id,
    name: pair.name,
    kind: pair.kind,
    origin: pair.origin,
    recipe: recipeOf(pair),
    raster: picture ? `${picture.width} × ${picture.height}` : null,
    verdict: pair.verdict,
    why: explainVerdict(clip, pair),
    isDecodedWhole: wasDecodedWhole(pair.proof),
  }
}

/** The verdict in a sentence, with the numbers behind it. */
export function explainVerdict(clip: KnownClip, pair: KnownPair): string {
  const volume = clip.main.volume.label
  const rows = pair.compare() ?? []
  const wrong = rows.filter((row) => !row.agrees)
  const facts = `All ${rows.length} facts agree with the original`
  const decoded = wasDecodedWhole(rows) ? ', and every frame decodes' : ''
  const sentences: Record<PairVerdict, string> = {
    proven: `${facts}, and so do its pictures${decoded}.`,
    matched: `${facts}${decoded}; its pictures were not compared.`,
    unchecked: 'Not compared with its original yet: check again.',
    stale: pair.originalChanged
      ? 'The original has changed since this was made.'
      : (pair.soundChange ?? 'The recipe has a newer version.'),
    mismatched: wrong
      .map((row) => `${row.aspect}: ${row.difference ?? `${row.found} instead of ${row.expected}`}`)
      .join('; '),
    'proxy gone': `${pair.files.find(({ file }) => file.presence === 'gone')?.file.path ?? pair.name} was deleted or moved; it can be made again.`,
    'proxy away': `It lies on volume “${pair.files[0]?.file.volume.label}”, which is away.`,
    'original gone': `The original is not on volume “${volume}”, which is here.`,
    'original away': `The original is on volume “${volume}”, which is away.`,
    'both gone': 'Neither the original nor what was made of it is there.',
  }
  return sentences[pair.verdict]
}

export async function presentPairDetail(
  database: Queryable,
  material: Material,
  pair: KnownPair,
  uses: UsesOfClips,
): Promise<PairDetail> {
  const clip = material.clips.get(pair.clipId) as KnownClip
  const picture = pair.files.find(({ part }) => part !== 'sound')
  const plan = planCopyOf(clip, pair)
  return {
    pair: presentPair(clip, pair),
    copy: 'copy' in plan ? describeCopy(plan.copy) : null,
    nameToday: nameTodayOf(material.production, clip, pair),
    clipId: clip.id,
    clipName: basename(clip.main.path),
    recipeId: pair.recipeId,
    viewingLut: pair.viewingLut,
    recordings: (pair.laidSound?.soundIds ?? []).map(
      (id) => material.clips.get(id)?.name ?? 'a recording that is no clip here any more',
    ),
    originalFiles: clip.files.map((file) => ({ path: file.fullPath, presence: file.presence })),
    madeFiles: pair.files.map(({ file, part }) => ({ path: file.fullPath, presence: file.presence, part })),
    comparison: pair.compare(),
    frames: picture ? bothPictures(clip, picture.file) : [],
    strip: stripOf({ ...clip, pairs: [pair] }, productionRate(material.production), uses),
    checkedAt: pair.checkedAt?.toISOString() ?? null,
    createdAt: pair.createdAt.toISOString(),
    history: await readHistory(database, material.production.id, { subjectIds: [pair.id, clip.id], limit: 50 }),
  }
}
