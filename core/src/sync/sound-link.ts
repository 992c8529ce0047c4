import { type Fraction, fraction } from '../time/index.ts'
import { type SyncMethod, syncMethods } from './by-timecode.ts'

/** What becomes of the sound that the camera recorded itself. */
export const cameraSounds = ['kept', 'muted', 'dropped'] as const
export type CameraSound = (typeof cameraSounds)[number]

/** A picture's clip and its recording, as they are kept: both stay what they are, and each is found again by it. */
export interface SoundLink {
  /** Clips of the recording: one, or several where its tracks are files of their own. */
  readonly soundIds: readonly string[]
  /** The sample of the recording at the picture's first frame. */
  readonly offsetSamples: Fraction
  readonly sampleRate: number
  readonly method: SyncMethod
  /** The tracks of the recording that are used, the first is 0; null for all. */
  readonly tracks: readonly number[] | null
  readonly cameraSound: CameraSound
  /** What marked the content of the picture, and of each clip of the recording; absent where an earlier version synced. */
  readonly contents?: { readonly picture: string; readonly recordings: readonly string[] }
}

/** The key under which a clip keeps its link, beside what is said of it: so it is undone together with that. */
export const soundLinkKey = 'soundLink'

/** A link as text. */
export function writeSoundLink(link: SoundLink): string {
  const { soundIds, offsetSamples, sampleRate, method, tracks, cameraSound, contents } = link
  const offset = `${offsetSamples.numerator}/${offsetSamples.denominator}`
  return JSON.stringify({ soundIds, offset, sampleRate, method, tracks, cameraSound, contents })
}

/** A link from its text; null for a text that is none. */
export function readSoundLink(text: string | undefined): SoundLink | null {
  if (text === undefined) return null
  try {
    const read = JSON.parse(text) as Record<string, unknown>
    const { soundIds, offset, sampleRate, method, tracks, cameraSound, contents } = read
    const parts = /^(-?\d+)\/(\d+)$/.exec(String(offset))
    const isOfNumbers = tracks === null || (Array.isArray(tracks) && tracks.every((track) => Number.isInteger(track)))
    const isWhole =
      parts !== null &&
      isOfNumbers &&
      Array.isArray(soundIds) &&
      Number.isInteger(sampleRate) &&
      syncMethods.includes(method as SyncMethod) &&
      cameraSounds.includes(cameraSound as CameraSound)
    if (!isWhole) return null
    const offsetSamples = fraction(BigInt(parts[1] as string), BigInt(parts[2] as string))
    return {
      soundIds,
      offsetSamples,
      sampleRate,
      method,
      tracks,
      cameraSound,
      ...(contents ? { contents } : {}),
    } as SoundLink
  } catch {
    return null
  }
}
