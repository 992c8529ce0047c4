import type { LeftOut } from '@ennick/core'
import { formatNumber } from '@ennick/core'
import { threadsOf } from '../threads.ts'
import type { ReadingKind, ReadingOutcome, Readings, ReadingTask } from './reading-thread.ts'

/** A text that is not read: the message says why, and `location` where in it. */
export class NotRead extends Error {
  override readonly name = 'NotRead'
  readonly location: string | null
  /** All that is wrong with it, where that is more than one thing. */
  readonly faults: readonly LeftOut[]
  constructor(message: string, location: string | null = null, faults: readonly LeftOut[] = []) {
    super(message)
    this.location = location
    this.faults = faults
  }
}

/** Memory of one thread, in MB: enough for the largest list that is taken, and no more than a machine can spare. */
const mostMegabytes = 768
/** Characters of a text: a list of 30 MB holds a hundred thousand events with all their remarks. */
export const mostCharacters = 30_000_000
const quickSeconds = 60

const threads = threadsOf<ReadingTask, ReadingOutcome>('reading/reading-thread', {
  maxThreads: 2,
  maxQueue: 64,
  idleTimeout: 60_000,
  resourceLimits: { maxOldGenerationSizeMb: mostMegabytes },
})

/**
 * Reads something in a thread of its own, within limits of size, time and memory, so that nothing waits for it: not the
 * people whom this process answers, nor the queue whose leases it keeps.
 * @param options.seconds how long it may take
 * @throws NotRead with a plain reason; the signal's reason when that ends it
 */
export async function readApart<K extends ReadingKind>(
  kind: K,
  asked: Readings[K]['asked'],
  options: { seconds?: number; signal?: AbortSignal } = {},
): Promise<Readings[K]['answered']> {
  const seconds = options.seconds ?? quickSeconds
  const text = 'text' in asked ? asked.text : 'content' in asked ? asked.content : ''
  if (typeof text === 'string' && text.length > mostCharacters)
    throw new NotRead(
      `It has ${formatNumber(text.length)} characters; ${formatNumber(mostCharacters)} are read at most.`,
    )
  const time = AbortSignal.timeout(seconds * 1000)
  const signal = options.signal ? AbortSignal.any([options.signal, time]) : time
  let outcome: ReadingOutcome
  try {
    outcome = await threads.run({ kind, asked } as ReadingTask, { signal })
  } catch (error) {
    options.signal?.throwIfAborted()
    if (time.aborted)
      throw new NotRead(
        `It took longer than ${seconds} seconds to be read and was given up: it is far larger than any such list is.`,
      )
    const { code, message } = error as NodeJS.ErrnoException
    if (code === 'ERR_WORKER_OUT_OF_MEMORY')
      throw new NotRead(`It needs more than ${mostMegabytes} MB of memory to be read, and was given up.`)
    if (/Task queue is at limit/.test(message))
      throw new NotRead('Too many lists are being read at this moment. Try again in a minute.')
    throw error
  }
  if ('answered' in outcome) return outcome.answered as Readings[K]['answered']
  if ('tooDeep' in outcome) throw new NotRead('It is nested deeper than any such list is.')
  throw new NotRead(outcome.refused, outcome.location, outcome.faults)
}
