import type { Answer, ChangeTopic, RouteName, routes } from '@ennick/contract'
import { change } from '@ennick/contract'
import {
  keepPreviousData,
  type QueryClient,
  queryOptions,
  type UseMutationResult,
  type UseQueryResult,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { type ApiError, addressOf, type CallInput, call } from './api.ts'
import { readAgain } from './read-again.ts'

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

/** Everything that shows clips. */
const clipReads: readonly RouteName[] = [
  'readView',
  'searchClips',
  'findElsewhere',
  'outlineClips',
  'listClipIds',
  'readClips',
  'readClip',
  'listTree',
  'listSearches',
  'listVolumes',
  'readEdits',
  'readNeeds',
  'readFit',
  'listTakenOut',
]

/** Which reads depend on a topic. */
const readsOf: Record<ChangeTopic, readonly RouteName[]> = {
  productions: ['listProductions'],
  recipes: ['listRecipes', 'listIntakeRules', 'planMake'],
  luts: ['listLuts', 'listLutAssignments', 'planMake'],
  volumes: [
    'listMadePlaces',
    'listVolumes',
    'listVolumeClips',
    'listLostHere',
    'listMoved',
    'browseFolder',
    'listProblems',
    'listOtherFiles',
    'listOffers',
    'planMake',
    'today',
  ],
  clips: [...clipReads, 'listAwaited', 'listOffers', 'searchPairs', 'today'],
  catalogue: ['listAwaited', 'listFields', 'listSearches', 'listViews', 'readEdits'],
  workers: ['listWorkers'],
  jobs: [
    'listUnderWay',
    'listJobs',
    'listBatches',
    'offerJoins',
    'listWorkers',
    'listArchives',
    'readRestore',
    'listPulls',
    'listFinished',
    'readJob',
    'readJobDetails',
    'listVolumes',
    'readNeeds',
    'today',
  ],
  // Told twice a second while anything runs: only what shows it is read again.
  progress: ['listArchives', 'readRestore', 'listJobs', 'listPulls', 'listFinished', 'readJob', 'readJobDetails'],
  pairs: [
    ...clipReads,
    'listBatches',
    'listMadePlaces',
    'lookIntoMadePlace',
    'searchPairs',
    'readPair',
    'listOffers',
    'planMake',
    'today',
  ],
  cuts: [
    ...clipReads,
    'listCuts',
    'readCut',
    'readCutWatch',
    'compareCuts',
    'readFormats',
    'listFindings',
    'readMendProof',
    'readOrderOfWork',
    'readPreflight',
    'readSinceHandoff',
    'readSinceJob',
    'readTrial',
    'searchPairs',
    'today',
  ],
  mends: ['listMends', 'listMoved', 'readTrial', 'history', 'today'],
  handoffs: ['listHandoffs', 'readSinceHandoff', 'readSinceJob', 'today'],
  viewer: ['readView', 'readShown'],
  ledger: ['listLedgerCopies'],
  bay: ['listBay', 'readCamera', 'browseFolder'],
}

/** Dear to read, and depending on what changes with every item of a batch: for that it is read again less often. */
const dearReads: ReadonlySet<RouteName> = new Set(['planMake'])
const busyTopics: ReadonlySet<ChangeTopic> = new Set(['pairs', 'volumes'])
const [soonMilliseconds, laterMilliseconds] = [250, 3000]

/**
 * Listens to the server's changes and reads again what depends on them, at most four times a second.
 * @returns whether the server is heard
 */
export function useChangeStream(): boolean {
  const queries = useQueryClient()
  const [isHeard, setHeard] = useState(true)
  useEffect(() => {
    const source = new EventSource(addressOf('changes'))
    const soon = new Gathered(queries, soonMilliseconds)
    const later = new Gathered(queries, laterMilliseconds)
    source.onmessage = (message) => {
      const parsed = change.safeParse(JSON.parse(message.data))
      if (!parsed.success) return
      const { topic } = parsed.data
      for (const name of readsOf[topic]) (busyTopics.has(topic) && dearReads.has(name) ? later : soon).add(name)
    }
    source.onopen = () => {
      setHeard(true)
      readAgain(queries)
    }
    source.addEventListener('reconnected', () => readAgain(queries))
    source.onerror = () => setHeard(false)
    return () => {
      source.close()
      soon.stop()
      later.stop()
    }
  }, [queries])
  return isHeard
}

/** Reads that are asked for again together, some time after the first of them is. */
class Gathered {
  readonly #queries: QueryClient
  readonly #milliseconds: number
  readonly #names = new Set<RouteName>()
  #timer: number | null = null

  constructor(queries: QueryClient, milliseconds: number) {
    this.#queries = queries
    this.#milliseconds = milliseconds
  }

  add(name: RouteName): void {
    this.#names.add(name)
    this.#timer ??= window.setTimeout(() => {
      const names = new Set(this.#names)
      this.stop()
      readAgain(this.#queries, (query) => names.has(query.queryKey[0] as RouteName))
    }, this.#milliseconds)
  }

  stop(): void {
    if (this.#timer !== null) window.clearTimeout(this.#timer)
    this.#timer = null
    this.#names.clear()
  }
}
