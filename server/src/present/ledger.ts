import { basename } from 'node:path'
import type { LedgerPair, LedgerRow, PairDetail } from '@ennick/contract'
import { type PairVerdict, wasDecodedWhole } from '@ennick/core'
import type { CutState } from '../cutting/cut-state.ts'
import type { Queryable } from '../store/database.ts'
import { readHistory } from '../store/history.ts'
import { productionRate, type World, type WorldClip, type WorldPair } from '../store/world.ts'
import { stripOf } from './strip.ts'

export function presentLedger(world: World, states: readonly CutState[]): LedgerRow[] {
  const rate = productionRate(world.production)
  return [...world.clips.values()].map((clip) => ({
    clipId: clip.id,
    name: basename(clip.main.path),
    reel: clip.reel,
    volumeLabel: clip.main.volume.label,
    presence: clip.presence,
    needsProxy: clip.main.facts?.kind === 'picture',
    pairs: clip.pairs.map((pair) => presentPair(clip, pair)),
    strip: stripOf(clip, rate, states),
  }))
}

function presentPair(clip: WorldClip, pair: WorldPair): LedgerPair {
  const picture = pair.files.find(({ part }) => part !== 'sound')?.file.facts?.picture
  return {
    id: pair.id,
    name: pair.name,
    kind: pair.kind,
    origin: pair.origin,
    recipe: pair.recipe ? `${pair.recipe.name}, version ${pair.recipeVersion}` : null,
    raster: picture ? `${picture.width} × ${picture.height}` : null,
    verdict: pair.verdict,
    why: explainVerdict(clip, pair),
    isDecodedWhole: wasDecodedWhole(pair.comparison),
  }
}

/** The verdict in a sentence, with the numbers behind it. */
export function explainVerdict(clip: WorldClip, pair: WorldPair): string {
  const volume = clip.main.volume.label
  const wrong = (pair.comparison ?? []).filter((row) => !row.agrees)
  const sentences: Record<PairVerdict, string> = {
    sound: `All ${pair.comparison?.length ?? 0} facts agree with the original${wasDecodedWhole(pair.comparison) ? ', and every frame decodes' : ''}.`,
    unchecked: 'Not compared with its original yet: check again.',
    stale: pair.originalFingerprints.some((mark, index) => clip.files[index]?.fingerprint !== mark)
      ? 'The original has changed since this was made.'
      : 'The recipe has a newer version.',
    mismatched: wrong.map((row) => `${row.aspect}: ${row.difference ?? `${row.found} instead of ${row.expected}`}`).join('; '),
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
  world: World,
  pair: WorldPair,
  states: readonly CutState[],
): Promise<PairDetail> {
  const clip = world.clips.get(pair.clipId) as WorldClip
  return {
    pair: presentPair(clip, pair),
    clipId: clip.id,
    clipName: basename(clip.main.path),
    recipeId: pair.recipeId,
    viewingLut: pair.viewingLut,
    originalFiles: clip.files.map((file) => ({ path: file.fullPath, presence: file.presence })),
    madeFiles: pair.files.map(({ file, part }) => ({ path: file.fullPath, presence: file.presence, part })),
    comparison: pair.comparison,
    strip: stripOf({ ...clip, pairs: [pair] }, productionRate(world.production), states),
    checkedAt: pair.checkedAt?.toISOString() ?? null,
    createdAt: pair.createdAt.toISOString(),
    history: await readHistory(database, world.production.id, [pair.id, clip.id], 50),
  }
}
