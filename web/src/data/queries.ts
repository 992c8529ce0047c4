import type { Answer, RouteName, routes } from '@ennick/contract'
import {
  keepPreviousData,
  queryOptions,
  type UseMutationResult,
  type UseQueryResult,
  useMutation,
  useQueries,
  useQuery,
} from '@tanstack/react-query'
import { type ApiError, type CallInput, call } from './api.ts'

type AnswerOf<K extends RouteName> = Answer<(typeof routes)[K]>

const readingOf = <K extends RouteName>(name: K, input: CallInput<K> | null) =>
  queryOptions<AnswerOf<K>, ApiError>({
    queryKey: [name, input],
    queryFn: () => call(name, input ?? {}),
    enabled: input !== null,
  })

/** Reads a route and keeps it fresh; `null` as input waits. */
export function useRead<K extends RouteName>(
  name: K,
  input: CallInput<K> | null,
): UseQueryResult<AnswerOf<K>, ApiError> {
  return useQuery(readingOf(name, input))
}

/** The same for a read whose question changes while somebody types: the last answer stays until the next is there. */
export function useSteadyRead<K extends RouteName>(
  name: K,
  input: CallInput<K> | null,
): UseQueryResult<AnswerOf<K>, ApiError> {
  return useQuery({
    ...readingOf(name, input),
    placeholderData: keepPreviousData,
  })
}

/**
 * The same for a look at a disk: nobody tells when that changes, so it is looked at anew each time it is asked for, and
 * nothing of a look before is shown.
 */
export function useLook<K extends RouteName>(
  name: K,
  input: CallInput<K> | null,
): UseQueryResult<AnswerOf<K>, ApiError> {
  return useQuery({
    ...readingOf(name, input),
    staleTime: 0,
    gcTime: 0,
  })
}

/** Several reads of one route at once. */
export function useReads<K extends RouteName>(
  name: K,
  inputs: readonly CallInput<K>[],
): UseQueryResult<AnswerOf<K>, ApiError>[] {
  return useQueries({
    queries: inputs.map((input) => ({ queryKey: [name, input], queryFn: () => call(name, input), staleTime: 60_000 })),
  }) as UseQueryResult<AnswerOf<K>, ApiError>[]
}

/**
 * Calls a route that changes something. What it changes comes back through the change stream.
 * @param order calls of one order reach the server one after the other, as they were made, whoever makes them
 */
export function useChange<K extends RouteName>(
  name: K,
  onDone?: (answer: AnswerOf<K>) => void,
  order?: string,
): UseMutationResult<AnswerOf<K>, ApiError, CallInput<K>> {
  return useMutation<AnswerOf<K>, ApiError, CallInput<K>>({
    mutationFn: (input) => call(name, input),
    ...(onDone ? { onSuccess: onDone } : {}),
    ...(order ? { scope: { id: order } } : {}),
  })
}

/** The order of edits and of their undoing: an undo that is pressed right after an edit takes that edit back. */
export const orderOfEdits = 'edits'
