import { allowsDropFrame, formatRate, parseRate, type Rate } from '../time/index.ts'
import { childrenOf, parseXml, textOf, type XmlElement, XmlError } from './xml.ts'

/** What a recorder's iXML chunk says. Null where it says nothing. */
export interface RecorderNotes {
  readonly project: string | null
  readonly scene: string | null
  readonly take: string | null
  readonly tape: string | null
  readonly note: string | null
  readonly circled: boolean | null
  readonly timecodeRate: Rate | null
  readonly dropFrame: boolean | null
  /** Samples since midnight, and the rate at which they were counted. */
  readonly timestampSamples: number | null
  readonly timestampSampleRate: number | null
  readonly speedNote: string | null
  /** One name for each track in the order of the file's channels; empty where a track has none. */
  readonly trackNames: readonly string[]
  /** What is wrong with the chunk, in words; the rest of it was read. */
  readonly problems: readonly string[]
}

const nothing: Omit<RecorderNotes, 'problems'> = {
  project: null,
  scene: null,
  take: null,
  tape: null,
  note: null,
  circled: null,
  timecodeRate: null,
  dropFrame: null,
  timestampSamples: null,
  timestampSampleRate: null,
  speedNote: null,
  trackNames: [],
}

/** Reads the text of an "iXML" chunk. Nothing is thrown: a recording is not lost over a bad note. */
export function parseIxml(text: string): RecorderNotes {
  const cleaned = text
    .replace(/\0+$/, '')
    .replace(/^\uFEFF/, '')
    .trim()
  let root: { name: string; element: XmlElement }
  try {
    root = parseXml(cleaned)
  } catch (error) {
    if (error instanceof XmlError) return { ...nothing, problems: [`Its iXML chunk is not read: ${error.message}`] }
    throw error
  }
  if (root.name.toUpperCase() !== 'BWFXML')
    return { ...nothing, problems: [`Its iXML chunk is not read: it begins with <${root.name}>, not with <BWFXML>.`] }
  const problems: string[] = []
  const top = root.element
  const speed = childrenOf(top, 'SPEED')[0]
  const timecodeRate = speed ? readRate(speed, problems) : null
  return {
    project: textOf(top, 'PROJECT'),
    scene: textOf(top, 'SCENE'),
    take: textOf(top, 'TAKE'),
    tape: textOf(top, 'TAPE'),
    note: textOf(top, 'NOTE'),
    circled: readCircled(textOf(top, 'CIRCLED'), problems),
    timecodeRate,
    dropFrame: speed ? readFlag(speed, timecodeRate, problems) : null,
    ...(speed ? readTimestamp(speed, problems) : { timestampSamples: null, timestampSampleRate: null }),
    speedNote: speed ? textOf(speed, 'NOTE') : null,
    trackNames: readTracks(top, problems),
    problems,
  }
}

function readCircled(text: string | null, problems: string[]): boolean | null {
  if (text === null) return null
  if (/^(true|1|yes)$/i.test(text)) return true
  if (/^(false|0|no)$/i.test(text)) return false
  problems.push(`Its iXML says CIRCLED “${text}”, which is neither TRUE nor FALSE.`)
  return null
}

function readRate(speed: XmlElement, problems: string[]): Rate | null {
  const text = textOf(speed, 'TIMECODE_RATE')
  if (text === null) return null
  const rate = parseRate(text)
  if (!rate) problems.push(`Its iXML says TIMECODE_RATE “${text}”, which is no rate.`)
  return rate ?? null
}

function readFlag(speed: XmlElement, rate: Rate | null, problems: string[]): boolean | null {
  const text = textOf(speed, 'TIMECODE_FLAG')?.toUpperCase()
  if (text === undefined) return null
  if (text === 'NDF' || text === 'ND') return false
  if (text !== 'DF') {
    problems.push(`Its iXML says TIMECODE_FLAG “${text}”, which is neither NDF nor DF.`)
    return null
  }
  if (rate && !allowsDropFrame(rate)) {
    problems.push(`Its iXML contradicts itself: drop-frame at ${formatRate(rate)}, which has none.`)
    return false
  }
  return true
}

function readTimestamp(
  speed: XmlElement,
  problems: string[],
): Pick<RecorderNotes, 'timestampSamples' | 'timestampSampleRate'> {
  const high = textOf(speed, 'TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI')
  const low = textOf(speed, 'TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO')
  const rateText = textOf(speed, 'TIMESTAMP_SAMPLE_RATE') ?? textOf(speed, 'FILE_SAMPLE_RATE')
  const timestampSampleRate = rateText && /^\d{4,6}$/.test(rateText) ? Number(rateText) : null
  if (high === null && low === null) return { timestampSamples: null, timestampSampleRate }
  if (!/^\d{1,10}$/.test(high ?? '0') || !/^\d{1,10}$/.test(low ?? '0')) {
    problems.push(`Its iXML says a timestamp of “${high ?? ''}” and “${low ?? ''}”, which are no counts of samples.`)
    return { timestampSamples: null, timestampSampleRate }
  }
  const samples = BigInt(high ?? 0) * 4_294_967_296n + BigInt(low ?? 0)
  return { timestampSamples: samples <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(samples) : null, timestampSampleRate }
}

/** The interleave index says which channel of the file a track is; without it the order of the list does. */
function readTracks(top: XmlElement, problems: string[]): string[] {
  const list = childrenOf(top, 'TRACK_LIST')[0]
  if (!list) return []
  const tracks = childrenOf(list, 'TRACK')
  const claimed = textOf(list, 'TRACK_COUNT')
  if (claimed !== null && Number(claimed) !== tracks.length)
    problems.push(`Its iXML contradicts itself: it claims ${claimed} tracks and lists ${tracks.length}.`)
  const names: string[] = []
  tracks.forEach((track, index) => {
    const place = textOf(track, 'INTERLEAVE_INDEX')
    const at = place && /^[1-9]\d{0,2}$/.test(place) ? Number(place) - 1 : index
    names[at] = textOf(track, 'NAME') ?? textOf(track, 'FUNCTION') ?? ''
  })
  return Array.from(names, (name) => name ?? '')
}
