import { Button, HStack, Text } from '@chakra-ui/react'
import type { Job } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { JobLine } from '../../parts/job-line.tsx'
import { Empty } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count, timeLeft } from '../../parts/words.ts'

const pageSize = 60

/** What runs, what waits, and how the rest ended. */
export function Queue({ jobs }: { jobs: readonly Job[] }): ReactElement {
  const cancel = useChange('cancelJob')
  const [shown, setShown] = useState(pageSize)
  const live = jobs.filter((job) => job.state === 'running' || job.state === 'waiting')
  const failed = jobs.filter((job) => job.state === 'failed')
  const ended = jobs.filter((job) => job.state === 'done' || job.state === 'cancelled')
  if (jobs.length === 0) return <Empty title="Nothing was queued yet">Choose clips and a recipe under Plan.</Empty>
  return (
    <>
      {live.length > 0 && (
        <Section
          title={`Running and waiting: ${total(live)}`}
          action={
            <Button
              size="xs"
              variant="outline"
              mb="1"
              onClick={() => live.forEach((job) => void cancel.mutateAsync({ params: { jobId: job.id } }).catch(() => undefined))}
            >
              Stop all {live.length}
            </Button>
          }
        >
          {live.slice(0, shown).map((job) => (
            <JobLine key={job.id} job={job} />
          ))}
        </Section>
      )}
      {failed.length > 0 && (
        <Section title={`Failed: ${count(failed.length, 'job')}`}>
          {failed.slice(0, shown).map((job) => (
            <JobLine key={job.id} job={job} />
          ))}
        </Section>
      )}
      {ended.length > 0 && (
        <Section title="Ended">
          {ended.slice(0, shown).map((job) => (
            <JobLine key={job.id} job={job} />
          ))}
        </Section>
      )}
      {Math.max(live.length, failed.length, ended.length) > shown && (
        <HStack>
          <Button size="sm" variant="outline" onClick={() => setShown(shown + pageSize)}>
            Show {pageSize} more
          </Button>
          <Text color="quiet">of {jobs.length}</Text>
        </HStack>
      )}
    </>
  )
}

/** The whole queue in a line. */
function total(live: readonly Job[]): string {
  const running = live.filter((job) => job.state === 'running')
  const seconds = running.map((job) => job.progress?.secondsLeft).filter((value): value is number => value != null)
  const soonest = seconds.length ? ` · next one: ${timeLeft(Math.min(...seconds))}` : ''
  return `${running.length} running, ${live.length - running.length} waiting${soonest}`
}
