import { Box, Button, Text } from '@chakra-ui/react'
import type { Pull } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { DetailLines } from './detail-lines.tsx'
import { JobLine } from './job-line.tsx'
import { Problem } from './notices.tsx'
import { count } from './words.ts'

/** What was copied to go elsewhere, newest first; where something is outstanding it can go on. */
export function PullList({
  pulls,
  again,
  since,
  isPending,
  error,
}: {
  pulls: readonly Pull[]
  again: (pull: Pull) => void
  /** What became of its cut since, beside the newest of each folder; with what pulls it again where nothing else does. */
  since?: (pull: Pull, again: ReactElement | null) => ReactElement
  isPending: boolean
  error: string | undefined
}): ReactElement {
  return (
    <>
      {error && <Problem message={error} />}
      {pulls.map((pull, index) => {
        const isNewest = pulls.findIndex(({ target }) => target === pull.target) === index
        const isOutstanding = pull.job.state === 'done' && pull.outcome?.outstandingCount !== 0
        const button = (
          <Button size="xs" variant="outline" loading={isPending} onClick={() => again(pull)}>
            Pull again
          </Button>
        )
        return (
          <Box key={pull.job.id} data-testid="pull">
            <JobLine job={pull.job} actions={isOutstanding && isNewest && button} />
            {pull.outcome && <Outcome outcome={pull.outcome} />}
            {pull.outcome && isNewest && since && (
              <Box pl="8.5rem" pb="3">
                {since(pull, isOutstanding ? null : button)}
              </Box>
            )}
          </Box>
        )
      })}
    </>
  )
}

/** Lines that are shown before the rest is counted: the table that lies in the copy has them all. */
const mostShown = 12

function Outcome({ outcome }: { outcome: NonNullable<Pull['outcome']> }): ReactElement {
  const { events, outstanding, outstandingCount, refused, refusedCount, lists, withoutLists, opened } = outcome
  const lines = [
    ...refused.map(({ path, reason }) => ({ path, state: 'not copied', detail: reason })),
    ...outstanding.map(({ name, reason }) => ({ path: name, state: 'outstanding', detail: reason })),
  ]
  return (
    <Box pl="8.5rem" pt="1.5" pb="3">
      <Text>
        {outstandingCount > 0 && `It is not whole: ${formatNumber(outstandingCount)} outstanding. `}
        {events.covered === events.of
          ? 'Every event is covered by it.'
          : `${formatNumber(events.covered)} of ${count(events.of, 'event')} covered by it${why(events)}.`}{' '}
        <Box as="span" color="quiet">
          {opened?.length
            ? 'What is in it, the report and the lists, one of them with relative paths'
            : withoutLists === null
              ? 'What is in it, and the lists'
              : 'What is in it'}
          : in “{lists}”.{withoutLists !== null && ` No lists: ${withoutLists}`}
        </Box>
      </Text>
      {opened && <Opened lists={opened} />}
      <DetailLines details={{ lines: lines.slice(0, mostShown), total: refusedCount + outstandingCount }} />
    </Box>
  )
}

/** Why events are not covered whose originals are in it. */
function why({ short, damaged }: NonNullable<Pull['outcome']>['events']): string {
  const reasons = [
    ...(damaged ? [`${damaged} on damaged originals, which are in it as they are`] : []),
    ...(short ? [`${short} short`] : []),
  ]
  return reasons.length ? `; ${reasons.join(', ')}` : ''
}

/** The lists of a copy as somebody reads them who has nothing else. */
function Opened({ lists }: { lists: readonly OpenedList[] }): ReactElement | null {
  if (lists.length === 0) return null
  const missing = lists.filter(({ missedCount }) => missedCount > 0)
  if (missing.length === 0)
    return (
      <Text color="quiet">
        Read again with nothing but what is in it: every event of each list lands on its copy, on the same frames.
      </Text>
    )
  return (
    <>
      {missing.map(({ name, missed, missedCount }) => (
        <Problem key={name} message={sentence(name, missed, missedCount)} />
      ))}
    </>
  )
}

type OpenedList = NonNullable<NonNullable<Pull['outcome']>['opened']>[number]

function sentence(name: string, missed: OpenedList['missed'], total: number): string {
  const which = missed.map(({ number, reason }) => `${number} (${reason})`).join(', ')
  const many = `${count(total, 'event')} of the ${name} ${total === 1 ? 'does' : 'do'}`
  return `With nothing but what is in it, ${many} not land: ${which}${total > missed.length ? ' …' : ''}`
}
