import { channelCount, type MediaFacts } from '../media/index.ts'
import type { EvidenceRow } from './compare.ts'

/** A stream of sound of a copy: for each of its channels, which of the item's it is, over all streams from 0. */
export interface CopiedStream {
  /** Null for a silent channel. */
  readonly channels: readonly (number | null)[]
  /** The original's layout, where it has a name. */
  readonly layout: string | null
}

/** The sound of a copy that is laid out as its original's is. */
export interface CopiedSound {
  readonly streams: readonly CopiedStream[]
  readonly sampleRate: number
  /** How long each stream is to be: silence is added at its end, or samples beyond it are left out. */
  readonly samples: number | null
  readonly silentChannels: number
  /** Samples of silence at the end; below zero so many are left out. */
  readonly paddedSamples: number
}

/** What a copy of an item gets so that it agrees with its original, while its pictures stay packet for packet. */
export interface StampedCopy {
  /** Null where the item's own sound is copied, packet for packet too. */
  readonly sound: CopiedSound | null
}

/** Containers in which a copy can be stamped anew without touching its pictures. */
const stamped: ReadonlySet<string> = new Set(['mov', 'mp4', 'mxf'])

const ofStamp: ReadonlySet<string> = new Set(['timecode', 'drop flag', 'reel'])
const ofSound: ReadonlySet<string> = new Set(['channels', 'sound length'])

/** What a copy has to agree in, whatever else is said of it. */
export const isCuredByCopy = ({ aspect }: Pick<EvidenceRow, 'aspect'>): boolean =>
  ofStamp.has(aspect) || ofSound.has(aspect)

/**
 * How a copy of an item agrees with its original where that one differs in its stamp, in how its channels are grouped,
 * in channels that it lacks, or in less than a frame of sound.
 * @returns a refusal, in words that go on after "because", where a copy does not cure it
 */
export function planStampedCopy(
  rows: readonly EvidenceRow[],
  original: MediaFacts,
  item: MediaFacts,
): { readonly copy: StampedCopy } | { readonly refusal: string } {
  const wrong = rows.filter(({ agrees }) => !agrees)
  const [first] = wrong
  if (!first) return { refusal: 'nothing about it is known to be wrong' }
  const other = wrong.find((row) => !isCuredByCopy(row))
  if (other) return { refusal: `it differs in ${other.aspect} too` }
  if (!stamped.has(item.container)) return { refusal: `a ${item.container} file cannot be stamped anew` }
  return wrong.some(({ aspect }) => ofSound.has(aspect)) ? planSound(original, item) : { copy: { sound: null } }
}

function planSound(original: MediaFacts, item: MediaFacts): { copy: StampedCopy } | { refusal: string } {
  const [wanted, own] = [channelCount(original), channelCount(item)]
  const like = item.sound[0] ?? original.sound[0]
  if (!like || own > wanted) return { refusal: 'it has channels that its original does not have' }
  let next = 0
  const streams = original.sound.map(({ channels, layout }) => ({
    channels: Array.from({ length: channels }, () => (next < own ? next++ : null)),
    layout,
  }))
  const silentChannels = wanted - own
  const { sampleRate } = like
  const source = original.sound[0]
  if (source?.samples == null)
    return { copy: { sound: { streams, sampleRate, samples: null, silentChannels, paddedSamples: 0 } } }
  const samples = Math.round((source.samples * sampleRate) / source.sampleRate)
  const paddedSamples = samples - (item.sound[0]?.samples ?? samples)
  const rate = original.picture?.rate
  const isFrame = rate ? Math.abs(paddedSamples) * rate.numerator >= sampleRate * rate.denominator : paddedSamples !== 0
  if (isFrame) return { refusal: 'its sound is a frame or more longer or shorter than its original’s' }
  return { copy: { sound: { streams, sampleRate, samples, silentChannels, paddedSamples } } }
}

/** What stays uncertain about a copy with silence in it: a row that agrees, and says what it does not have. */
export function silenceIn({ sound }: StampedCopy): EvidenceRow[] {
  if (!sound || sound.silentChannels === 0) return []
  const all = sound.streams.flatMap(({ channels }) => channels)
  const silent = all.flatMap((channel, index) => (channel === null ? [index + 1] : []))
  const [channels, are] = silent.length === 1 ? ['channel', 'is'] : ['channels', 'are']
  const difference = `${channels} ${silent.join(', ')} of the copy ${are} silent`
  return [
    { aspect: 'sound', expected: 'all channels', found: `${silent.length} of them silence`, agrees: true, difference },
  ]
}

/** A copy in words: what of its original's it has that the item has not, and what is silence in it. */
export function describeCopy({ sound }: StampedCopy): string {
  if (!sound) return 'with the original’s timecode and reel'
  const { silentChannels, paddedSamples } = sound
  return [
    'with the original’s timecode, reel and channels',
    ...(silentChannels ? [`${silentChannels} of them silent`] : []),
    ...(paddedSamples > 0 ? [`${paddedSamples} samples of silence at the end`] : []),
    ...(paddedSamples < 0 ? [`${-paddedSamples} samples less at the end`] : []),
  ].join(', ')
}
