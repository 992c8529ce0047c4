import { baseName } from '../../naming/index.ts'
import { formatRate, formatTimecode, sameRate } from '../../time/index.ts'
import { type Cut, type CutEvent, CutFormatError } from '../model.ts'

/**
 * Writes a cut as a CMX 3600 list.
 * @throws CutFormatError for a source of another rate than the list's: it has one for both
 */
export function writeEdl(cut: Cut): string {
  const lines = [`TITLE: ${onOneLine(cut.name)}`, `FCM: ${cut.dropFrame ? 'DROP FRAME' : 'NON-DROP FRAME'}`, '']
  const label = (frame: number, drop: boolean): string => formatTimecode(frame, cut.rate, drop)
  const previous = new Map<string, CutEvent>()
  cut.events.forEach((event, index) => {
    if (!sameRate(event.sourceRate, cut.rate)) {
      throw new CutFormatError(
        `event ${event.number}`,
        `its source counts at ${formatRate(event.sourceRate)} and the list at ${formatRate(cut.rate)}: an EDL has one rate for both. Hand it off as OTIO.`,
      )
    }
    const number = String(index + 1).padStart(3, '0')
    const track = event.track.replace(/^([VA])1$/, '$1').padEnd(5)
    const source = { startFrame: event.source.startFrame, endFrame: event.source.endFrame }
    // Each label says its own mode, by the sign before its frames.
    const line = (kind: string, e: Pick<CutEvent, 'reel' | 'sourceDropFrame'>, codes: readonly number[]): string => {
      const sourceDrop = e.sourceDropFrame ?? cut.dropFrame
      const labels = codes.map((frame, index) => label(frame, index < 2 ? sourceDrop : cut.dropFrame))
      return `${number}  ${reelField(e.reel)} ${track} ${kind.padEnd(8)} ${labels.join(' ')}`
    }
    const before = previous.get(event.track)
    const body = [source.startFrame, source.endFrame, event.record.startFrame, event.record.endFrame]
    if (event.transition) {
      const left = before ? before.source.endFrame : 0
      lines.push(line('C', before ?? { reel: 'BL' }, [left, left, event.record.startFrame, event.record.startFrame]))
      const kind = event.transition.kind === 'dissolve' ? 'D' : `W${event.transition.wipeCode ?? '001'}`
      lines.push(line(`${kind.padEnd(4)} ${String(event.transition.durationFrames).padStart(3, '0')}`, event, body))
    } else lines.push(line('C', event, body))
    if (event.speed.numerator !== event.speed.denominator) {
      const framesPerSecond =
        (event.speed.numerator * cut.rate.numerator) / (event.speed.denominator * cut.rate.denominator)
      const speed = `${framesPerSecond < 0 ? '-' : ''}${Math.abs(framesPerSecond).toFixed(3).padStart(7, '0')}`
      const from = label(source.startFrame, event.sourceDropFrame ?? cut.dropFrame)
      lines.push(`M2   ${reelField(event.reel)} ${speed} ${from}`)
    }
    if (event.transition && before?.clipName) lines.push(`* FROM CLIP NAME: ${onOneLine(before.clipName)}`)
    const name = event.clipName ?? (event.path ? baseName(event.path) : null)
    if (name) lines.push(`* ${event.transition ? 'TO' : 'FROM'} CLIP NAME: ${onOneLine(name)}`)
    if (event.reel && /\s/.test(event.reel)) lines.push(`* REEL NAME: ${onOneLine(event.reel)}`)
    if (event.path) lines.push(`* SOURCE FILE: ${pathOnOneLine(event.path)}`)
    for (const note of event.notes) lines.push(note.startsWith('*') || note.startsWith('>>>') ? note : `* ${note}`)
    previous.set(event.track, event)
  })
  return `${lines.join('\r\n')}\r\n`
}

const onOneLine = (text: string): string => text.replace(/[\r\n]+/g, ' ')

/** A list is lines of text: a path with a line break in it goes out as a file URL. */
const pathOnOneLine = (path: string): string =>
  /[\r\n]/.test(path) ? `file://${path.split('/').map(encodeURIComponent).join('/')}` : path

/** A reel as one word of the line; a list keeps no blanks in it. */
const reelField = (reel: string | null): string => (reel ?? 'AX').replace(/\s+/g, '_').padEnd(8)
