import {
  type Candidate,
  type ChecksummedFile,
  CubeError,
  type Cut,
  type CutEvent,
  CutFaults,
  CutFormatError,
  type CutFormatId,
  cutFormats,
  formatNumber,
  type HashList,
  HashListError,
  isWellFormed,
  type LeftOut,
  type ListContent,
  LogError,
  type LogTable,
  leftOutOf,
  PatternError,
  type Printed,
  type ProposalRow,
  parseAle,
  parseChecksums,
  parseDelimited,
  parseHashList,
  patternReader,
  propose,
  type Rate,
  type ReelRule,
  ReelRuleError,
  type Replacement,
  ReplacementError,
  readCube,
  readCutList,
  reelReader,
  remember,
  replacer,
  type Shortlist,
  type Wanted,
  type WriteOptions,
  type WrittenList,
  writeInAll,
} from '@ennick/core'

import { printPdf } from './print-pdf.ts'

/** What is read apart from everything else, by kind: what is asked and what is answered. */
export interface Readings {
  cut: {
    asked: { fileName: string; content: ListContent; rate: Rate; takeGood: boolean }
    answered: { format: string; cut: Cut }
  }
  /** A cut in one format or, where none is named, in every one; each proven. */
  lists: { asked: { cut: Cut; options: WriteOptions; format: CutFormatId | null }; answered: WrittenList[] }
  /** Something to read, for paper. */
  pdf: { asked: Printed; answered: Uint8Array }
  log: { asked: { fileName: string; text: string }; answered: { format: 'ALE' | 'CSV' | 'TSV'; table: LogTable } }
  cube: { asked: { text: string }; answered: ReturnType<typeof readCube> }
  checksums: { asked: { text: string }; answered: ChecksummedFile[] }
  'hash list': { asked: { text: string }; answered: HashList }
  replacement: { asked: { replacement: Replacement; texts: readonly string[] }; answered: string[] }
  /** Null where the rule does not fit. */
  reels: { asked: { rule: ReelRule; paths: readonly string[] }; answered: (string | null)[] }
  /** What a pattern reads out of each name; null where it does not fit. */
  'names apart': {
    asked: { pattern: string; fieldIds: ReadonlySet<string>; names: readonly string[] }
    answered: (ReadonlyMap<string, string> | null)[]
  }
  proposal: {
    asked: {
      wanted: readonly Wanted[]
      candidates: readonly Candidate[]
      suffixes: readonly string[]
      shortlist: Shortlist
      isShared: boolean
    }
    answered: ProposalRow[]
  }
}

export type ReadingKind = keyof Readings
export type ReadingTask = { [K in ReadingKind]: { kind: K; asked: Readings[K]['asked'] } }[ReadingKind]

/** An error goes from thread to thread in its parts: its class would be lost on the way. */
export type ReadingOutcome =
  | { readonly answered: Readings[ReadingKind]['answered'] }
  | { readonly refused: string; readonly location: string | null; readonly faults: readonly LeftOut[] }
  | { readonly tooDeep: true }

const refusals = [CutFormatError, LogError, CubeError, HashListError, ReplacementError, ReelRuleError, PatternError]

/** Runs in a thread of its own: however long a text takes to be read, nobody else waits for it. */
export default async function read(task: ReadingTask): Promise<ReadingOutcome> {
  try {
    return { answered: await answer(task) }
  } catch (error) {
    if (refusals.some((kind) => error instanceof kind))
      return {
        refused: messageOf(error as Error),
        location: error instanceof CutFormatError ? error.location : null,
        faults: error instanceof CutFaults ? error.faults.map(leftOutOf) : [],
      }
    if (error instanceof RangeError && /call stack/.test(error.message)) return { tooDeep: true }
    throw error
  }
}

/** Of many faults the first, and how many there are: all of them go along. */
function messageOf(error: Error): string {
  if (!(error instanceof CutFaults) || error.faults.length === 1) return error.message
  return `${error.faults.length} parts of it are wrong. ${error.faults[0]?.message}`
}

function answer(task: ReadingTask): Readings[ReadingKind]['answered'] | Promise<Uint8Array> {
  switch (task.kind) {
    case 'cut': {
      const { fileName, content, rate, takeGood } = task.asked
      const { cut, format } = readCutList(content, { rate, fileName, takeGood })
      if (cut.events.length > mostEvents)
        throw new CutFormatError(
          fileName,
          `it has ${formatNumber(cut.events.length)} events; ${formatNumber(mostEvents)} are read at most.`,
        )
      for (const event of cut.events) assertPlainText(event)
      return { format, cut }
    }
    case 'lists':
      return writeInAll(
        task.asked.cut,
        cutFormats.filter(({ id }) => (task.asked.format ?? id) === id),
        task.asked.options,
      )
    case 'pdf':
      return printPdf(task.asked)
    case 'log':
      return readLog(task.asked)
    case 'cube':
      return readCube(task.asked.text)
    case 'checksums':
      return parseChecksums(task.asked.text)
    case 'hash list':
      return parseHashList(task.asked.text)
    case 'replacement':
      return task.asked.texts.map(replacer(task.asked.replacement))
    case 'reels': {
      const read = reelReader(task.asked.rule)
      return task.asked.paths.map((path) => read(path) ?? null)
    }
    case 'names apart':
      return task.asked.names.map(remember(patternReader(task.asked.pattern, task.asked.fieldIds)))
    case 'proposal': {
      const { wanted, candidates, suffixes, shortlist, isShared } = task.asked
      return propose(wanted, candidates, suffixes, shortlist, isShared)
    }
  }
}

/** More than any programme has, and few enough to be shown and checked. */
const mostEvents = 100_000

/** A list may smuggle in, by escapes, what no text is: a zero character or half of a character pair. */
function assertPlainText(event: CutEvent): void {
  for (const value of [event.clipName, event.reel, event.path, ...event.notes]) {
    if (value !== null && (value.includes('\0') || !isWellFormed(value)))
      throw new CutFormatError(event.location, 'a name or path in it holds characters that are no text.')
  }
}

function readLog({ fileName, text }: Readings['log']['asked']): Readings['log']['answered'] {
  if (/\.ale$/i.test(fileName) || /^\s*heading\s*\n/i.test(text)) return { format: 'ALE', table: parseAle(text) }
  const table = parseDelimited(text)
  return { format: table.delimiter === '\t' ? 'TSV' : 'CSV', table }
}
