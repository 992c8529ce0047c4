import { Box, Button, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { Job } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue } from '../../data/remembered.ts'
import { FilterField } from '../../parts/filter-field.tsx'
import { JobLine } from '../../parts/job-line.tsx'
import { matches } from '../../parts/matches.ts'
import { Empty, Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count, span } from '../../parts/words.ts'
import { Batches } from './batches.tsx'
import { doneMeanwhile, queueSeconds } from './queue-time.ts'
import { RunningJob } from './running-job.tsx'
import { WaitingJobs } from './waiting-jobs.tsx'
import { Workers } from './workers.tsx'

const pageSize = 60
/** What failed, or waits for a volume, stands first, but must not push what runs off the screen. */
const fewShown = 3
const kinds: Readonly<Record<Job['kind'], string>> = {
  decode: 'decoding',
  look: 'looks at pictures',
  try: 'trials of originals',
  restamp: 'restamps',
  pad: 'pads',
  join: 'joins',
  make: 'making',
  scan: 'scans',
  offload: 'offloads',
  fetch: 'fetches',
  collect: 'checks of collections',
  sync: 'syncs by waveform',
  verify: 'verifications',
  compare: 'comparisons of copies',
  measure: 'measurements',
  check: 'checks',
  search: 'searches',
  pull: 'pulls',
  restore: 'archives that come back',
  finished: 'checks of finished files',
}

