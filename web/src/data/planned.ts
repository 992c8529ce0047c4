import type { Answer, RouteName, routes } from '@ennick/contract'
import { useEffect, useState } from 'react'
import type { ApiError, CallInput } from './api.ts'
import { useChange } from './queries.ts'

/** What would be done: as it is asked for now, or as it was the last time that it was answered. */
export interface Planned<T> {
  /** The plan of the very thing that is asked for now; null from each change of it until the answer is there. */
  readonly ready: T | null
  /** What may be shown meanwhile, and may be of something that is not asked for any more. */
  readonly shown: T | undefined
  readonly error: ApiError | null
}

/**
 * Asks what a change would do while that is put together, once nothing was altered for a moment. What is confirmed is
 * `ready`: nobody confirms a plan of something else than what will be done.
 * @param input what is asked for; null while it is not complete
 */
export function usePlanned<K extends RouteName>(
  name: K,
  input: CallInput<K> | null,
  restMilliseconds = 200,
): Planned<Answer<(typeof routes)[K]>> {
  const { mutate, reset, data, error, isPending } = useChange(name)
  const [answering, setAnswering] = useState<string | null>(null)
  const asked = input && JSON.stringify(input)
  useEffect(() => {
    if (asked === null) {
      reset()
      return
    }
    const timer = window.setTimeout(() => {
      setAnswering(asked)
      mutate(JSON.parse(asked) as CallInput<K>)
    }, restMilliseconds)
    return () => window.clearTimeout(timer)
  }, [asked, restMilliseconds, mutate, reset])
  return {
    ready: asked !== null && asked === answering && !isPending && !error && data !== undefined ? data : null,
    shown: error ? undefined : data,
    error,
  }
}
