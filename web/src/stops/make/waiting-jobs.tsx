import { Button } from '@chakra-ui/react'
import type { Job } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { JobLine } from '../../parts/job-line.tsx'

/** What waits, in the order that it will be taken: drawn to another place, or moved with the buttons. */
export function WaitingJobs({ jobs, shown }: { jobs: readonly Job[]; shown: number }): ReactElement {
  const params = { productionId: useProduction().id }
  const move = useChange('moveJobs')
  const hold = useChange('holdJobs')
  const [dragged, setDragged] = useState<string | null>(null)
  const [over, setOver] = useState<string | null>(null)
  const put = (jobId: string, before: string | null): void => {
    if (jobId !== before) move.mutate({ params, body: { jobIds: [jobId], before } })
  }
  return (
    <>
      {jobs.slice(0, shown).map((job, index) => {
        const button = (label: string, act: () => void, isOff: boolean): ReactElement => (
          <Button
            size="xs"
            variant="ghost"
            px="1.5"
            aria-label={`${label}: ${job.title}`}
            disabled={isOff || move.isPending}
            onClick={act}
          >
            {label}
          </Button>
        )
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: the buttons in it do the same by keyboard
          <div
            key={job.id}
            draggable
            style={{
              cursor: 'grab',
              borderTop: over === job.id && dragged !== null ? '2px solid currentColor' : undefined,
            }}
            onDragStart={(event) => {
              event.dataTransfer.setData('text/plain', job.title)
              setDragged(job.id)
            }}
            onDragOver={(event) => {
              event.preventDefault()
              setOver(job.id)
            }}
            onDragEnd={() => {
              setDragged(null)
              setOver(null)
            }}
            onDrop={(event) => {
              event.preventDefault()
              if (dragged) put(dragged, job.id)
              setDragged(null)
              setOver(null)
            }}
          >
            <JobLine
              job={job}
              actions={
                <>
                  {button('First', () => put(job.id, jobs[0]?.id ?? null), index === 0)}
                  {button('Up', () => put(job.id, jobs[index - 1]?.id ?? null), index === 0)}
                  {button('Down', () => put(job.id, jobs[index + 2]?.id ?? null), index === jobs.length - 1)}
                  <Button
                    size="xs"
                    variant="outline"
                    loading={hold.isPending}
                    onClick={() => hold.mutate({ params, body: { jobIds: [job.id], isHeld: !job.isHeld } })}
                  >
                    {job.isHeld ? 'Resume' : 'Hold'}
                  </Button>
                </>
              }
            />
          </div>
        )
      })}
    </>
  )
}
