import { basename } from 'node:path'
import type { LedgerLine, LedgerPage, LedgerPurpose, LedgerQuery } from '@ennick/contract'
import { isWell, normalName, type PairVerdict, type Rate, wasDecodedWhole } from '@ennick/core'
import { stripOf } from '../clips/strip.ts'
import type { UsesOfClips } from '../clips/uses.ts'
import type { KnownClip, KnownPair, Material } from '../store/known-material.ts'
import { productionRate } from '../store/production-row.ts'
import { pictureOf, presentPair, recipeOf } from './present.ts'

/** A line of the ledger: an original with one of its made items, or alone. */
interface Line {
  readonly clip: KnownClip
  readonly pair: KnownPair | null
  /** The name of the original's file. */
  readonly name: string
  /** Its verdict, or that a picture has no proxy. */
  readonly word: PairVerdict | 'no proxy' | ''
  /** Every name in it, folded. */
  readonly words: string
  readonly isDecodedWhole: boolean
}

interface Ledger {
  readonly lines: readonly Line[]
  /** The lines in the order of a column. */
  readonly sorted: Map<LedgerQuery['sort'], readonly Line[]>
  readonly counts: LedgerPage['counts']
}

/** Of material that is kept the ledger is written once. */
const ledgers = new WeakMap<Material, Ledger>()

function ledgerOf(material: Material): Ledger {
  const known = ledgers.get(material)
  if (known) return known
  const lines = [...material.clips.values()].flatMap((clip) =>
    clip.pairs.length ? clip.pairs.map((pair) => lineOf(clip, pair)) : [lineOf(clip, null)],
  )
  const ledger = { lines, sorted: new Map(), counts: countLines(lines) }
  ledgers.set(material, ledger)
  return ledger
}

function countLines(lines: readonly Line[]): LedgerPage['counts'] {
  const pairs = lines.filter(({ pair }) => pair !== null)
  const count = (verdict: PairVerdict): number => pairs.filter(({ word }) => word === verdict).length
  return {
    lines: lines.length,
    pairs: pairs.length,
    proven: count('proven'),
    matched: count('matched'),
    amiss: pairs.filter(({ pair }) => pair && !isWell(pair.verdict)).length,
    decoded: pairs.filter(({ isDecodedWhole }) => isDecodedWhole).length,
    without: lines.filter(({ word }) => word === 'no proxy').length,
  }
}

function lineOf(clip: KnownClip, pair: KnownPair | null): Line {
  const name = basename(clip.main.path)
  const words = [name, clip.reel, clip.main.volume.label, pair?.name, pair && recipeOf(pair)]
  return {
    ...{ clip, pair, name },
    word: pair ? pair.verdict : needsProxy(clip) ? 'no proxy' : '',
    words: words.map((text) => normalName(text ?? '')).join('\n'),
    isDecodedWhole: wasDecodedWhole(pair?.proof ?? null),
  }
}

const needsProxy = (clip: KnownClip): boolean => clip.main.facts?.kind === 'picture'

const keyOf: Record<LedgerQuery['sort'], (line: Line) => string | number> = {
  name: ({ name }) => normalName(name),
  reel: ({ clip }) => normalName(clip.reel ?? ''),
  verdict: ({ word }) => word,
  made: ({ pair }) => normalName(pair?.name ?? ''),
  raster: ({ pair }) => (pair && pictureOf(pair)?.width) ?? 0,
}

/** The lines that a query finds, in its order. */
function find(material: Material, query: LedgerQuery): Line[] {
  const ledger = ledgerOf(material)
  let sorted = ledger.sorted.get(query.sort)
  if (!sorted) {
    const keyed = ledger.lines.map((line) => ({ line, key: keyOf[query.sort](line) }))
    // The sort is stable: lines that are equal in the column stay in the order of names.
    sorted = keyed.sort((a, b) => (a.key < b.key ? -1 : a.key > b.key ? 1 : 0)).map(({ line }) => line)
    ledger.sorted.set(query.sort, sorted)
  }
  const words = query.words.split(/\s+/).filter(Boolean).map(normalName)
  const found = sorted.filter(
    (line) =>
      (query.verdict === null || line.word === query.verdict) &&
      (query.origin === null || line.pair?.origin === query.origin) &&
      words.every((word) => line.words.includes(word)),
  )
  return query.isDescending ? found.reverse() : found
}

/** A page of the ledger, with what can be done to all that the query finds. */
export function readLedger(
  material: Material,
  uses: UsesOfClips,
  query: LedgerQuery & { readonly from: number; readonly limit: number },
): LedgerPage {
  const rate = productionRate(material.production)
  const { counts } = ledgerOf(material)
  const found = find(material, query)
  const can = (purpose: LedgerPurpose): number => found.filter((line) => canBe[purpose](line)).length
  return {
    lines: found.slice(query.from, query.from + query.limit).map((line) => present(line, rate, uses)),
    found: found.length,
    counts,
    can: {
      decode: can('decode'),
      'decode again': can('decode again'),
      'make again': can('make again'),
      release: can('release'),
      compare: can('compare'),
    },
  }
}

function present({ clip, pair, name }: Line, rate: Rate, uses: UsesOfClips): LedgerLine {
  return {
    id: pair?.id ?? clip.id,
    ...{ clipId: clip.id, name, reel: clip.reel, volumeLabel: clip.main.volume.label, presence: clip.presence },
    needsProxy: needsProxy(clip),
    pair: pair && presentPair(clip, pair),
    // A line shows its own made item alone.
    strip: stripOf({ ...clip, pairs: pair ? [pair] : [] }, rate, uses),
  }
}

/** The pairs of all that a query finds for which something can be done. */
export const pairsFor = (material: Material, query: LedgerQuery, purpose: LedgerPurpose): string[] =>
  find(material, query).flatMap((line) => (canBe[purpose](line) && line.pair ? [line.pair.id] : []))

/** Verdicts of items that are there to be read. */
const readable: ReadonlySet<string> = new Set<PairVerdict>([
  ...(['proven', 'matched', 'unchecked', 'stale', 'mismatched', 'original away', 'original gone'] as const),
])
/** Verdicts that a newer item cures, where the original is here. */
const curable: ReadonlySet<string> = new Set<PairVerdict>(['stale', 'mismatched', 'proxy gone'])

const canBe: Record<LedgerPurpose, (line: Line) => boolean> = {
  decode: ({ word, isDecodedWhole }) => readable.has(word) && !isDecodedWhole,
  'decode again': ({ word }) => readable.has(word),
  'make again': ({ word, clip }) => curable.has(word) && clip.presence === 'here',
  release: ({ pair }) => pair?.origin === 'made',
  compare: ({ word }) => word === 'matched',
}
