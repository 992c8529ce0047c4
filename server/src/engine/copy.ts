import { open } from 'node:fs/promises'
import type { HashKind } from '@ennick/core'
import { threadsOf } from '../threads.ts'
import { type CopyOutcome, type CopyTask, copyOrders, copyStateBytes, viewCopyState } from './copy-thread.ts'
import type { Pause } from './pause.ts'

interface HashOptions {
  readonly kind: HashKind
  readonly signal: AbortSignal
  /** Lets it stand still where it is. */
  readonly pause?: Pause
  readonly onBytes?: (bytes: number) => void
}

/**
 * A thread for each that copies or reads back at once, which its callers keep few; one that stands still keeps its own.
 */
const threads = threadsOf<CopyTask, CopyOutcome>('engine/copy-thread', {
  maxThreads: 16,
  idleTimeout: 20_000,
})

const reportMilliseconds = 100

interface HashOutcome {
  readonly hash: string
  /** Whether it was read from the disk itself, past the system's cache. */
  readonly wasDirect: boolean
}

async function runTask(
  from: string,
  to: string | null,
  { kind, signal, pause, onBytes }: HashOptions,
  isDirect = false,
): Promise<HashOutcome> {
  signal.throwIfAborted()
  const state = new SharedArrayBuffer(copyStateBytes)
  const { bytes, order } = viewCopyState(state)
  let told = 0
  const tell = (): void => {
    const done = Number(Atomics.load(bytes, 0))
    if (done > told) onBytes?.(done - told)
    told = done
  }
  const say = (word: number): void => {
    if (!signal.aborted || word === copyOrders.stop) Atomics.store(order, 0, word)
    Atomics.notify(order, 0)
  }
  const halt = (): void => say(copyOrders.stop)
  const timer = setInterval(tell, reportMilliseconds)
  signal.addEventListener('abort', halt)
  const unlisten = pause?.listen((isOn) => say(isOn ? copyOrders.stand : copyOrders.go))
  try {
    const outcome = await threads.run({ from, to, kind, state, isDirect })
    tell()
    if (outcome === 'stopped') {
      signal.throwIfAborted()
      throw new Error(`Copying ${from} was stopped.`)
    }
    if ('hash' in outcome) return outcome
    throw Object.assign(new Error(outcome.message), { code: outcome.code })
  } finally {
    clearInterval(timer)
    unlisten?.()
    signal.removeEventListener('abort', halt)
  }
}

/** The checksum of a whole file. */
export const hashFile = async (path: string, options: HashOptions): Promise<string> =>
  (await runTask(path, null, options)).hash

/**
 * Copies a file and answers with the checksum of what was read from the source. Whether the copy is on the disk and can
 * be read again is for `readBack` to tell.
 * @param to must not exist
 */
export const copyHashed = async (from: string, to: string, options: HashOptions): Promise<string> =>
  (await runTask(from, to, options)).hash

/**
 * The checksum of a file that was just written, read from it again: from the disk itself where the file system lets a
 * program past what the system remembers, and with its bytes on the disk when this is over.
 */
export async function readBack(path: string, options: HashOptions): Promise<HashOutcome> {
  const file = await open(path, 'r')
  try {
    const [outcome] = await Promise.all([runTask(path, null, options, true), file.datasync()])
    return outcome
  } finally {
    await file.close()
  }
}
