import { normalPath } from '../../naming/index.ts'
import { canonicalJson } from '../../text/index.ts'
import { allowsDropFrame, type FrameRange, formatRate, formatTimecode, sameRate } from '../../time/index.ts'
import { type Cut, type CutEvent, CutFormatError, type SoundTimes, type Transition } from '../model.ts'
import { asCarried } from './carries.ts'
import type { CutFormat, WriteOptions } from './format.ts'

/**
 * Writes a cut in a format, reads what was written, and compares it event by event with what was to be said.
 * @throws CutFormatError for what the format cannot say, and for a difference, with the event that it is of
 */
export function writeProven(cut: Cut, format: CutFormat, options: WriteOptions = {}): string {
  const text = format.write(cut, options)
  const written = readAgain(format, text, cut)
  const numbers = new Map(
    format.replaced(cut, options).flatMap(({ what, from, to }) => (what === 'reel' ? [] : [[to, from]])),
  )
  const differences = differencesOf(asCarried(cut, format.id), written, numbers, format)
  const [first, ...more] = differences
  if (!first) return text
  const others = more.length ? ` (and ${more.length} more)` : ''
  const verdict = `${format.name} did not say it as it is, and is not handed out.`
  throw new CutFormatError(first.location, `${first.what}${others}: ${verdict}`)
}

function readAgain(format: CutFormat, text: string, cut: Cut): Cut {
  try {
    return format.read(text, { rate: cut.rate, fileName: cut.name })
  } catch (error) {
    if (!(error instanceof CutFormatError)) throw error
    throw new CutFormatError(error.location, `what was written cannot be read again: ${error.message}`)
  }
}

interface Difference {
  readonly location: string
  readonly what: string
}

/** @param numbers what stands for which number of an event, where that is another */
function differencesOf(wanted: Cut, found: Cut, numbers: ReadonlyMap<string, string>, format: CutFormat): Difference[] {
  const differences: Difference[] = []
  const say = (what: string): void => void differences.push({ location: 'the cut', what })
  if (!sameRate(wanted.rate, found.rate)) say(`its rate is ${formatRate(found.rate)} in what was written`)
  if (wanted.dropFrame !== found.dropFrame) say('its drop-frame counting is another')
  if (canonicalJson(wanted.raster) !== canonicalJson(found.raster)) say('its raster is another')
  if (canonicalJson(wanted.generators ?? []) !== canonicalJson(found.generators ?? []))
    say('its generated pictures are others')
  if (canonicalJson(wanted.markers ?? []) !== canonicalJson(found.markers ?? [])) say('its markers are others')
  const foundOn = byTrack(found.events)
  for (const [track, events] of byTrack(wanted.events)) {
    const others = foundOn.get(track) ?? []
    foundOn.delete(track)
    if (events.length !== others.length)
      differences.push({ location: `track ${track}`, what: `${others.length} of ${events.length} events are in it` })
    events.slice(0, others.length).forEach((event, index) => {
      const what = differenceOf(event, others[index] as CutEvent, wanted, { numbers, format })
      if (what) differences.push({ location: `event ${event.number} on ${track}`, what })
    })
  }
  for (const [track, events] of foundOn)
    differences.push({ location: `track ${track}`, what: `${events.length} events are in it that are none of the cut` })
  return differences
}

function byTrack(events: readonly CutEvent[]): Map<string, CutEvent[]> {
  const tracks = new Map<string, CutEvent[]>()
  for (const event of events) {
    const track = tracks.get(event.track)
    if (track) track.push(event)
    else tracks.set(event.track, [event])
  }
  for (const track of tracks.values()) track.sort((a, b) => a.record.startFrame - b.record.startFrame)
  return tracks
}

/** The first thing in which two events differ, in words; null when there is none. */
function differenceOf(
  wanted: CutEvent,
  found: CutEvent,
  cut: Cut,
  { numbers, format }: { numbers: ReadonlyMap<string, string>; format: CutFormat },
): string | null {
  const drop = allowsDropFrame(wanted.sourceRate) && (wanted.sourceDropFrame ?? cut.dropFrame)
  const source = ({ startFrame, endFrame }: FrameRange): string =>
    `${startFrame} to ${endFrame} (${formatTimecode(startFrame, wanted.sourceRate, drop)})`
  const record = ({ startFrame, endFrame }: FrameRange): string =>
    [startFrame, endFrame].map((frame) => formatTimecode(frame, cut.rate, cut.dropFrame)).join(' to ')
  const aspects: readonly (readonly [string, string, string])[] = [
    ['record', record(wanted.record), record(found.record)],
    ['source', source(wanted.source), source(found.source)],
    ['source rate', formatRate(wanted.sourceRate), formatRate(found.sourceRate)],
    ['drop flag', String(wanted.sourceDropFrame), String(found.sourceDropFrame)],
    ['speed', speedOf(wanted), speedOf(found)],
    ['transition', transitionOf(wanted.transition), transitionOf(found.transition)],
    ['fade', transitionOf(wanted.fadeOut), transitionOf(found.fadeOut)],
    ['switch', String(wanted.isDisabled === true), String(found.isDisabled === true)],
    ['key', canonicalJson(wanted.key ?? null), canonicalJson(found.key ?? null)],
    ['sound times', times(wanted.soundTimes), times(found.soundTimes)],
    ['channel', String(wanted.sourceChannel ?? 1), String(found.sourceChannel ?? 1)],
    ['scale and position', canonicalJson(wanted.fit ?? null), canonicalJson(found.fit ?? null)],
    ['level', canonicalJson(wanted.level ?? null), canonicalJson(found.level ?? null)],
    ['reel', onOneLine(wanted.reel), onOneLine(found.reel)],
    ['name', nameOf(wanted), nameOf(found)],
    ['path', pathOf(wanted), pathOf(found)],
    ['remarks', wanted.notes.map(remark).join('\n'), found.notes.map(remark).join('\n')],
    ...(format.id === 'xmeml' ? [] : [['number', wanted.number, numbers.get(found.number) ?? found.number] as const]),
  ]
  const differing = aspects.find(([, a, b]) => a !== b)
  return differing ? `its ${differing[0]} is ${differing[1]}, and ${differing[2]} in what was written` : null
}

const speedOf = ({ speed }: CutEvent): string => `${speed.numerator}/${speed.denominator}`

function transitionOf(transition: Transition | null | undefined): string {
  if (!transition) return 'none'
  const { kind, wipeCode, durationFrames, fromBlack } = transition
  const name = wipeCode === null ? kind : `${kind} ${Number(wipeCode)}`
  return `${name} of ${durationFrames} frames${fromBlack ? ' from black' : ''}`
}

const times = (sound: SoundTimes | undefined): string => (sound ? canonicalJson(sound) : 'on frames')

const onOneLine = (text: string | null): string => (text ?? '').replace(/\s+/g, ' ').trim()

const remark = (note: string): string => onOneLine(note.replace(/^\*\s*/, ''))

/** Where a list has no name, the file's stands for it. */
const nameOf = ({ clipName, path }: CutEvent): string =>
  onOneLine(clipName ?? (path === null ? null : (normalPath(path).split('/').at(-1) ?? null)))

const pathOf = ({ path }: CutEvent): string => (path === null ? '' : normalPath(path).normalize('NFC'))
