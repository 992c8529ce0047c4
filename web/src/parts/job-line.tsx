import { Box, Button, Flex, Progress, Text } from '@chakra-ui/react'
import type { Job } from '@ennick/contract'
import { type ReactElement, type ReactNode, useState } from 'react'
import { useChange, useRead } from '../data/queries.ts'
import { EvidenceList } from './evidence-list.tsx'
import { endedPace, pace } from './pace.ts'
import { StateWord } from './state-word.tsx'
import { when } from './words.ts'

const besides = { color: 'quiet', fontSize: '0.85rem', textAlign: 'right', fontVariantNumeric: 'tabular-nums' } as const

/**
 * One job: what, how far, how fast, how long still, and how it ended; the encoder's own words and the checks fold out.
 */
export function JobLine({ job, actions }: { job: Job; actions?: ReactNode }): ReactElement {
  const cancel = useChange('cancelJob')
  const retry = useChange('retryJob')
  const dismiss = useChange('dismissJob')
  const [isOpen, setOpen] = useState(false)
  const live = job.state === 'waiting' || job.state === 'running'
  const isRunning = job.state === 'running'
  const more = job.files !== null || job.hasDetails
  const canBeRetried = job.state === 'failed' || job.state === 'cancelled'
  const ofJob = { params: { jobId: job.id } }
  const told = job.summary ?? when(job.endedAt ?? job.createdAt)
  return (
    <Box borderBottomWidth="1px" borderColor="rule" py="2.5" data-testid="job" data-job={job.id} data-state={job.state}>
      <Flex align="center" gap="4">
        <Box width="7rem" flexShrink="0">
          <StateWord word={wordOf(job)} />
        </Box>
        <Text flex="1" minWidth={isRunning ? '0' : '9rem'} truncate title={job.title}>
          {job.title}
        </Text>
        {isRunning ? (
          <Text {...besides}>{pace(job)}</Text>
        ) : (
          <Text {...besides} minWidth="0" truncate title={told}>
            {told}
          </Text>
        )}
        {more && (
          <Button size="xs" variant="ghost" onClick={() => setOpen(!isOpen)} aria-expanded={isOpen}>
            {isOpen ? 'Close' : 'Details'}
          </Button>
        )}
        {actions}
        {live && <Act label="Stop" of={cancel} onClick={() => cancel.mutate(ofJob)} />}
        {job.goesOnByItself && (
          <Act
            label="Stop waiting"
            title="It waits for its volume, and goes on by itself when that is back"
            of={cancel}
            onClick={() => cancel.mutate(ofJob)}
          />
        )}
        {canBeRetried && <Act label="Retry" of={retry} onClick={() => retry.mutate({ ...ofJob, body: {} })} />}
        {job.state === 'failed' && !job.goesOnByItself && (
          <Act
            label="Dismiss"
            title="It counts as stopped from then on, and can be retried still"
            isQuiet
            of={dismiss}
            onClick={() => dismiss.mutate(ofJob)}
          />
        )}
        {job.hasNewerRecipe && canBeRetried && (
          <Act
            label="Retry with the newer recipe"
            of={retry}
            onClick={() => retry.mutate({ ...ofJob, body: { recipe: 'newest' } })}
          />
        )}
      </Flex>
      {isRunning && (
        <Progress.Root
          size="xs"
          mt="2"
          value={job.progress ? (100 * job.progress.done) / Math.max(1, job.progress.total) : job.isHeld ? 0 : null}
          aria-label={`Progress of ${job.title}`}
        >
          <Progress.Track bg="rule">
            <Progress.Range bg="tide.solid" />
          </Progress.Track>
        </Progress.Root>
      )}
      {job.error && (
        <Text mt="1" ml="8rem" overflowWrap="anywhere">
          {job.error}
        </Text>
      )}
      {isOpen && <Details job={job} />}
    </Box>
  )
}

/** Something that can be done with a job. */
const Act = ({
  label,
  title,
  isQuiet = false,
  of,
  onClick,
}: {
  label: string
  title?: string
  isQuiet?: boolean
  of: { readonly isPending: boolean }
  onClick: () => void
}): ReactElement => (
  <Button
    size="xs"
    variant={isQuiet ? 'ghost' : 'outline'}
    {...(title && { title })}
    loading={of.isPending}
    onClick={onClick}
  >
    {label}
  </Button>
)

/** What it read and wrote, what was compared, and what the encoder said. */
function Details({ job }: { job: Job }): ReactElement {
  const speed = job.state === 'done' ? endedPace(job) : null
  // A list of jobs goes without these.
  const { data } = useRead('readJob', job.hasDetails ? { params: { jobId: job.id } } : null)
  return (
    <Box ml="8rem" mt="2">
      {job.files && (
        <Box as="dl" display="grid" gridTemplateColumns="7rem 1fr" columnGap="3" fontSize="0.85rem" mb="2">
          <dt>From</dt>
          <Box as="dd" fontFamily="mono" overflowWrap="anywhere">
            {job.files.source}
          </Box>
          <dt>To</dt>
          <Box as="dd" fontFamily="mono" overflowWrap="anywhere">
            {job.files.outputs.map((path) => (
              <div key={path}>{path}</div>
            ))}
          </Box>
          {speed && (
            <>
              <dt>Speed</dt>
              <dd>{speed}</dd>
            </>
          )}
          {job.attempts > 1 && (
            <>
              <dt>Attempts</dt>
              <dd>{job.attempts}</dd>
            </>
          )}
        </Box>
      )}
      {data &&
        [...new Set(data.checks.map(({ recipe }) => recipe))].map((recipe) => (
          <Box key={recipe ?? ''} mt={recipe ? '2' : undefined}>
            {recipe && <Text fontWeight="semibold">{recipe}</Text>}
            <EvidenceList
              rows={data.checks.filter((row) => row.recipe === recipe)}
              expected="The original"
              found="What was made"
            />
          </Box>
        ))}
      {data?.log && (
        <Box as="details" mt="2">
          <Box as="summary" cursor="pointer" fontSize="0.85rem">
            The encoder’s own words
          </Box>
          <Box
            as="pre"
            fontFamily="mono"
            fontSize="0.8rem"
            whiteSpace="pre-wrap"
            overflowWrap="anywhere"
            bg="bg.subtle"
            p="2"
            mt="1"
          >
            {data.log}
          </Box>
        </Box>
      )}
    </Box>
  )
}

/** Where a job stands, in a word. */
function wordOf({ state, cancelRequested, isHeld, goesOnByItself }: Job): string {
  if (goesOnByItself) return 'waits'
  if (state === 'running') return cancelRequested ? 'stopping' : isHeld ? 'paused' : 'running'
  return state === 'waiting' && isHeld ? 'held' : state
}
