import { Box, Button, Flex, Progress, Text } from '@chakra-ui/react'
import type { Job } from '@ennick/contract'
import { type ReactElement, type ReactNode, useState } from 'react'
import { useChange } from '../data/queries.ts'
import { EvidenceList } from './evidence-list.tsx'
import { StateWord } from './state-word.tsx'
import { timeLeft, when } from './words.ts'

/** One job: what, how far, how fast, how long still, and how it ended; the encoder's own words and the checks fold out. */
export function JobLine({ job, actions }: { job: Job; actions?: ReactNode }): ReactElement {
  const cancel = useChange('cancelJob')
  const retry = useChange('retryJob')
  const [isOpen, setOpen] = useState(false)
  const live = job.state === 'waiting' || job.state === 'running'
  const more = job.checks.length > 0 || job.log !== null
  return (
    <Box borderBottomWidth="1px" borderColor="rule" py="2.5" data-testid="job" data-state={job.state}>
      <Flex align="center" gap="4">
        <Box width="7rem" flexShrink="0">
          <StateWord
            word={job.cancelRequested && job.state === 'running' ? 'stopping' : job.isHeld && job.state === 'waiting' ? 'held' : job.state}
          />
        </Box>
        <Text flex="1" minWidth="0" truncate title={job.title}>
          {job.title}
        </Text>
        <Text color="quiet" fontSize="0.85rem" textAlign="right" fontVariantNumeric="tabular-nums">
          {job.state === 'running' ? pace(job) : (job.summary ?? when(job.endedAt ?? job.createdAt))}
        </Text>
        {more && (
          <Button size="xs" variant="ghost" onClick={() => setOpen(!isOpen)} aria-expanded={isOpen}>
            {isOpen ? 'Fold' : 'Evidence'}
          </Button>
        )}
        {actions}
        {live && (
          <Button size="xs" variant="outline" loading={cancel.isPending} onClick={() => cancel.mutate({ params: { jobId: job.id } })}>
            Stop
          </Button>
        )}
        {(job.state === 'failed' || job.state === 'cancelled') && (
          <Button
            size="xs"
            variant="outline"
            loading={retry.isPending}
            onClick={() => retry.mutate({ params: { jobId: job.id }, body: {} })}
          >
            Retry
          </Button>
        )}
        {job.hasNewerRecipe && (job.state === 'failed' || job.state === 'cancelled') && (
          <Button
            size="xs"
            variant="outline"
            loading={retry.isPending}
            onClick={() => retry.mutate({ params: { jobId: job.id }, body: { recipe: 'newest' } })}
          >
            Retry with the newer recipe
          </Button>
        )}
      </Flex>
      {job.state === 'running' && (
        <Progress.Root
          size="xs"
          mt="2"
          value={job.progress ? (100 * job.progress.done) / Math.max(1, job.progress.total) : null}
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
      {isOpen && (
        <Box ml="8rem" mt="2">
          {job.checks.length > 0 && <EvidenceList rows={job.checks} expected="The original" found="What was made" />}
          {job.log && (
            <Box as="pre" fontFamily="mono" fontSize="0.8rem" whiteSpace="pre-wrap" overflowWrap="anywhere" bg="bg.subtle" p="2" mt="2">
              {job.log}
            </Box>
          )}
        </Box>
      )}
    </Box>
  )
}

function pace(job: Job): string {
  const { progress } = job
  if (!progress) return 'starting'
  const unit = progress.unit === 'frames' ? 'frames' : 'files'
  const speed =
    progress.unitsPerSecond === null
      ? ''
      : ` · ${progress.unitsPerSecond < 10 ? progress.unitsPerSecond.toFixed(1) : Math.round(progress.unitsPerSecond)} ${progress.unit === 'frames' ? 'fps' : 'files/s'}`
  return `${progress.done} of ${progress.total} ${unit}${speed} · ${timeLeft(progress.secondsLeft)}`
}