/** What runs, what waits in which order, and how the rest ended. */
export function Queue({ jobs }: { jobs: readonly Job[] }): ReactElement {
  const params = { productionId: useProduction().id }
  const cancel = useChange('cancelJob')
  const retry = useChange('retryJob')
  const dismiss = useChange('dismissJob')
  const hold = useChange('holdJobs')
  const [shown, setShown] = useState(pageSize)
  const workers = useRead('listWorkers', {})
  const [words, setWords] = useAddressValue('q', { isTyped: true })
  const [kind, setKind] = useAddressValue('kind')
  const sought = jobs.filter(
    (job) => (kind === '' || job.kind === kind) && matches(words, job.title, job.error, job.summary),
  )
  const running = sought.filter((job) => job.state === 'running')
  const waiting = sought.filter((job) => job.state === 'waiting')
  const live = [...running, ...waiting]
  const failed = sought.filter((job) => job.state === 'failed' && !job.goesOnByItself)
  const forVolumes = sought.filter((job) => job.goesOnByItself)
  const ended = sought.filter((job) => job.state === 'done' || job.state === 'cancelled')
  const canStand = live.filter((job) => job.state === 'waiting' || job.kind === 'make')
  const going = canStand.filter((job) => !job.isHeld)
  const held = canStand.filter((job) => job.isHeld)
  const atOnce = (workers.data ?? []).reduce(
    (sum, worker) => sum + (worker.state === 'here' ? worker.makesAtOnce : 0),
    0,
  )
  if (jobs.length === 0) return <Empty title="Nothing was queued yet">Choose clips and a recipe under Plan.</Empty>
  // One that has ended meanwhile is none to stop or to retry any more.
  const stopAll = (list: readonly Job[]): void =>
    list.forEach((job) => void cancel.mutateAsync({ params: { jobId: job.id } }).catch(() => undefined))
  const retryAll = (list: readonly Job[]): void =>
    list.forEach((job) => void retry.mutateAsync({ params: { jobId: job.id }, body: {} }).catch(() => undefined))
  const dismissAll = (list: readonly Job[]): void =>
    list.forEach((job) => void dismiss.mutateAsync({ params: { jobId: job.id } }).catch(() => undefined))
  const holdAll = (list: readonly Job[], isHeld: boolean): void =>
    hold.mutate({ params, body: { jobIds: list.map((job) => job.id), isHeld } })
  return (
    <>
      <HStack mb="4" gap="3">
        <Box width="18rem">
          <FilterField label="Filter jobs" value={words} onChange={setWords} />
        </Box>
        <NativeSelect.Root size="sm" width="12rem">
          <NativeSelect.Field
            aria-label="Kind of job"
            value={kind}
            bg="page"
            onChange={(event) => setKind(event.target.value)}
          >
            <option value="">every kind</option>
            {[...new Set(jobs.map((job) => job.kind))].map((each) => (
              <option key={each} value={each}>
                {kinds[each]}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        {sought.length < jobs.length && (
          <Text color="quiet">
            {formatNumber(sought.length)} of {formatNumber(jobs.length)}
          </Text>
        )}
      </HStack>
      {hold.error && <Problem message={hold.error.message} />}
      {words === '' && kind === '' && <Batches />}
      {failed.length > 0 && (
        <Section
          title={`Failed: ${count(failed.length, 'job')}`}
          action={
            failed.length > 1 && (
              <HStack gap="2" mb="1">
                <Button size="xs" variant="ghost" onClick={() => dismissAll(failed)}>
                  Dismiss all {formatNumber(failed.length)}
                </Button>
                <Button size="xs" variant="outline" onClick={() => retryAll(failed)}>
                  Retry all {formatNumber(failed.length)}
                </Button>
              </HStack>
            )
          }
        >
          <FewJobs jobs={failed} more={`Show all ${formatNumber(failed.length)} that failed`} />
        </Section>
      )}
      {forVolumes.length > 0 && (
        <Section
          title={`Waiting for a volume: ${count(forVolumes.length, 'job')}`}
          action={
            forVolumes.length > 1 && (
              <Button size="xs" variant="outline" mb="1" onClick={() => stopAll(forVolumes)}>
                Stop waiting, all {formatNumber(forVolumes.length)}
              </Button>
            )
          }
        >
          <FewJobs jobs={forVolumes} more={`Show all ${formatNumber(forVolumes.length)} that wait for a volume`} />
        </Section>
      )}
      {live.length > 0 && (
        <Section
          title={`Running and waiting: ${total(running, waiting, doneMeanwhile(sought), queueSeconds(jobs, atOnce))}`}
          action={
            <HStack gap="2" mb="1">
              {going.length > 0 && (
                <Button size="xs" variant="outline" onClick={() => holdAll(going, true)}>
                  Pause all {formatNumber(going.length)}
                </Button>
              )}
              {held.length > 0 && (
                <Button size="xs" variant="outline" onClick={() => holdAll(held, false)}>
                  Resume {formatNumber(held.length)}
                </Button>
              )}
              <Button size="xs" variant="outline" onClick={() => stopAll(live)}>
                Stop all {formatNumber(live.length)}
              </Button>
            </HStack>
          }
        >
          {running.map((job) => (
            <RunningJob key={job.id} job={job} />
          ))}
          <WaitingJobs jobs={waiting} shown={shown} />
        </Section>
      )}
      <Workers waiting={waiting} />
      {ended.length > 0 && (
        <Section title="Ended">
          {ended.slice(0, shown).map((job) => (
            <JobLine key={job.id} job={job} />
          ))}
        </Section>
      )}
      {Math.max(waiting.length, ended.length) > shown && (
        <HStack>
          <Button size="sm" variant="outline" onClick={() => setShown(shown + pageSize)}>
            Show {pageSize} more
          </Button>
          <Text color="quiet">of {formatNumber(sought.length)}</Text>
        </HStack>
      )}
    </>
  )
}

/** The first of some jobs, and the others on request. */
function FewJobs({ jobs, more }: { jobs: readonly Job[]; more: string }): ReactElement {
  const [isAll, setAll] = useState(false)
  return (
    <>
      {jobs.slice(0, isAll ? jobs.length : fewShown).map((job) => (
        <JobLine key={job.id} job={job} />
      ))}
      {jobs.length > fewShown && !isAll && (
        <Button size="xs" variant="ghost" mt="1" onClick={() => setAll(true)}>
          {more}
        </Button>
      )}
    </>
  )
}

/**
 * The whole queue in a line. @param done of the same order @param seconds until all of it is made, where that can be
 * told
 */
function total(running: readonly Job[], waiting: readonly Job[], done: number, seconds: number | null): string {
  const paused = running.filter((job) => job.isHeld).length
  const held = waiting.filter((job) => job.isHeld).length
  const counts = { running: running.length - paused, paused, waiting: waiting.length - held, held, done }
  const parts = Object.entries(counts).flatMap(([word, number]) => (number ? [`${number} ${word}`] : []))
  return `${parts.join(', ')}${seconds === null ? '' : ` · ${span(seconds)} for all`}`
}
