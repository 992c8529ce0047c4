import {
  allowsDropFrame,
  type FrameRange,
  framesPerDay,
  isDropLabel,
  parseTimecode,
  TimecodeError,
} from '../../../time/index.ts'
import {
  type Cut,
  type CutEvent,
  CutFaults,
  CutFormatError,
  leftOutOf,
  normalSpeed,
  type Transition,
} from '../../model.ts'
import { asCarried } from '../carries.ts'
import type { CutFormat, ReadOptions } from '../format.ts'
import { compareTracks, eventLine, forwards, inTwo, keyOf, markedLabel, tracksOf } from './edl-fields.ts'
import { planEdl } from './edl-lines.ts'
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
  replaced: (cut, options = {}) => [...planEdl(asCarried(cut, 'edl'), options).replaced],
}

interface OpenEvent {
  event: CutEvent
  /** Remarks so far: a list may have a million of them. */
  notes: string[]
  /** The channel field, for telling which tracks the line fills. */
  channels: string
  /** Tracks of sound that it fills besides. */
  readonly moreSound: string[]
  /** Black needs no source: it is not a use of anything. */
  readonly isBlack: boolean
  /** Where its motion begins, when that is behind its start. */
  motionFrame: number | null
}

/** So many faults are told of one list. */
const mostFaults = 1000

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
  /** The last event of each track. */
  readonly #last = new Map<string, CutEvent>()
  #open: OpenEvent | null = null
  /** The source that a transition leaves, from a cut of no length. */
  #leaving: OpenEvent | null = null
  readonly #faults: CutFormatError[] = []
  /** Whether what comes now belongs to an event that was not taken. */
  #isBadEvent = false
  /** Whether the list has channels of sound above the ninth: then "A12" is the twelfth, and not two of them. */
  #hasManyChannels = false
  /** The record day that the list has reached, in frames: it goes on after midnight. */
  #recordDay = 0
  #lastRecordIn = 0

  constructor(options: ReadOptions) {
    this.#options = options
  }

  read(text: string): Cut {
    const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/)
    this.#isMarked = allowsDropFrame(this.#options.rate) && lines.some((line) => markedLabel.test(line))
    this.#hasManyChannels = lines.some((line) => /^\d+\s+\S+\s+A1[0135-9]\b/i.test(line))
    lines.forEach((line, index) => {
      const words = line.trim()
      this.#try(() => this.#readLine(words, `line ${index + 1}`), /^(\d|\*|M2\s|AUD\b)/i.test(words))
    })
    this.#try(() => this.#close(), true)
    if (this.#events.length === 0 && this.#faults.length === 0)
      throw new CutFormatError(`line ${lines.length}`, 'there is no event in this list.')
    this.#leaveOutOverlaps()
    if (this.#faults.length && (!this.#options.takeGood || this.#events.length === 0)) throw new CutFaults(this.#faults)
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
      ...(this.#faults.length && { leftOut: this.#faults.map(leftOutOf) }),
    }
  }

  /**
   * A fault is told with all others of the list.
   * @param isOfEvent whether the event that is open is the bad one: then what belongs to it goes with it
   */
  #try(work: () => void, isOfEvent: boolean): void {
    try {
      work()
    } catch (error) {
      if (!(error instanceof CutFormatError)) throw error
      if (this.#faults.length < mostFaults) this.#faults.push(error)
      if (!isOfEvent) return
      this.#open = null
      this.#leaving = null
      this.#isBadEvent = true
    }
  }

  #readLine(line: string, location: string): void {
    if (line === '') return
    const title = /^TITLE:\s*(.*)$/i.exec(line)
    if (title) {
      this.#title = (title[1] as string).trim() || null
      return
    }
    if (/^\d/.test(line)) this.#isBadEvent = false
    else if (this.#isBadEvent && /^(\*|M2\s|AUD\b)/i.test(line)) return
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
    if (!match) {
      this.#endBefore(/^\d+/.exec(line)?.[0] ?? '')
      throw new CutFormatError(
        location,
        `"${shorten(line)}" is not an event: number, reel, track, transition and four timecodes are needed.`,
      )
    }
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
    this.#endBefore(number)
    const [sourceIn, sourceOut] = [read(codes[0], sourceDropFrame), read(codes[1], sourceDropFrame)]
    const [recordIn, recordOut] = [read(codes[2], this.#recordDrop), read(codes[3], this.#recordDrop)]
    const day = framesPerDay(this.#options.rate, sourceDropFrame)
    const source = { startFrame: sourceIn, endFrame: sourceOut < sourceIn ? sourceOut + day : sourceOut }
    const record = this.#recordRange(recordIn, recordOut, framesPerDay(this.#options.rate, this.#recordDrop))
    if (record === null)
      throw new CutFormatError(location, `the record out ${codes[3]} lies before the record in ${codes[2]}.`)
    const key = keyOf(kind, length)
    if (kind.toUpperCase() === 'C' && length !== undefined)
      throw new CutFormatError(location, 'a cut has no length, but one is given.')
    const transition = key ? null : this.#transition(kind, length, location)
    const isBlack = /^(BL|BLACK)$/i.test(reel)
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
      ...(key && { key }),
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
    this.#open = { event, notes: [], channels: channels.toUpperCase(), moreSound: [], isBlack, motionFrame: null }
  }

  /**
   * An event that is refused ends the one before it all the same, unless that is its own beginning: the cut of no
   * length that a transition leaves.
   */
  #endBefore(number: string): void {
    const before = this.#open
    if (!before || (before.event.number === number && isEmpty(before.event))) return
    this.#try(() => this.#close(), true)
    this.#isBadEvent = false
  }

  /**
   * Where an event stands in the record, counted on after midnight. Labels that go back by more than half a day have
   * passed it; an out that lies before its in by less is a fault, for which null stands.
   */
  #recordRange(recordIn: number, recordOut: number, day: number): FrameRange | null {
    if (this.#lastRecordIn - recordIn > day / 2) this.#recordDay += day
    // Another track begins again before midnight.
    else if (recordIn - this.#lastRecordIn > day / 2 && this.#recordDay > 0) this.#recordDay -= day
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
    // The end of the day as a list may write it, for an out.
    if (/^24[:;.]00[:;.]00[:;.]00$/.test(text)) return framesPerDay(this.#options.rate, drop)
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
    const { sourceDropFrame, source, record } = this.#open.event
    const from = this.#timecode(match[3] as string, sourceDropFrame ?? false, location)
    const isLater = from > source.startFrame && from - source.startFrame < record.endFrame - record.startFrame
    this.#open.motionFrame = isLater ? from : null
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
    const from = value(/^(?:FROM\s+)?CLIP\s+NAME\s*:\s*(.*)$/i)
    const to = value(/^TO\s+CLIP\s+NAME\s*:\s*(.*)$/i)
    const reel = value(/^REEL\s+NAME\s*:\s*(.*)$/i)
    if (reel !== null && this.#open) {
      // The field of the event holds one word of eight characters; this says it whole.
      this.#open.event = { ...this.#open.event, reel }
      return
    }
    const path = value(/^(?:SOURCE\s+FILE(?:\s+PATH)?|FROM\s+FILE|FILE\s+PATH)\s*:\s*(.*)$/i)
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
    const leaving = this.#leaving
    this.#open = null
    this.#leaving = null
    if (!open || isEmpty(open.event)) return
    const tracks = [...new Set([...tracksOf(open.channels, this.#hasManyChannels), ...open.moreSound])]
    if (open.isBlack) {
      if (open.event.transition && leaving && !leaving.isBlack)
        for (const track of tracks) this.#fadeOut(track, open.event)
      return
    }
    const event = { ...open.event, source: forwards(open.event, this.#options.rate), notes: open.notes }
    const length = event.source.endFrame - event.source.startFrame
    const recordLength = event.record.endFrame - event.record.startFrame
    if (event.speed === normalSpeed && length !== recordLength) {
      throw new CutFormatError(
        event.location,
        `event ${event.number} takes ${length} source frames for ${recordLength} record frames, and has no motion line that would explain it.`,
      )
    }
    for (const track of tracks) {
      // What is laid over another picture stands on the track above it.
      const isAbove = event.key !== undefined && event.key.part !== 'background' && track.startsWith('V')
      const on = isAbove ? `V${Number(track.slice(1)) + 1}` : track
      const placed = { ...event, track: on, kind: on.startsWith('V') ? ('picture' as const) : ('sound' as const) }
      const before = this.#last.get(on)
      const isFromBlack = event.transition && leaving?.isBlack && before?.record.endFrame === event.record.startFrame
      const whole: CutEvent =
        isFromBlack && event.transition
          ? { ...placed, transition: { ...event.transition, fromBlack: true as const } }
          : placed
      const parts = open.motionFrame === null ? [whole] : inTwo(whole, open.motionFrame, this.#options.rate)
      for (const part of parts) {
        this.#events.push(part)
        this.#last.set(on, part)
      }
    }
  }

  /** The event that ends where black begins goes over to it. */
  #fadeOut(track: string, black: CutEvent): void {
    const before = this.#last.get(track)
    if (!before || before.record.endFrame !== black.record.startFrame)
      throw new CutFormatError(black.location, `nothing ends on ${track} where event ${black.number} goes to black.`)
    const faded = { ...before, fadeOut: { ...(black.transition as Transition), number: black.number } }
    this.#events[this.#events.lastIndexOf(before)] = faded
    this.#last.set(track, faded)
  }

  #leaveOutOverlaps(): void {
    this.#events.sort((a, b) => compareTracks(a.track, b.track) || a.record.startFrame - b.record.startFrame)
    const kept: CutEvent[] = []
    for (const event of this.#events) {
      const before = kept.at(-1)
      if (before?.track === event.track && event.record.startFrame < before.record.endFrame) {
        const reason = `event ${event.number} overlaps event ${before.number} on track ${event.track}.`
        if (this.#faults.length < mostFaults) this.#faults.push(new CutFormatError(event.location, reason))
      } else kept.push(event)
    }
    this.#events.length = 0
    for (const event of kept) this.#events.push(event)
    this.#faults.sort((a, b) => lineOf(a) - lineOf(b))
  }
}

const lineOf = ({ location }: CutFormatError): number => Number(location.replace(/\D/g, ''))

const isEmpty = (event: CutEvent): boolean => event.record.startFrame === event.record.endFrame
const shorten = (text: string): string => (text.length > 60 ? `${text.slice(0, 57)}…` : text)
