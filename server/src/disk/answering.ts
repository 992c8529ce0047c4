import { AsyncLocalStorage } from 'node:async_hooks'
import { doesNotAnswer } from '@ennick/core'
import pLimit, { type LimitFunction } from 'p-limit'

/**
 * A share that hangs, or a disk that is stuck, says neither what is there nor that nothing is: whoever asks it waits,
 * and a thread of this process with him, of which there are not many.
 */
export class NotAnswering extends Error {
  override readonly name = 'NotAnswering'
  constructor(what: string) {
    super(
      `${what} ${doesNotAnswer}. Nothing waits for it; Ennick goes on without it, and takes it up again when it ` +
        'answers.',
    )
  }
}

let patienceSeconds = 20
/** How long a disk may take to say anything, from now on, in this process. */
export const usePatience = (seconds: number): void => {
  patienceSeconds = seconds
}
/** So many questions of one kind are under way at most: each may keep a thread. */
const mostAtOnce = 4

interface Asked {
  readonly limit: LimitFunction
  /** Questions that have no answer yet. */
  open: number
  /** Questions that were given up and have no answer yet. */
  overdue: number
}

const asked = new Map<string, Asked>()
/** What the question asks that is being answered: what it asks on the way is part of it. */
const asking = new AsyncLocalStorage<ReadonlySet<string>>()

/**
 * Asks something of a disk, and gives up where no answer comes. As long as one question has no answer no other of its
 * kind is asked: what hangs keeps a handful of threads and not all of them.
 * @param what names the kind, as people know the place
 * @throws NotAnswering
 */
export async function ask<T>(what: string, question: () => Promise<T>): Promise<T> {
  const around = asking.getStore()
  if (around?.has(what)) return question()
  const known = asked.get(what) ?? { limit: pLimit(mostAtOnce), open: 0, overdue: 0 }
  asked.set(what, known)
  const end = (): void => {
    known.open--
    if (known.open === 0) asked.delete(what)
  }
  known.open++
  return known.limit(async () => {
    if (known.overdue > 0) {
      end()
      throw new NotAnswering(what)
    }
    const answer = asking.run(new Set([...(around ?? []), what]), question)
    answer.then(end, end)
    if (await within(patienceSeconds, answer)) return answer
    known.overdue++
    const answered = (): void => {
      known.overdue--
    }
    answer.then(answered, answered)
    throw new NotAnswering(what)
  })
}

/** An answer that a page shows if it is there in a moment, and goes without otherwise. */
export const ifSoon = async <T>(answer: Promise<T>): Promise<T | null> =>
  (await within(2, answer)) ? answer.catch(() => null) : null

/**
 * Whether something ends within so many seconds, whichever way. Seconds are counted while this process runs: one in
 * which the machine slept, or had no time for it, counts once.
 */
export function within(seconds: number, task: Promise<unknown>): Promise<boolean> {
  return new Promise((resolve) => {
    let left = seconds
    const timer = setInterval(() => {
      if (--left > 0) return
      clearInterval(timer)
      resolve(false)
    }, 1000)
    const end = (): void => {
      clearInterval(timer)
      resolve(true)
    }
    task.then(end, end)
  })
}
