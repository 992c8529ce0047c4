import type { MediaFacts, PictureFacts, SoundFacts } from '../media/index.ts'
import type { SoundNotes } from '../notes/index.ts'
import { parseTimecode, type Rate, rate } from '../time/index.ts'

/** A plain 25 fps picture of 100 frames, for tests to bend. */
export function pictureFacts(
  change: {
    start?: string | null
    rate?: Rate
    drop?: boolean
    reel?: string | null
    channels?: number
    container?: string
  } & Partial<PictureFacts> = {},
): MediaFacts {
  const {
    start = '10:00:00:00',
    rate: at = rate(25),
    drop = false,
    reel = 'A001',
    channels = 2,
    container = 'mov',
    ...picture
  } = change
  return {
    kind: 'picture',
    container,
    picture: {
      codec: 'h264',
      profile: 'High',
      width: 1920,
      height: 1080,
      pixelAspect: { numerator: 1, denominator: 1 },
      rotation: 0,
      pixelFormat: 'yuv420p',
      rate: at,
      variableRate: false,
      frames: 100,
      scan: 'progressive',
      colour: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'tv' },
      ...picture,
    },
    sound: Array.from({ length: channels }, () => mono(picture.frames ?? 100)),
    startFrame: start === null ? null : parseTimecode(start, at, drop),
    dropFrame: drop,
    reel,
    timeReferenceSamples: null,
    createdAt: null,
    originator: null,
    description: null,
  }
}

const mono = (frames: number): SoundFacts => ({
  codec: 'pcm_s24le',
  channels: 1,
  layout: 'mono',
  sampleRate: 48_000,
  bitDepth: 24,
  samples: frames * 1920,
})

/** A four-channel recording from a time of day. */
export function soundFacts(samples: number, timeReferenceSamples: number): MediaFacts {
  return {
    ...pictureFacts({ start: null, reel: null, container: 'wav' }),
    kind: 'sound',
    picture: null,
    sound: [{ codec: 'pcm_s24le', channels: 4, layout: '4.0', sampleRate: 48_000, bitDepth: 24, samples }],
    timeReferenceSamples,
  }
}

/** What a recorder that writes next to nothing says. */
export const soundNotes = (change: Partial<SoundNotes> = {}): SoundNotes => ({
  ...{ project: null, scene: null, take: null, tape: null, note: null, circled: null, trackNames: [] },
  ...{ timecodeRate: null, dropFrame: null, speedNote: null, originator: null, description: null },
  ...{ originationDate: null, originationTime: null, timeReferenceSamples: null, problems: [] },
  ...change,
})
