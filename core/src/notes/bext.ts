/** What the broadcast extension of a WAV or RF64 file says (EBU Tech 3285, section 2.3). */
export interface BroadcastExtension {
  readonly description: string | null
  readonly originator: string | null
  readonly originatorReference: string | null
  /** ISO, "2026-11-04". */
  readonly originationDate: string | null
  /** "09:14:00". */
  readonly originationTime: string | null
  /** Samples since midnight. */
  readonly timeReferenceSamples: number | null
  /** What is wrong with the chunk, in words; the rest of it was read. */
  readonly problems: readonly string[]
}

/** Bytes up to and including the version: what every edition of the standard has. */
const shortestBytes = 348

/**
 * Reads the content of a "bext" chunk. Nothing is thrown: a recording is not lost over a bad note.
 * @param today the latest date that it may be anywhere, against which one in the future is seen
 */
export function parseBext(bytes: Uint8Array, today: string): BroadcastExtension {
  const problems: string[] = []
  if (bytes.length < shortestBytes) {
    problems.push(`Its bext chunk is cut off: ${bytes.length} of at least ${shortestBytes} bytes.`)
  }
  const text = (start: number, length: number): string | null => readText(bytes, start, length)
  const date = readDate(text(320, 10), today, problems)
  const time = readTime(text(330, 8), problems)
  return {
    description: text(0, 256),
    originator: text(256, 32),
    originatorReference: text(288, 32),
    originationDate: date,
    originationTime: time,
    timeReferenceSamples: bytes.length >= 346 ? readTimeReference(bytes, problems) : null,
    problems,
  }
}

function readText(bytes: Uint8Array, start: number, length: number): string | null {
  const field = bytes.subarray(start, Math.min(start + length, bytes.length))
  const end = field.indexOf(0)
  const used = end === -1 ? field : field.subarray(0, end)
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(used)
  } catch {
    text = new TextDecoder('windows-1252').decode(used)
  }
  return text.trim() || null
}

function readDate(text: string | null, today: string, problems: string[]): string | null {
  if (text === null) return null
  // The standard leaves the separator to the writer.
  const match = /^(\d{4})[-_:. /](\d{2})[-_:. /](\d{2})$/.exec(text)
  const iso = match ? `${match[1]}-${match[2]}-${match[3]}` : null
  if (iso === null || !isRealDate(iso)) {
    problems.push(`Its bext date “${text}” is no date.`)
    return null
  }
  if (iso > today) problems.push(`Its bext date ${iso} is in the future: was the recorder’s clock set?`)
  return iso
}

/** Whether an ISO date stands in the calendar. */
export function isRealDate(iso: string): boolean {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(iso)
  if (!match) return false
  const date = new Date(`${iso}T00:00:00Z`)
  return !Number.isNaN(date.getTime()) && date.toISOString().slice(0, 10) === iso
}

function readTime(text: string | null, problems: string[]): string | null {
  if (text === null) return null
  const match = /^([01]\d|2[0-3])[-_:. ]([0-5]\d)[-_:. ]([0-5]\d)$/.exec(text)
  if (match) return `${match[1]}:${match[2]}:${match[3]}`
  problems.push(`Its bext time “${text}” is no time of day.`)
  return null
}

function readTimeReference(bytes: Uint8Array, problems: string[]): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const samples = view.getBigUint64(338, true)
  if (samples > BigInt(Number.MAX_SAFE_INTEGER)) {
    problems.push(`Its bext time reference of ${samples} samples is no time of day.`)
    return null
  }
  return Number(samples)
}
