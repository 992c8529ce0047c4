import {
  type Candidate,
  CubeError,
  type Cut,
  type CutEvent,
  CutFormatError,
  type HashList,
  HashListError,
  isWellFormed,
  LogError,
  type LogTable,
  type ProposalRow,
  parseAle,
  parseDelimited,
  parseHashList,
  propose,
  type Rate,
  type ReelRule,
  ReelRuleError,
  type Replacement,
  ReplacementError,
  readCube,
  recogniseCutFormat,
  reelReader,
  replacer,
  type Wanted,
} from '@ennick/core'

/** What is read apart from everything else, by kind: what is asked and what is answered. */
export interface Readings {
  cut: { asked: { fileName: string; text: string; rate: Rate }; answered: { format: string; cut: Cut } }
  log: { asked: { fileName: string; text: string }; answered: { format: 'ALE' | 'CSV' | 'TSV'; table: LogTable } }
  cube: { asked: { text: string }; answered: ReturnType<typeof readCube> }
  'hash list': { asked: { text: string }; answered: HashList }
  replacement: { asked: { replacement: Replacement; texts: readonly string[] }; answered: string[] }
  /** Null where the rule does not fit. */
  reels: { asked: { rule: ReelRule; paths: readonly string[] }; answered: (string | null)[] }
  proposal: {
    asked: {
      wanted: readonly Wanted[]
      candidates: readonly Candidate[]
      suffixes: readonly string[]
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
  | { readonly refused: string; readonly location: string | null }
  | { readonly tooDeep: true }

const refusals = [CutFormatError, LogError, CubeError, HashListError, ReplacementError, ReelRuleError]

/** Runs in a thread of its own: however long a text takes to be read, nobody else waits for it. */
export default function read(task: ReadingTask): ReadingOutcome {
  try {
    return { answered: answer(task) }
  } catch (error) {
    if (refusals.some((kind) => error instanceof kind))
      return { refused: (error as Error).message, location: error instanceof CutFormatError ? error.location : null }
    if (error instanceof RangeError && /call stack/.test(error.message)) return { tooDeep: true }
    throw error
  }
}

function answer(task: ReadingTask): Readings[ReadingKind]['answered'] {
  switch (task.kind) {
    case 'cut': {
      const { fileName, text, rate } = task.asked
      const format = recogniseCutFormat(fileName, text)
      const cut = format.read(text, { rate, fileName })
      if (cut.events.length > mostEvents)
        throw new CutFormatError(fileName, `it has ${cut.events.length} events; ${mostEvents} are read at most.`)
      for (const event of cut.events) assertPlainText(event)
      return { format: format.id, cut }
    }
    case 'log':
      return readLog(task.asked)
    case 'cube':
      return readCube(task.asked.text)
    case 'hash list':
      return parseHashList(task.asked.text)
    case 'replacement':
      return task.asked.texts.map(replacer(task.asked.replacement))
    case 'reels': {
      const read = reelReader(task.asked.rule)
      return task.asked.paths.map((path) => read(path) ?? null)
    }
    case 'proposal':
      return propose(task.asked.wanted, task.asked.candidates, task.asked.suffixes, task.asked.isShared)
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
