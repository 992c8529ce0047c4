import type { MediaFacts, SoundFacts } from '../media/index.ts'
import { divide, fraction, multiply, rateAsFraction, round } from '../time/index.ts'
import type { SoundLink } from './sound-link.ts'

/** One channel of a recording, as it is laid beside a picture. */
export interface LaidTrack {
  /** The file of the recording, of several the one that it is in, and the stream and channel in it; all from 0. */
  readonly file: number
  readonly stream: number
  readonly channel: number
}

/**
 * What a picture sounds like with its recording: the camera's own streams where they are kept (silent ones where they
 * are muted), and after them each used track of the recording on its own, just as long as the picture.
 * @param recordings what is known of the recording's files, in the order of the link
 * @returns null when there is no such picture, or the recording has no track that is used
 */
export function withRecording(
  facts: MediaFacts,
  link: SoundLink,
  recordings: readonly MediaFacts[],
): { readonly facts: MediaFacts; readonly tracks: readonly LaidTrack[] } | null {
  const { picture } = facts
  const all = recordings.flatMap(({ sound }, file) =>
    sound.flatMap((stream, index) =>
      Array.from({ length: stream.channels }, (_, channel) => ({ file, stream: index, channel, of: stream })),
    ),
  )
  const used = link.tracks ? link.tracks.flatMap((track) => all[track] ?? []) : all
  if (!picture || used.length === 0) return null
  const seconds = divide(fraction(picture.frames), rateAsFraction(picture.rate))
  const samples = Number(round(multiply(seconds, fraction(link.sampleRate))))
  const laid = used.map(
    ({ of }): SoundFacts => ({
      ...{ codec: 'pcm_s24le', channels: 1, layout: 'mono', sampleRate: link.sampleRate },
      ...{ bitDepth: (of.bitDepth ?? 24) > 16 ? 24 : 16, samples },
    }),
  )
  const own = link.cameraSound === 'dropped' ? [] : facts.sound
  return { facts: { ...facts, sound: [...own, ...laid] }, tracks: used.map(({ of: _, ...track }) => track) }
}
