import {
  allowsDropFrame,
  type FrameRange,
  framesPerDay,
  isDropLabel,
  parseTimecode,
  type Rate,
  TimecodeError,
} from '../../time/index.ts'
import { type Cut, type CutEvent, CutFormatError, normalSpeed, type Transition } from '../model.ts'
import type { CutFormat, ReadOptions } from './format.ts'
import { motionSpeed } from './motion-speed.ts'
import { writeEdl } from './write-edl.ts'

/**
 * CMX 3600 edit decision lists (after SMPTE ST 258): a title, a frame code mode, numbered events with reel, track,
 * transition and four timecodes, M2 motion lines and comment lines that start with "*".
 */
export const edl: CutFormat = {
  id: 'edl',
  name: 'CMX 3600 EDL',
  extension: '.edl',
  recognises: (fileName, text) => /\.edl$/i.test(fileName) || /^\s*(TITLE:|FCM:|\d{3,6}\s+\S+\s+)/.test(text),
  read: (text, options) => new EdlReader(options).read(text),
  write: writeEdl,
}

const eventLine =
  /^(\d{1,6})\s+(\S+)\s+(B|V\d*|AA(?:\/V)?|A\d*(?:\/V)?|NONE)\s+(C|D|W\d{1,3}|K[BO]?)\s+(?:(\d{1,4})\s+)?(\S+)\s+(\S+)\s+(\S+)\s+(\S+)$/i

/** A label with a semicolon or a full stop before its frames. */
const markedLabel = /\b\d{1,2}[:;.]\d{2}[:;.]\d{2}[;.]\d{2,3}\b/

interface OpenEvent {
  event: CutEvent
  /** Remarks so far: a list may have a million of them. */
  notes: string[]
  /** The channel field, for telling which tracks the line fills. */
  channels: string
  /** Tracks of sound that it fills besides. */
  readonly moreSound: string[]
}

class EdlReader {
  readonly #options: ReadOptions
  #title: string | null = null
  /** The mode that the last FCM line states; without labels that say it themselves it counts for sources. */
  #drop: boolean | null = null
  /** The mode of the record, which is one for all of the list: the first that is stated. */
  #recordDrop: boolean | null = null
  /** Whether the list writes drop-frame labels as such: then every label says its own mode. */
  #isMarked = false
  readonly #events: CutEvent[] = []
  #open: OpenEvent | null = null
  /** The source that a transition leaves, from a cut of no length. */
  #leaving: OpenEvent | null = null
  /** The record day that the list has reached, in frames: it goes on after midnight. */
  #recordDay = 0
  #lastRecordIn = 0

  constructor(options: ReadOptions) {
    this.#options = options
  }

