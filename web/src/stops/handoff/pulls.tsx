import { Box, Button, Text } from '@chakra-ui/react'
import type { Cut, Pull } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { DetailLines } from '../../parts/detail-lines.tsx'
import { JobLine } from '../../parts/job-line.tsx'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'
import { PullDialog } from './pull-dialog.tsx'

/** What was copied of a cut to where it goes on, and what of it is outstanding. */
export function Pulls({ cut }: { cut: Cut }): ReactElement {
  const pulls = useRead('listPulls', { params: { cutId: cut.id } })
  const again = useChange('pull')
  const [isOpen, setOpen] = useState(false)
  return (
    <Section
      title="Pulls"
      action={
        <Button size="xs" variant="outline" onClick={() => setOpen(true)}>
          Pull what it uses
        </Button>
      }
    >
      {pulls.error && <Problem message={pulls.error.message} />}
      {pulls.data?.length === 0 && (
        <Text color="quiet">
          Nothing of this cut was copied yet. A pull takes the originals it uses to finishing, or their proxies along,
          and nothing else.
        </Text>
      )}
      {again.error && <Problem message={again.error.message} />}
      {pulls.data?.map((pull, index, all) => (
        <Box key={pull.job.id} data-testid="pull">
          <JobLine
            job={pull.job}
            actions={
              pull.job.state === 'done' &&
              pull.outcome?.outstandingCount !== 0 &&
              all.findIndex(({ target }) => target === pull.target) === index && (
                <Button
                  size="xs"
                  variant="outline"
                  loading={again.isPending}
                  onClick={() => again.mutate({ params: { cutId: cut.id }, body: pull.asked })}
                >
                  Pull again
                </Button>
              )
            }
          />
          {pull.outcome && <Outcome outcome={pull.outcome} />}
        </Box>
      ))}
      <PullDialog cut={cut} isOpen={isOpen} onClose={() => setOpen(false)} />
    </Section>
  )
}

/** Lines that are shown before the rest is counted: the table that lies in the copy has them all. */
const mostShown = 12

function Outcome({ outcome }: { outcome: NonNullable<Pull['outcome']> }): ReactElement {
  const { events, outstanding, outstandingCount, refused, refusedCount, lists, withoutLists } = outcome
  const lines = [
    ...refused.map(({ path, reason }) => ({ path, state: 'not copied', detail: reason })),
    ...outstanding.map(({ name, reason }) => ({ path: name, state: 'outstanding', detail: reason })),
  ]
  return (
    <Box pl="8.5rem" pt="1.5" pb="3">
      <Text>
        {events.covered === events.of
          ? 'Every event is covered by it.'
          : `${events.covered} of ${count(events.of, 'event')} covered by it.`}{' '}
        <Box as="span" color="quiet">
          {withoutLists === null
            ? `What is in it, and the lists: in “${lists}”.`
            : `What is in it: in “${lists}”. No lists: ${withoutLists}`}
        </Box>
      </Text>
      <DetailLines details={{ lines: lines.slice(0, mostShown), total: refusedCount + outstandingCount }} />
    </Box>
  )
}
