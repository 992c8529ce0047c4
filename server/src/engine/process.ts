import { existsSync } from 'node:fs'
import { execa } from 'execa'
import type { Pause } from './pause.ts'

export interface Finished {
  readonly exitCode: number
  readonly stdout: string
  readonly stderr: string
}

/** A program was ended by the system, or by a person, before it was done: that says nothing of what it worked on. */
export class EndedFromOutside extends Error {
  override readonly name = 'EndedFromOutside'
  constructor(how: string) {
    super(
      `The encoder was ended from outside (${how}) before it was done, as a system does whose memory runs out. ` +
        'That says nothing of the files. Retry; if it happens again, let fewer things run beside it.',
    )
  }
}

/** Signals by which others end a program; by those that are not among them it falls over its own work. */
const fromOutside: readonly string[] = ['SIGKILL', 'SIGTERM', 'SIGINT', 'SIGHUP', 'SIGQUIT', 'SIGXCPU']
/** The encoder's own end when it is asked to end, without a word. */
const askedToEnd = 255

interface Ended {
  readonly exitCode?: number | undefined
  readonly signal?: string | undefined
  readonly stderr: string | Uint8Array
}

/** How a program that has ended was ended, if that was not by itself. */
export function endedFromOutside({ exitCode, signal, stderr }: Ended): EndedFromOutside | null {
  if (signal && fromOutside.includes(signal)) return new EndedFromOutside(signal)
  return exitCode === askedToEnd && stderr.length === 0 ? new EndedFromOutside('it was asked to end') : null
}

/** What a program that has ended came to, unless it was ended. @throws EndedFromOutside */
export function asEnded<E extends Ended>(result: E): E {
  const ended = endedFromOutside(result)
  if (ended) throw ended
  return result
}

export interface RunOptions {
  readonly signal?: AbortSignal | undefined
  /** Called with each line of stdout as it comes. */
  readonly onLine?: (line: string) => void
  readonly timeoutMilliseconds?: number
  /** Whether it gives way to all that does not. */
  readonly isPolite?: boolean
  /** Stops the program where it is, and lets it go on. */
  readonly pause?: Pause | undefined
}

/** What gives way: it gets a tenth of a busy core, so that it is slow and never stands still. */
export const politely = ['nice', '-n', '10']

/** Lets a child die with its parent even when the parent is killed without warning (Linux). */
export const leash = existsSync('/usr/bin/setpriv') ? ['/usr/bin/setpriv', '--pdeathsig', 'SIGKILL'] : []

/**
 * Runs a program without a shell and waits for it. A cancelled one gets SIGTERM, and SIGKILL three seconds later.
 * @throws the signal's reason when it was cancelled; EndedFromOutside when others ended it; an Error when the program
 *   cannot be started at all
 */
export async function run(program: string, args: readonly string[], options: RunOptions = {}): Promise<Finished> {
  const [file, ...rest] = [...(options.isPolite ? politely : []), ...leash, program, ...args] as [string, ...string[]]
  const child = execa(file, rest, {
    stdin: 'ignore',
    ...(options.signal ? { cancelSignal: options.signal } : {}),
    forceKillAfterDelay: 3000,
    ...(options.timeoutMilliseconds ? { timeout: options.timeoutMilliseconds } : {}),
    reject: false,
    maxBuffer: 64 * 1024 * 1024,
    env: { LC_ALL: 'C.UTF-8' },
  })
  if (options.onLine) {
    const { onLine } = options
    void (async () => {
      for await (const line of child) onLine(line)
    })().catch(() => undefined)
  }
  const unlisten = options.pause?.listen((isOn) => child.kill(isOn ? 'SIGSTOP' : 'SIGCONT'))
  // A program that stands still cannot hear that it is to end.
  const wake = (): boolean => child.kill('SIGCONT')
  if (options.pause) options.signal?.addEventListener('abort', wake)
  const result: Ended & {
    stdout: string
    stderr: string
    timedOut: boolean
    message?: string
    isTerminated: boolean
  } = await child
  unlisten?.()
  options.signal?.removeEventListener('abort', wake)
  options.signal?.throwIfAborted()
  if (result.timedOut) return { exitCode: -1, stdout: result.stdout, stderr: `${program} did not finish in time` }
  if (result.exitCode === undefined && !result.isTerminated)
    throw new Error(`${program} could not be run: ${result.message ?? 'no reason given'}`)
  asEnded(result)
  return { exitCode: result.exitCode ?? -1, stdout: result.stdout, stderr: result.stderr }
}

/**
 * Starts the encoder behind all other work; what it writes is read from its stdout as it comes, and it waits while
 * nobody reads. It ends with the signal; whoever awaits its end asks `asEnded` of it.
 * @param furtherOutputs pipes that it writes to as well, its descriptors from 3 on
 */
export function startEncoder(words: readonly string[], signal: AbortSignal, furtherOutputs = 0) {
  const [file, ...rest] = [...politely, ...leash, 'ffmpeg', '-hide_banner', '-nostdin', '-v', 'error', ...words] as [
    string,
    ...string[],
  ]
  const further = Array.from({ length: furtherOutputs }, (_, index) => index + 3)
  return execa(file, rest, {
    stdio: ['ignore', 'pipe', 'pipe', ...further.map(() => 'pipe' as const)],
    buffer: { stdout: false, ...Object.fromEntries(further.map((descriptor) => [`fd${descriptor}`, false])) },
    encoding: 'buffer',
    cancelSignal: signal,
    forceKillAfterDelay: 1000,
    reject: false,
    env: { LC_ALL: 'C.UTF-8' },
  })
}
