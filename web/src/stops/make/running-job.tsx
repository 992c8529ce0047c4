import { Button } from '@chakra-ui/react'
import type { Job } from '@ennick/contract'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { JobLine } from '../../parts/job-line.tsx'

/** A job that runs: one that encodes can stand still for a while, and another takes its turn. */
export function RunningJob({ job }: { job: Job }): ReactElement {
  const params = { productionId: useProduction().id }
  const hold = useChange('holdJobs')
  if (job.kind !== 'make') return <JobLine job={job} />
  return (
    <JobLine
      job={job}
      actions={
        <Button
          size="xs"
          variant="outline"
          loading={hold.isPending}
          disabled={job.cancelRequested}
          onClick={() => hold.mutate({ params, body: { jobIds: [job.id], isHeld: !job.isHeld } })}
        >
          {job.isHeld ? 'Resume' : 'Pause'}
        </Button>
      }
    />
  )
}
