import type { Span, SpanStrip } from '@ennick/contract'
import { type MediaFacts, mediumRange, nominalFramesPerSecond, type Rate, sameRate, toNumber } from '@ennick/core'
import type { KnownClip, KnownPair } from '../store/known-material.ts'
import type { UsesOfClips } from './uses.ts'

/** The rate a clip's strip counts at: its own, or the production's for sound. */
export const stripRate = (facts: MediaFacts, fallback: Rate): Rate => facts.picture?.rate ?? fallback

/** The span strip of a clip: its original, what was made of it, and its uses. */
export function stripOf(clip: KnownClip, fallback: Rate, uses: Pick<UsesOfClips, 'spans'>): SpanStrip | null {
  const { facts } = clip.main
  if (!facts) return null
  const rate = stripRate(facts, fallback)
  const range = mediumRange(facts, rate)
  if (!range) return null
  return {
    rate,
    dropFrame: facts.dropFrame,
    original: {
      label: 'original',
      start: toNumber(range.start),
      end: toNumber(range.end),
      note: null,
      isWhollyOff: false,
    },
    made: clip.pairs.flatMap((pair) => madeSpan(pair, rate)),
    uses: uses.spans(clip.id, rate),
  }
}

function madeSpan(pair: KnownPair, rate: Rate): Span[] {
  const facts = pair.files.find(({ part }) => part !== 'sound')?.file.facts
  const range = facts ? mediumRange(facts, facts.picture?.rate ?? rate) : null
  if (!range || pair.verdict === 'proxy gone' || pair.verdict === 'both gone') return []
  const telling = pair
    .compare()
    ?.find((row) => !row.agrees && ['rate', 'timecode', 'length', 'drop flag'].includes(row.aspect))
  const own = facts?.picture?.rate ?? rate
  // Drawn where its own labels put it: a proxy of another rate stands at the same time of day, and lines up nowhere.
  const scale = nominalFramesPerSecond(rate) / nominalFramesPerSecond(own)
  return [
    {
      label: pair.name,
      start: toNumber(range.start) * scale,
      end: toNumber(range.end) * scale,
      note: telling ? (telling.difference ?? telling.aspect) : null,
      isWhollyOff: !sameRate(own, rate),
    },
  ]
}
