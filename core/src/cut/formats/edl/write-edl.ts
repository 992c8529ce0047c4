import { baseName, isNoReel } from '../../../naming/index.ts'
import { formatRate, formatTimecode, sameRate } from '../../../time/index.ts'
import { type Cut, type CutEvent, CutFormatError, type Transition } from '../../model.ts'
import { asCarried } from '../carries.ts'
import type { WriteOptions } from '../format.ts'
import { channelField, type EdlEntry, planEdl } from './edl-lines.ts'

/**
 * Writes a cut as a CMX 3600 list.
 * @throws CutFormatError for a source of another rate than the list's: it has one for both
 */
export function writeEdl(whole: Cut, options: WriteOptions = {}): string {
  const cut = asCarried(whole, 'edl')
  const other = cut.events.find((event) => !sameRate(event.sourceRate, cut.rate))
  if (other)
    throw new CutFormatError(
      `event ${other.number}`,
      `its source counts at ${formatRate(other.sourceRate)} and the list at ${formatRate(cut.rate)}: ${oneRate}`,
    )
  if (cut.events.length === 0)
    throw new CutFormatError('the cut', 'every event is switched off, and an EDL has only what is shown.')
  const lines = [`TITLE: ${onOneLine(cut.name)}`, `FCM: ${cut.dropFrame ? 'DROP FRAME' : 'NON-DROP FRAME'}`, '']
  const { entries, reelWords } = planEdl(cut, options)
  const writer = new EntryWriter(cut, reelWords)
  for (const entry of entries) lines.push(...writer.write(entry))
  return `${lines.join('\r\n')}\r\n`
}

const oneRate = 'an EDL has one rate for both. Hand it off as OTIO or XML.'

/** What a line says before its timecodes. */
interface LineHead {
  readonly number: string
  readonly reel: string
  readonly field: string
  readonly kind: string
}

class EntryWriter {
  readonly #cut: Cut
  readonly #reelWords: ReadonlyMap<string, string>

  constructor(cut: Cut, reelWords: ReadonlyMap<string, string>) {
    this.#cut = cut
    this.#reelWords = reelWords
  }

  write({ number, event, tracks, from, fadeNumber }: EdlEntry): string[] {
    const cut = this.#cut
    const { field, more } = channelField(event.key ? tracks.map(below(event)) : tracks)
    const { source, record, transition, speed } = event
    const lines: string[] = []
    const body = [source.startFrame, source.endFrame, record.startFrame, record.endFrame]
    if (transition) {
      const at = [record.startFrame, record.startFrame]
      const left = from ? [from.event.source.endFrame, from.event.source.endFrame] : [0, 0]
      const reel = from ? this.#reelWord(from.event.reel) : 'BL'
      lines.push(this.#line({ number, reel, field, kind: 'C' }, from?.event ?? event, [...left, ...at]))
    }
    const kind = transition ? transitionField(transition) : event.key ? keyField(event.key) : 'C'
    lines.push(this.#line({ number, reel: this.#reelWord(event.reel), field, kind }, event, body))
    const audLine = more.length ? [`AUD  ${more.map((channel) => String(channel).padStart(2)).join('  ')}`] : []
    lines.push(...audLine)
    if (speed.numerator !== speed.denominator) {
      const framesPerSecond = (speed.numerator * cut.rate.numerator) / (speed.denominator * cut.rate.denominator)
      const words = `${framesPerSecond < 0 ? '-' : ''}${Math.abs(framesPerSecond).toFixed(3).padStart(7, '0')}`
      lines.push(`M2   ${this.#reelWord(event.reel).padEnd(8)} ${words} ${this.#source(source.startFrame, event)}`)
    }
    if (from?.event.clipName) lines.push(`* FROM CLIP NAME: ${onOneLine(from.event.clipName)}`)
    const name = event.clipName ?? (event.path ? baseName(event.path) : null)
    if (name) lines.push(`* ${transition ? 'TO' : 'FROM'} CLIP NAME: ${onOneLine(name)}`)
    const isWhole = event.reel === null || (this.#reelWord(event.reel) === event.reel && !isNoReel(event.reel))
    if (!isWhole) lines.push(`* REEL NAME: ${onOneLine(event.reel as string)}`)
    if (event.path) lines.push(`* SOURCE FILE: ${pathOnOneLine(event.path)}`)
    for (const note of event.notes) lines.push(isLineOfList(note) ? note : `* ${onOneLine(note)}`)
    if (event.fadeOut && fadeNumber) {
      lines.push(...this.#fade(event, event.fadeOut, fadeNumber, field))
      lines.push(...audLine)
    }
    return lines
  }

  #fade(event: CutEvent, fade: Transition, number: string, field: string): string[] {
    const at = event.record.endFrame
    const left = event.source.endFrame
    const reel = this.#reelWord(event.reel)
    const black = { number, reel: 'BL', field, kind: transitionField(fade) }
    return [
      this.#line({ number, reel, field, kind: 'C' }, event, [left, left, at, at]),
      this.#line(black, event, [0, fade.durationFrames, at, at + fade.durationFrames], this.#cut.dropFrame),
    ]
  }

  /** Each label says its own mode, by the sign before its frames. */
  #line(head: LineHead, event: CutEvent, codes: readonly number[], sourceDrop?: boolean): string {
    const drop = sourceDrop ?? event.sourceDropFrame ?? this.#cut.dropFrame
    const labels = codes.map((frame, index) =>
      formatTimecode(frame, this.#cut.rate, index < 2 ? drop : this.#cut.dropFrame),
    )
    return `${head.number}  ${head.reel.padEnd(8)} ${head.field.padEnd(5)} ${head.kind.padEnd(8)} ${labels.join(' ')}`
  }

  #source = (frame: number, event: CutEvent): string =>
    formatTimecode(frame, this.#cut.rate, event.sourceDropFrame ?? this.#cut.dropFrame)

  #reelWord = (reel: string | null): string => (reel === null ? 'AX' : (this.#reelWords.get(reel) ?? 'AX'))
}

/** What is laid over another picture stands on the track above it; in a list both are of one. */
const below =
  ({ key }: CutEvent) =>
  (track: string): string =>
    key?.part === 'background' || !track.startsWith('V') ? track : `V${Math.max(1, Number(track.slice(1)) - 1)}`

const transitionField = ({ kind, wipeCode, durationFrames }: Transition): string =>
  `${(kind === 'dissolve' ? 'D' : `W${wipeCode ?? '001'}`).padEnd(4)} ${String(durationFrames).padStart(3, '0')}`

function keyField({ part, durationFrames }: NonNullable<CutEvent['key']>): string {
  if (part === 'background') return 'K B'
  return `${part === 'foreground out' ? 'K O ' : 'K   '} ${String(durationFrames).padStart(3, '0')}`
}

const isLineOfList = (note: string): boolean => /^(\*|>>>|SPLIT:|GPI\b|KEY\b|FINAL\b|BLK\b)/i.test(note)

const onOneLine = (text: string): string => text.replace(/[\r\n]+/g, ' ')

/** A list is lines of text: a path with a line break in it goes out as a file URL. */
const pathOnOneLine = (path: string): string =>
  /[\r\n]/.test(path) ? `file://${path.split('/').map(encodeURIComponent).join('/')}` : path
