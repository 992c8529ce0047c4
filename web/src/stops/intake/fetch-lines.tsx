import { Box, Button, Text } from '@chakra-ui/react'
import type { Job, JobDetails } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { DetailLines } from '../../parts/detail-lines.tsx'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'
import { RunningJob } from './running-job.tsx'

const order = ['verified', 'arriving', 'waiting', 'refused']

/** "12 of 48 files verified · 2 arriving · 34 waiting" */
function standing({ counts, total }: JobDetails): string {
  const of = (state: string): number => counts.find((each) => each.state === state)?.lines ?? 0
  const [first = '', ...others] = order
  const more = others.flatMap((state) => (of(state) ? [`${of(state)} ${state}`] : []))
  return [`${of(first)} of ${count(total, 'file')} ${first}`, ...more].join(' · ')
}

/** What is being fetched to a volume, or was last: how many files are verified, and the state of each. */
export function FetchLines({ job, isLive }: { job: Job; isLive: boolean }): ReactElement {
  const details = useRead('readJobDetails', { params: { jobId: job.id } })
  const retry = useChange('retryJob')
  const [isOpen, setOpen] = useState(false)
  return (
    <Box mt="2" data-testid="fetch">
      {isLive && <Text>{job.title}</Text>}
      {job.state === 'failed' && <Problem message={`Fetch not done. ${job.error}`} />}
      {job.state === 'cancelled' && <Text>The last fetch was stopped; what is verified stays. Retry goes on.</Text>}
      {job.state === 'done' && <Text>Fetched: {job.summary}</Text>}
      {details.data && details.data.total > 0 && (isLive || job.state !== 'done') && (
        <Text>{standing(details.data)}</Text>
      )}
      {isLive && <RunningJob job={job} stop="Stop the fetch" />}
      {(job.state === 'failed' || job.state === 'cancelled') && (
        <Button
          size="xs"
          variant="outline"
          mr="2"
          loading={retry.isPending}
          onClick={() => retry.mutate({ params: { jobId: job.id }, body: {} })}
        >
          Retry the fetch
        </Button>
      )}
      {retry.error && <Problem message={retry.error.message} />}
      {details.data !== undefined && details.data.total > 0 && (
        <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {isOpen ? 'Hide' : 'Show'} the state of each file
        </Button>
      )}
      {isOpen && details.data && <DetailLines details={details.data} />}
    </Box>
  )
}
