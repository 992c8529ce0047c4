import { Box, Button, Flex, Grid, Progress, Text } from '@chakra-ui/react'
import type { Job, Volume } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue } from '../../data/remembered.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, count, timeLeft, when } from '../../parts/words.ts'
import { AddVolume } from './add-volume.tsx'
import { CardBay } from './card-bay.tsx'
import { ProblemsSheet } from './problems-sheet.tsx'

/** The first stop: which volumes there are, which are here, and what is on them. */
export function IntakeStop(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const volumes = useRead('listVolumes', { params })
  const jobs = useRead('listJobs', { params })
  const [isAdding, setAdding] = useState(false)
  const [problemsOf, setProblemsOf] = useAddressValue('problems')
  if (volumes.isPending) return <Loading what="the volumes" />
  if (volumes.error) return <Problem message={volumes.error.message} />
  const away = volumes.data.filter((volume) => !volume.isHere)
  const chosen = volumes.data.find((volume) => volume.id === problemsOf) ?? null
  return (
    <Page
      title={
        away.length
          ? `${count(away.length, 'volume')} away: ${away.map((volume) => volume.label).join(', ')}`
          : volumes.data.length
            ? 'Every volume is here'
            : 'No volume yet'
      }
      answer={
        volumes.data.length
          ? `${count(
              volumes.data.reduce((sum, volume) => sum + volume.clips, 0),
              'clip',
            )} on ${count(volumes.data.length, 'volume')}`
          : undefined
      }
      actions={
        <Button size="sm" onClick={() => setAdding(true)}>
          Add a volume
        </Button>
      }
    >
      {volumes.data.length === 0 && (
        <Empty title="Add the first card, drive or folder">
          Ennick reads what is on it and never writes to it. It keeps the label, so that months later you know which box to ask for.
        </Empty>
      )}
      <Box mb="8">
        {volumes.data.map((volume) => (
          <VolumeRow
            key={volume.id}
            volume={volume}
            scan={jobs.data?.find((job) => job.id === volume.scanJobId) ?? null}
            lastFailure={lastFailure(jobs.data ?? [], volume)}
            onProblems={() => setProblemsOf(volume.id)}
          />
        ))}
      </Box>
      {production.isDemo && (
        <Box maxWidth="34rem">
          <CardBay />
        </Box>
      )}
      <AddVolume isOpen={isAdding} onClose={() => setAdding(false)} />
      <ProblemsSheet volume={chosen} onClose={() => setProblemsOf(null)} />
    </Page>
  )
}

/** Why the newest scan of a volume ended early, if it did. */
function lastFailure(jobs: readonly Job[], volume: Volume): string | null {
  const last = jobs.find((job) => job.kind === 'scan' && job.title === `Scan ${volume.label}` && job.endedAt !== null)
  return last?.state === 'failed' ? last.error : last?.state === 'cancelled' ? 'The last scan was stopped; what it had read is kept.' : null
}

function VolumeRow({
  volume,
  scan,
  lastFailure,
  onProblems,
}: {
  volume: Volume
  scan: Job | null
  lastFailure: string | null
  onProblems: () => void
}): ReactElement {
  const start = useChange('scanVolume')
  const cancel = useChange('cancelJob')
  return (
    <Box borderTopWidth="1px" borderColor="rule" py="3" data-testid={`volume-${volume.label}`}>
      <Grid templateColumns="minmax(7rem, 11rem) 6rem minmax(0, 1fr) auto" gap="4" alignItems="start">
        <Box minWidth="0">
          <Text fontWeight="semibold" overflowWrap="anywhere">
            {volume.label}
          </Text>
          <Text color="quiet" fontSize="0.9rem">
            {volume.kind}
          </Text>
        </Box>
        <StateWord word={volume.isHere ? 'here' : 'away'} />
        <Box minWidth="0">
          <Text>
            {volume.lastScanAt === null ? 'Never scanned' : `${count(volume.clips, 'clip')}, ${bytes(volume.bytes)}`}
            {volume.goneFiles > 0 && ` · ${count(volume.goneFiles, 'file')} gone`}
            {volume.otherFiles > 0 && ` · ${count(volume.otherFiles, 'other file')}`}
          </Text>
          <Text color="quiet" fontSize="0.85rem" fontFamily="mono" overflowWrap="anywhere">
            {volume.rootPath}
          </Text>
          <Text color="quiet" fontSize="0.85rem">
            {volume.isHere ? `Scanned ${when(volume.lastScanAt)}` : `Last seen ${when(volume.lastSeenAt)}`}
          </Text>
          {lastFailure && !scan && <Text>{lastFailure}</Text>}
          {start.error && <Problem message={start.error.message} />}
        </Box>
        <Flex gap="2">
          {volume.problems > 0 && (
            <Button size="xs" variant="outline" onClick={onProblems}>
              {count(volume.problems, 'file')} cannot be read
            </Button>
          )}
          {scan ? (
            <Button size="xs" variant="outline" loading={cancel.isPending} onClick={() => cancel.mutate({ params: { jobId: scan.id } })}>
              Stop the scan
            </Button>
          ) : (
            <Button
              size="xs"
              variant="outline"
              disabled={!volume.isHere}
              loading={start.isPending}
              onClick={() => start.mutate({ params: { volumeId: volume.id } })}
            >
              {volume.lastScanAt === null ? 'Scan' : 'Scan again'}
            </Button>
          )}
        </Flex>
      </Grid>
      {scan && <ScanProgress job={scan} />}
    </Box>
  )
}

function ScanProgress({ job }: { job: Job }): ReactElement {
  const { progress } = job
  return (
    <Box mt="2">
      <Progress.Root size="xs" value={progress ? (100 * progress.done) / Math.max(1, progress.total) : null} aria-label={job.title}>
        <Progress.Track bg="rule">
          <Progress.Range bg="tide.solid" />
        </Progress.Track>
      </Progress.Root>
      <Text color="quiet" fontSize="0.85rem" mt="1">
        {progress
          ? `${progress.done} of ${progress.total} files read · ${timeLeft(progress.secondsLeft)}`
          : job.state === 'waiting'
            ? 'Waiting for its turn'
            : 'Looking through the folders'}
      </Text>
    </Box>
  )
}
