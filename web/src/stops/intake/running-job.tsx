import { Box, Button, Flex, Progress, Text } from '@chakra-ui/react'
import type { Job } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { useChange } from '../../data/queries.ts'
import { bytes, timeLeft } from '../../parts/words.ts'

/** A job of Intake that waits or runs: how far, how fast, how long still. */
export function RunningJob({ job, stop }: { job: Job; stop: string }): ReactElement {
  const cancel = useChange('cancelJob')
  const { progress } = job
  return (
    <Flex mt="2" gap="4" align="center">
      <Box flex="1">
        <Progress.Root
          size="xs"
          value={progress ? (100 * progress.done) / Math.max(1, progress.total) : null}
          aria-label={job.title}
        >
          <Progress.Track bg="rule">
            <Progress.Range bg="tide.solid" />
          </Progress.Track>
        </Progress.Root>
        <Text color="quiet" fontSize="0.85rem" mt="1">
          {pace(job)}
        </Text>
      </Box>
      <Button
        size="xs"
        variant="outline"
        loading={cancel.isPending}
        onClick={() => cancel.mutate({ params: { jobId: job.id } })}
      >
        {stop}
      </Button>
    </Flex>
  )
}

function pace(job: Job): string {
  const { progress, state, kind } = job
  if (!progress)
    return state === 'waiting'
      ? 'Waiting for its turn'
      : kind === 'fetch'
        ? 'Reading the list'
        : kind === 'scan'
          ? 'Looking through the folders'
          : 'Looking at what is there'
  const left = timeLeft(progress.secondsLeft)
  if (kind === 'fetch' && progress.unit === 'bytes')
    return `${bytes(progress.done)} of ${bytes(progress.total)} fetched${speedOf(job)} · ${left}`
  if (kind === 'fetch') return `${formatNumber(progress.done)} of ${formatNumber(progress.total)} files · ${left}`
  if (kind === 'compare') return `${bytes(progress.done)} of ${bytes(progress.total)} read${speedOf(job)} · ${left}`
  if (progress.unit !== 'bytes')
    return `${formatNumber(progress.done)} of ${formatNumber(progress.total)} files read · ${left}`
  return `${bytes(progress.done)} of ${bytes(progress.total)} copied and read back${speedOf(job)} · ${left}`
}

const speedOf = ({ progress }: Job): string =>
  typeof progress?.unitsPerSecond === 'number' ? ` · ${bytes(progress.unitsPerSecond)}/s` : ''
