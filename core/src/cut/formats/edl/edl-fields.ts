import { type FrameRange, framesPerDay, type Rate } from '../../../time/index.ts'
import { type CutEvent, mediaFrames, normalSpeed } from '../../model.ts'

export const eventLine =
  /^(\d{1,6})\s+(\S+)\s+(B|V\d*|AA(?:\/V)?|A\d*(?:\/V)?|NONE)\s+(C|D|W\d{1,3}|K\s*[BO]?)\s+(?:(\d{1,4})\s+(?:\(F\)\s+)?)?(\S+)\s+(\S+)\s+(\S+)\s+(\S+)$/i

/** A label with a semicolon or a full stop before its frames. */
export const markedLabel = /\b\d{1,2}[:;.]\d{2}[:;.]\d{2}[;.]\d{2,3}\b/

/** "K B" is the picture below, "K" the one that is laid over it, "K O" the one that is taken away again. */
export function keyOf(kind: string, length: string | undefined): NonNullable<CutEvent['key']> | null {
  const letters = kind.toUpperCase().replace(/\s/g, '')
  if (!letters.startsWith('K')) return null
  const part = letters === 'KB' ? 'background' : letters === 'KO' ? 'foreground out' : 'foreground'
  return { part, durationFrames: Number(length ?? 0) }
}

/** An event whose motion begins later runs as it was taken until then: it is two, one after the other. */
export function inTwo(event: CutEvent, motionFrame: number, rate: Rate): [CutEvent, CutEvent] {
  const plainFrames = motionFrame - event.source.startFrame
  const cut = event.record.startFrame + plainFrames
  const rest = event.record.endFrame - cut
  const { fadeOut: _, ...first } = event
  return [
    {
      ...first,
      speed: normalSpeed,
      source: { startFrame: event.source.startFrame, endFrame: motionFrame },
      record: { startFrame: event.record.startFrame, endFrame: cut },
    },
    {
      ...event,
      transition: null,
      source: {
        startFrame: motionFrame,
        endFrame: motionFrame + Math.max(1, mediaFrames(rest, event.speed, event.sourceRate, rate)),
      },
      record: { startFrame: cut, endFrame: event.record.endFrame },
    },
  ]
}

/** A reversed event may have its out before its in, which is no passing of midnight: between them lies its length. */
export function forwards({ source, speed, sourceDropFrame }: CutEvent, rate: Rate): FrameRange {
  const day = framesPerDay(rate, sourceDropFrame ?? false)
  const length = source.endFrame - source.startFrame
  return speed.numerator < 0 && length > day / 2
    ? { startFrame: source.startFrame, endFrame: source.startFrame + day - length }
    : source
}

export function compareTracks(a: string, b: string): number {
  return Number(b.startsWith('V')) - Number(a.startsWith('V')) || Number(a.slice(1)) - Number(b.slice(1))
}

/**
 * The tracks a channel field fills: B is sound 1 and picture, AA is sound 1 and 2, "/V" adds the picture. Figures that
 * rise are channels one by one ("A12" is sound 1 and 2), unless the list has a twelfth.
 */
export function tracksOf(channels: string, hasManyChannels: boolean): string[] {
  if (channels === 'NONE') return []
  if (channels === 'B') return ['V1', 'A1']
  const tracks = channels.endsWith('/V') ? ['V1'] : []
  const sound = channels.replace('/V', '')
  if (sound === 'AA') return [...tracks, 'A1', 'A2']
  if (!hasManyChannels && /^A(?:12|1234|123|34|234)$/.test(sound))
    return [...tracks, ...[...sound.slice(1)].map((figure) => `A${figure}`)]
  return [...tracks, sound.length === 1 ? `${sound}1` : sound]
}
