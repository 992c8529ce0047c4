import { count } from '../text/index.ts'
import type { Rate } from '../time/index.ts'
import { type BroadcastExtension, parseBext } from './bext.ts'
import { parseIxml, type RecorderNotes } from './ixml.ts'

/** What a sound recorder wrote about a recording, from both of its chunks. */
export interface SoundNotes {
  readonly project: string | null
  readonly scene: string | null
  readonly take: string | null
  readonly tape: string | null
  readonly note: string | null
  readonly circled: boolean | null
  readonly trackNames: readonly string[]
  readonly timecodeRate: Rate | null
  readonly dropFrame: boolean | null
  readonly speedNote: string | null
  readonly originator: string | null
  readonly description: string | null
  readonly originationDate: string | null
  readonly originationTime: string | null
  /** Samples since midnight. */
  readonly timeReferenceSamples: number | null
  readonly problems: readonly string[]
}

/**
 * Puts together what the chunks "bext" and "iXML" of one file say. Where both say when the recording starts, bext is
 * believed and a difference is told.
 * @param chunks either may be missing
 * @param file what the file itself shows: its channels and sample rate
 * @returns null when neither chunk is there
 */
export function readSoundNotes(
  chunks: { bext: Uint8Array | null; ixml: Uint8Array | null },
  file: { channels: number; sampleRate: number },
  today: string,
): SoundNotes | null {
  if (chunks.bext === null && chunks.ixml === null) return null
  const bext = chunks.bext ? parseBext(chunks.bext, today) : null
  const ixml = chunks.ixml ? parseIxml(new TextDecoder('utf-8').decode(chunks.ixml)) : null
  const lines = descriptionLines(bext?.description ?? null)
  const problems = [...(bext?.problems ?? []), ...(ixml?.problems ?? [])]
  const tracks = ixml?.trackNames.length ? ixml.trackNames : tracksOf(lines)
  if (tracks.length > file.channels)
    problems.push(`Its notes name ${count(tracks.length, 'track')}; the file has ${count(file.channels, 'channel')}.`)
  return {
    project: ixml?.project ?? lines.get('PROJECT') ?? null,
    scene: ixml?.scene ?? lines.get('SCENE') ?? null,
    take: ixml?.take ?? lines.get('TAKE') ?? null,
    tape: ixml?.tape ?? lines.get('TAPE') ?? null,
    note: ixml?.note ?? lines.get('NOTE') ?? null,
    circled: ixml?.circled ?? null,
    trackNames: tracks.slice(0, file.channels),
    timecodeRate: ixml?.timecodeRate ?? null,
    dropFrame: ixml?.dropFrame ?? null,
    speedNote: ixml?.speedNote ?? null,
    originator: bext?.originator ?? null,
    description: bext?.description ?? null,
    originationDate: bext?.originationDate ?? null,
    originationTime: bext?.originationTime ?? null,
    timeReferenceSamples: startOf(bext, ixml, file.sampleRate, problems),
    problems,
  }
}

function startOf(
  bext: BroadcastExtension | null,
  ixml: RecorderNotes | null,
  sampleRate: number,
  problems: string[],
): number | null {
  const own = bext?.timeReferenceSamples ?? null
  const stamp = ixml?.timestampSamples ?? null
  // A timestamp counted at another rate is the same moment only when it divides exactly.
  const counted = ixml?.timestampSampleRate ?? sampleRate
  const scaled = stamp === null ? null : (BigInt(stamp) * BigInt(sampleRate)) / BigInt(counted)
  const other = scaled === null || scaled > BigInt(Number.MAX_SAFE_INTEGER) ? null : Number(scaled)
  if (own !== null && other !== null && own !== other)
    problems.push(
      `Its notes contradict each other: bext starts ${own} samples after midnight, iXML ${other}. bext is believed.`,
    )
  const start = own ?? other
  if (start !== null && sampleRate > 0 && start >= 86_400 * sampleRate)
    problems.push(`It claims to start ${start} samples after midnight, which is past the next midnight.`)
  return start
}

/** Recorders without iXML write lines such as "sSCENE=12A" into the description, often parted by line breaks or ";". */
function descriptionLines(description: string | null): ReadonlyMap<string, string> {
  const lines = new Map<string, string>()
  for (const part of description?.split(/[\r\n;]+/) ?? []) {
    const match = /^\s*[a-z]?([A-Z][A-Z0-9_]*)=(.*)$/.exec(part)
    const value = match?.[2]?.trim()
    if (match?.[1] && value) lines.set(match[1], value)
  }
  return lines
}

function tracksOf(lines: ReadonlyMap<string, string>): string[] {
  const names: string[] = []
  for (const [key, value] of lines) {
    const match = /^TRK([1-9]\d?)$/.exec(key)
    if (match) names[Number(match[1]) - 1] = value
  }
  return Array.from(names, (name) => name ?? '')
}
