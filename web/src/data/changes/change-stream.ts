import type { ChangeTopic, RouteName } from '@ennick/contract'
import { change } from '@ennick/contract'
import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { addressOf } from '../api.ts'
import { readAgain } from '../read-again.ts'
import { hearTogether } from './hear-together.ts'

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
  mends: ['listMends', 'listMoved', 'readTrial', 'today'],
  handoffs: ['listHandoffs', 'readSinceHandoff', 'readSinceJob', 'today'],
  viewer: ['readView', 'readShown'],
  ledger: ['listLedgerCopies'],
  bay: ['listBay', 'readCamera', 'browseFolder'],
}

/** Dear to read, and depending on what changes with every item of a batch: for that it is read again less often. */
const dearReads: ReadonlySet<RouteName> = new Set(['planMake'])
const busyTopics: ReadonlySet<ChangeTopic> = new Set(['pairs', 'volumes'])
/** Of all others a line of history may tell. */
const wordless: ReadonlySet<ChangeTopic> = new Set(['progress', 'workers', 'viewer', 'bay'])
const [soonMilliseconds, laterMilliseconds] = [250, 3000]

/**
 * Listens to the server's changes and reads again what depends on them, at most four times a second.
 * @returns whether the server is heard
 */
export function useChangeStream(): boolean {
  const queries = useQueryClient()
  const [isHeard, setHeard] = useState(true)
  useEffect(() => {
    const soon = new Gathered(queries, soonMilliseconds)
    const later = new Gathered(queries, laterMilliseconds)
    const stop = hearTogether(addressOf('changes'), (heard) => {
      if (heard.kind === 'waits' || heard.kind === 'here') return
      if (heard.kind !== 'change') {
        setHeard(heard.kind === 'heard')
        if (heard.kind === 'heard') readAgain(queries)
        return
      }
      const parsed = change.safeParse(JSON.parse(heard.text))
      if (!parsed.success) return
      const { topic } = parsed.data
      for (const name of readsOf[topic]) (busyTopics.has(topic) && dearReads.has(name) ? later : soon).add(name)
      if (!wordless.has(topic)) later.add('history')
    })
    return () => {
      stop()
      soon.stop()
      later.stop()
    }
  }, [queries])
  return isHeard
}

/**
 * Reads that are asked for again together, some time after the first of them is; in a window that nobody sees, when it
 * is seen again: the server works for those who look.
 */
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
    this.#timer ??= window.setTimeout(this.#read, this.#milliseconds)
  }

  readonly #read = (): void => {
    if (document.hidden) {
      document.addEventListener('visibilitychange', this.#read, { once: true })
      return
    }
    const names = new Set(this.#names)
    this.stop()
    readAgain(this.#queries, (query) => names.has(query.queryKey[0] as RouteName))
  }

  stop(): void {
    if (this.#timer !== null) window.clearTimeout(this.#timer)
    document.removeEventListener('visibilitychange', this.#read)
    this.#timer = null
    this.#names.clear()
  }
}