  read(text: string): Cut {
    const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/)
    this.#isMarked = allowsDropFrame(this.#options.rate) && lines.some((line) => markedLabel.test(line))
    lines.forEach((line, index) => {
      this.#readLine(line.trim(), `line ${index + 1}`)
    })
    this.#close()
    if (this.#events.length === 0) throw new CutFormatError(`line ${lines.length}`, 'there is no event in this list.')
    this.#refuseOverlaps()
    // In order of tracks by now.
    const names = [...new Set(this.#events.map((event) => event.track))]
    return {
      name: this.#title || this.#options.fileName.replace(/\.edl$/i, ''),
      rate: this.#options.rate,
      dropFrame: this.#recordDrop ?? false,
      tracks: names.map((name) => ({ name, kind: name.startsWith('V') ? 'picture' : 'sound' })),
      events: this.#events.map(({ sourceDropFrame, ...event }) =>
        sourceDropFrame === (this.#recordDrop ?? false)
          ? event
          : { ...event, sourceDropFrame: sourceDropFrame === true },
      ),
    }
  }

  #readLine(line: string, location: string): void {
    if (line === '') return
    const title = /^TITLE:\s*(.*)$/i.exec(line)
    if (title) {
      this.#title = (title[1] as string).trim() || null
      return
    }
    if (/^FCM:/i.test(line)) this.#readFrameCodeMode(line, location)
    else if (/^M2\s/i.test(line)) this.#readMotion(line, location)
    else if (line.startsWith('*')) this.#readComment(line.slice(1).trim(), location)
    else if (/^\d/.test(line)) this.#readEvent(line, location)
    // Other words belong to the desk that wrote them; they go with the event they follow.
    else if (/^AUD\b/i.test(line)) this.#readChannels(line, location)
    else if (/^(>>>|SPLIT:|GPI\b|KEY\b|FINAL\b|BLK\b)/i.test(line)) this.#note(line)
    else throw new CutFormatError(location, `"${shorten(line)}" is no line of a CMX 3600 list.`)
  }

  #readFrameCodeMode(line: string, location: string): void {
    if (/NON[- ]?DROP/i.test(line)) this.#drop = false
    else if (/DROP/i.test(line)) {
      if (!allowsDropFrame(this.#options.rate))
        throw new CutFormatError(
          location,
          'the list is drop-frame, which the chosen rate does not have: choose 29.97 or 59.94.',
        )
      this.#drop = true
    } else throw new CutFormatError(location, `"${shorten(line)}" states neither DROP FRAME nor NON-DROP FRAME.`)
  }

  #readEvent(line: string, location: string): void {
    const match = eventLine.exec(line)
    if (!match)
      throw new CutFormatError(
        location,
        `"${shorten(line)}" is not an event: number, reel, track, transition and four timecodes are needed.`,
      )
    const [, number, reel, channels, kind, length, ...codes] = match as unknown as [
      string,
      string,
      string,
      string,
      string,
      string | undefined,
      string,
      string,
      string,
      string,
    ]
    this.#recordDrop ??= this.#isMarked ? isDropLabel(codes[2]) : (this.#drop ?? false)
    const sourceDropFrame = this.#isMarked ? isDropLabel(codes[0]) : (this.#drop ?? false)
    const read = (code: string, drop: boolean): number => this.#timecode(code, drop, location)
    const [sourceIn, sourceOut] = [read(codes[0], sourceDropFrame), read(codes[1], sourceDropFrame)]
    const [recordIn, recordOut] = [read(codes[2], this.#recordDrop), read(codes[3], this.#recordDrop)]
    const day = framesPerDay(this.#options.rate, sourceDropFrame)
    const source = { startFrame: sourceIn, endFrame: sourceOut < sourceIn ? sourceOut + day : sourceOut }
    const record = this.#recordRange(recordIn, recordOut, framesPerDay(this.#options.rate, this.#recordDrop))
    if (record === null)
      throw new CutFormatError(location, `the record out ${codes[3]} lies before the record in ${codes[2]}.`)
    if (/^K/i.test(kind))
      throw new CutFormatError(
        location,
        'key events are not read: flatten the keys to tracks of their own, and export again.',
      )
    if (kind.toUpperCase() === 'C' && length !== undefined)
      throw new CutFormatError(location, 'a cut has no length, but one is given.')
    const transition = this.#transition(kind, length, location)
    const event: CutEvent = {
      number,
      track: '',
      kind: 'picture',
      clipName: null,
      reel: /^(AX|BL|BLACK)$/i.test(reel) ? null : reel,
      path: null,
      source,
      sourceRate: this.#options.rate,
      sourceDropFrame,
      mediumStartFrame: null,
      record,
      transition,
      speed: normalSpeed,
      notes: [],
      location,
    }
    const leavesInto =
      this.#open &&
      this.#open.event.number === number &&
      record.endFrame > record.startFrame &&
      isEmpty(this.#open.event)
        ? this.#open
        : null
    if (leavesInto) this.#open = null
    else this.#close()
    this.#leaving = leavesInto
    this.#open = {
      event,
      notes: /^(BL|BLACK)$/i.test(reel) ? ['black'] : [],
      channels: channels.toUpperCase(),
      moreSound: [],
    }
  }

  /**
   * Where an event stands in the record, counted on after midnight. Labels that go back by more than half a day have
   * passed it; an out that lies before its in by less is a fault, for which null stands.
   */
  #recordRange(recordIn: number, recordOut: number, day: number): FrameRange | null {
    if (this.#lastRecordIn - recordIn > day / 2) this.#recordDay += day
    this.#lastRecordIn = recordIn
    const passesMidnight = recordIn - recordOut > day / 2
    if (recordOut < recordIn && !passesMidnight) return null
    const from = recordIn + this.#recordDay
    return { startFrame: from, endFrame: recordOut + this.#recordDay + (passesMidnight ? day : 0) }
  }

  #transition(kind: string, length: string | undefined, location: string): Transition | null {
    if (kind.toUpperCase() === 'C') return null
    if (length === undefined) throw new CutFormatError(location, 'a dissolve or wipe needs its length in frames.')
    return kind.toUpperCase() === 'D'
      ? { kind: 'dissolve', wipeCode: null, durationFrames: Number(length) }
      : { kind: 'wipe', wipeCode: kind.slice(1), durationFrames: Number(length) }
  }

  #timecode(text: string, drop: boolean, location: string): number {
    try {
      return parseTimecode(text, this.#options.rate, drop)
    } catch (error) {
      if (error instanceof TimecodeError) throw new CutFormatError(location, error.message)
      throw error
    }
  }

  #readMotion(line: string, location: string): void {
    const match = /^M2\s+(\S+)\s+(-?\d+(?:\.\d+)?)\s+(\S+)$/i.exec(line)
    if (!match)
      throw new CutFormatError(
        location,
        `"${shorten(line)}" is no motion line: reel, frames per second and a timecode are needed.`,
      )
    if (!this.#open) throw new CutFormatError(location, 'the motion line follows no event.')
    const speed = motionSpeed(match[2] as string, this.#options.rate)
    // In a transition the line may speak of the source that is left, whose event has had its own.
    const reel = (match[1] as string).toUpperCase()
    if (this.#leaving?.event.reel?.toUpperCase() === reel && this.#open.event.reel?.toUpperCase() !== reel) return
    this.#open.event = { ...this.#open.event, speed }
  }

  /** Sound channels above the second, which the event's own field cannot say. */
  #readChannels(line: string, location: string): void {
    const numbers = line.match(/\d+/g) ?? []
    if (numbers.length === 0 || !/^AUD(?:\s+\d{1,2})+$/i.test(line))
      throw new CutFormatError(
        location,
        `"${shorten(line)}" names no sound channels: AUD and their numbers are needed.`,
      )
    if (!this.#open) throw new CutFormatError(location, 'the line of sound channels follows no event.')
    this.#open.moreSound.push(...numbers.map((number) => `A${Number(number)}`))
  }

  #readComment(comment: string, location: string): void {
    const value = (label: RegExp): string | null => label.exec(comment)?.[1]?.trim() || null
    const from = value(/^FROM CLIP NAME:\s*(.*)$/i)
    const to = value(/^TO CLIP NAME:\s*(.*)$/i)
    const reel = value(/^REEL NAME:\s*(.*)$/i)
    if (reel !== null && this.#open) {
      // The field of the event holds one word of eight characters; this says it whole.
      this.#open.event = { ...this.#open.event, reel }
      return
    }
    const path = value(/^(?:SOURCE FILE|FROM FILE|SOURCE FILE PATH|FILE PATH):\s*(.*)$/i)
    if (from === null && to === null && path === null) {
      this.#note(`* ${comment}`)
      return
    }
    if (!this.#open) throw new CutFormatError(location, `"${shorten(comment)}" follows no event.`)
    if (from !== null && this.#leaving) {
      // In a transition FROM names what is left, which the event before already carries.
      this.#leaving.event = { ...this.#leaving.event, clipName: from }
    } else if (from !== null || to !== null) this.#open.event = { ...this.#open.event, clipName: to ?? from }
    if (path !== null) this.#open.event = { ...this.#open.event, path }
  }

  #note(text: string): void {
    this.#open?.notes.push(text)
  }

  #close(): void {
    const open = this.#open
    this.#open = null
    this.#leaving = null
    if (!open || isEmpty(open.event)) return
    const event = { ...open.event, source: forwards(open.event, this.#options.rate), notes: open.notes }
    const length = event.source.endFrame - event.source.startFrame
    const recordLength = event.record.endFrame - event.record.startFrame
    if (event.speed === normalSpeed && length !== recordLength) {
      throw new CutFormatError(
        event.location,
        `event ${event.number} takes ${length} source frames for ${recordLength} record frames, and has no motion line that would explain it.`,
      )
    }
    // Black needs no source: it is not a use of anything.
    if (event.notes.includes('black')) return
    for (const track of new Set([...tracksOf(open.channels), ...open.moreSound]))
      this.#events.push({ ...event, track, kind: track.startsWith('V') ? 'picture' : 'sound' })
  }

  #refuseOverlaps(): void {
    const byTrack = new Map<string, CutEvent[]>()
    for (const event of this.#events) {
      const onTrack = byTrack.get(event.track)
      if (onTrack) onTrack.push(event)
      else byTrack.set(event.track, [event])
    }
    for (const events of byTrack.values()) {
      events.sort((a, b) => a.record.startFrame - b.record.startFrame)
      for (let index = 1; index < events.length; index++) {
        const before = events[index - 1] as CutEvent
        const event = events[index] as CutEvent
        if (event.record.startFrame < before.record.endFrame) {
          throw new CutFormatError(
            event.location,
            `event ${event.number} overlaps event ${before.number} on track ${event.track}.`,
          )
        }
      }
    }
    this.#events.sort((a, b) => compareTracks(a.track, b.track) || a.record.startFrame - b.record.startFrame)
  }
}

/** A reversed event may have its out before its in, which is no passing of midnight: between them lies its length. */
function forwards({ source, speed, sourceDropFrame }: CutEvent, rate: Rate): FrameRange {
  const day = framesPerDay(rate, sourceDropFrame ?? false)
  const length = source.endFrame - source.startFrame
  return speed.numerator < 0 && length > day / 2
    ? { startFrame: source.startFrame, endFrame: source.startFrame + day - length }
    : source
}

const isEmpty = (event: CutEvent): boolean => event.record.startFrame === event.record.endFrame
const shorten = (text: string): string => (text.length > 60 ? `${text.slice(0, 57)}…` : text)

function compareTracks(a: string, b: string): number {
  return Number(b.startsWith('V')) - Number(a.startsWith('V')) || Number(a.slice(1)) - Number(b.slice(1))
}

/** The tracks a channel field fills: B is sound 1 and picture, AA is sound 1 and 2, "/V" adds the picture. */
function tracksOf(channels: string): string[] {
  if (channels === 'NONE') return []
  if (channels === 'B') return ['V1', 'A1']
  const tracks = channels.endsWith('/V') ? ['V1'] : []
  const sound = channels.replace('/V', '')
  if (sound === 'AA') return [...tracks, 'A1', 'A2']
  return [...tracks, sound.length === 1 ? `${sound}1` : sound]
}
