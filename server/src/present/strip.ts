import type { Span, SpanStrip } from '@ennick/contract'
import {
  formatFrames,
  type MediaFacts,
  mediumRange,
  nominalFramesPerSecond,
  type Rate,
  type Shortfall,
  sameRate,
  toNumber,
} from '@ennick/core'
import type { CutState } from '../cutting/cut-state.ts'
import type { WorldClip, WorldPair } from '../store/world.ts'

/** The rate a clip's strip counts at: its own, or the production's for sound. */
export const stripRate = (facts: MediaFacts, fallback: Rate): Rate => facts.picture?.rate ?? fallback

/** The span strip of a clip: its original, what was made of it, and its uses in the given cuts. */
export function stripOf(clip: WorldClip, fallback: Rate, cuts: readonly CutState[]): SpanStrip | null {
  const { facts } = clip.main
  if (!facts) return null
  const rate = stripRate(facts, fallback)
  const range = mediumRange(facts, rate)
  if (!range) return null
  return {
    rate,
    dropFrame: facts.dropFrame,
    original: { label: 'original', start: toNumber(range.start), end: toNumber(range.end), note: null, isWhollyOff: false },
    made: clip.pairs.flatMap((pair) => madeSpan(pair, rate)),
    uses: cuts.flatMap((state) => useSpans(state, clip.id, rate)),
  }
}

function madeSpan(pair: WorldPair, rate: Rate): Span[] {
  const facts = pair.files.find(({ part }) => part !== 'sound')?.file.facts
  const range = facts ? mediumRange(facts, facts.picture?.rate ?? rate) : null
  if (!range || pair.verdict === 'proxy gone' || pair.verdict === 'both gone') return []
  const telling = pair.comparison?.find((row) => !row.agrees && ['rate', 'timecode', 'length', 'drop flag'].includes(row.aspect))
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

function useSpans(state: CutState, clipId: string, rate: Rate): Span[] {
  return state.resolutions.flatMap((resolution, position) => {
    const event = state.cut.events[position]
    if (resolution.clipId !== clipId || !event) return []
    const scale = sameRate(event.sourceRate, rate)
      ? 1
      : (rate.numerator * event.sourceRate.denominator) / (rate.denominator * event.sourceRate.numerator)
    return [
      {
        label: `${event.track} ${event.number}`,
        start: resolution.needed.startFrame * scale,
        end: resolution.needed.endFrame * scale,
        note: resolution.shortfall ? shortfallNote(resolution.shortfall) : null,
        isWhollyOff: false,
      },
    ]
  })
}

export function shortfallNote(lack: Shortfall): string {
  const head = lack.headFrames.numerator > 0n ? `${formatFrames(lack.headFrames)} before the start` : ''
  const tail = lack.tailFrames.numerator > 0n ? `${formatFrames(lack.tailFrames)} past the end` : ''
  return [head, tail].filter(Boolean).join(', ')
}
