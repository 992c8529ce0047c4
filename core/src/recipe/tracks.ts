import type { MediaFacts, SoundFacts } from '../media/index.ts'

/** Which channels a recipe keeps and how it groups them. What has no sound gets none, so that silence is visible. */
export interface RecipeTracks {
  /** Channels counted from 1 over all streams of the original; null keeps all. */
  readonly keep: readonly number[] | null
  readonly layout: 'as source' | 'mono' | 'stereo'
  /** Silent channels are added until there are so many; 0 adds none. */
  readonly atLeast: number
}

export const tracksAsSource: RecipeTracks = { keep: null, layout: 'as source', atLeast: 0 }

export const isAsSource = ({ keep, layout, atLeast }: RecipeTracks): boolean =>
  keep === null && layout === 'as source' && atLeast === 0

/** One channel of a made track: a channel of a stream of the original (both from 0), or silence. */
export type TrackChannel = { readonly stream: number; readonly channel: number } | 'silence'

/** One made stream of sound: what it is to be like, and what it is made of. */
export interface PlannedTrack extends SoundFacts {
  readonly of: readonly TrackChannel[]
}

/**
 * The streams of sound that a recipe makes of an original. Kept channels that the original lacks are left out; silence
 * is added at the end, as streams of one channel, or within pairs where the layout is stereo.
 */
export function planTracks(
  { sound }: Pick<MediaFacts, 'sound'>,
  { keep, layout, atLeast }: RecipeTracks,
): PlannedTrack[] {
  const [first] = sound
  if (!first) return []
  let before = 0
  const kept = sound.flatMap((facts, stream) => {
    const from = before
    before += facts.channels
    const channels = Array.from({ length: facts.channels }, (_, channel) => ({ stream, channel }))
    const wanted = channels.filter(({ channel }) => keep === null || keep.includes(from + channel + 1))
    return wanted.length ? [{ facts, channels: wanted }] : []
  })
  const all: TrackChannel[] = kept.flatMap(({ channels }) => channels)
  const silent: TrackChannel[] = Array.from({ length: Math.max(0, atLeast - all.length) }, () => 'silence')
  if (layout === 'stereo') {
    const channels = [...all, ...silent]
    if (channels.length % 2) channels.push('silence')
    return Array.from({ length: channels.length / 2 }, (_, pair) =>
      track(first, channels.slice(2 * pair, 2 * pair + 2)),
    )
  }
  const own = kept.flatMap(({ facts, channels }) =>
    layout === 'mono' ? channels.map((channel) => track(facts, [channel])) : [track(facts, channels)],
  )
  return [...own, ...silent.map((channel) => track(first, [channel]))]
}

function track(like: SoundFacts, of: readonly TrackChannel[]): PlannedTrack {
  const isWhole = of.length === like.channels
  return { ...like, channels: of.length, layout: isWhole ? like.layout : null, of }
}

/** The stream that a track is just as it is; null when it has to be put together. */
export function wholeStream({ of }: PlannedTrack, sound: readonly SoundFacts[]): number | null {
  const [first] = of
  if (!first || first === 'silence') return null
  const isWhole =
    of.length === sound[first.stream]?.channels &&
    of.every((channel, index) => channel !== 'silence' && channel.stream === first.stream && channel.channel === index)
  return isWhole ? first.stream : null
}

/**
 * The filter that puts channels together into one stream with a label.
 * @param padOf what the encoder calls a stream
 * @param after filters that the stream passes last
 */
export function trackFilter(
  of: readonly TrackChannel[],
  sound: readonly SoundFacts[],
  label: string,
  padOf: (stream: number) => string = (stream) => `0:a:${stream}`,
  after = '',
): string {
  const streams = [...new Set(of.flatMap((channel) => (channel === 'silence' ? [] : [channel.stream])))]
  // Silence is a channel of the original at no level, so that it is just as long.
  const inputs = streams.length ? streams : [0]
  const offsets = new Map<number, number>()
  let offset = 0
  for (const stream of inputs) {
    offsets.set(stream, offset)
    offset += sound[stream]?.channels ?? 0
  }
  const gains = of.map((channel, index) =>
    channel === 'silence' ? `c${index}=0*c0` : `c${index}=c${(offsets.get(channel.stream) ?? 0) + channel.channel}`,
  )
  const layout = plainLayout(of.length)
  const merge = inputs.length > 1 ? `amerge=inputs=${inputs.length},` : ''
  const pads = inputs.map((stream) => `[${padOf(stream)}]`).join('')
  return `${pads}${merge}pan=${[layout, ...gains].join('|')}${after}[${label}]`
}

/** What the encoder calls a stream of so many channels of which nobody says more. */
export const plainLayout = (channels: number): string =>
  channels === 1 ? 'mono' : channels === 2 ? 'stereo' : `${channels}c`
