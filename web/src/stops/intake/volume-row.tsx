import { Box, Button, Flex, Grid, HStack, Text } from '@chakra-ui/react'
import type { Job, Today, Volume } from '@ennick/contract'
import { nameSome } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { DetailLines } from '../../parts/detail-lines.tsx'
import { Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, count, when } from '../../parts/words.ts'
import { FetchLines } from './fetch-lines.tsx'
import { RunningJob } from './running-job.tsx'
import { volumeKinds } from './volume-kinds.ts'

const isLive = (job: Job): boolean => job.state === 'waiting' || job.state === 'running'

/** One volume: is it here, what is on it, is it safe, what can be done with it. */
export function VolumeRow({
  volume,
  jobs,
  lack,
  onOpen,
  onOffload,
  onMoved,
  onFormat,
  onProblems,
}: {
  volume: Volume
  jobs: readonly Job[]
  /** What is missed of it while it is away; null while that is not known, and while it is here. */
  lack: Today['volumesAway'][number] | null
  onOpen: () => void
  onOffload: () => void
  onMoved: () => void
  onFormat: () => void
  onProblems: () => void
}): ReactElement {
  const start = useChange('scanVolume')
  const compare = useChange('compareCopies')
  const scan = jobs.find((job) => job.id === volume.scanJobId) ?? null
  const offload = jobs.find((job) => job.id === volume.offloadJobId) ?? null
  const compared = jobs.find((job) => job.id === volume.compareJobId) ?? null
  const fetches = jobs.filter((job) => volume.fetchJobIds.includes(job.id))
  const comparing = compared && isLive(compared) ? compared : null
  return (
    <Box borderTopWidth="1px" borderColor="rule" py="3" data-testid={`volume-${volume.label}`}>
      <Grid templateColumns="minmax(7rem, 11rem) 6rem minmax(0, 1fr) auto" gap="4" alignItems="start">
        <Box minWidth="0">
          <Text fontWeight="semibold" overflowWrap="anywhere">
            {volume.label}
          </Text>
          <Text color="quiet" fontSize="0.9rem">
            {volumeKinds[volume.kind as keyof typeof volumeKinds] ?? volume.kind}
          </Text>
        </Box>
        <StateWord word={volume.isHere ? 'here' : 'away'} />
        <Box minWidth="0">
          <Text>{contents(volume)}</Text>
          {!volume.isAllowed && (
            <Text>
              Its folder is not among those that Ennick may use. Allow it (Settings says how), or say where it lies now.
            </Text>
          )}
          {!volume.isAnswering && (
            <HStack gap="2" align="start">
              <StateWord word="does not answer" />
              <Text as="span">
                Its share or disk hangs: whoever asks it waits. Ennick goes on without it, stops what worked with it,
                and takes both up again when it answers. Look at its cable, its network or its server
              </Text>
            </HStack>
          )}
          {volume.isTaken && (
            <HStack gap="2" align="start">
              <StateWord word="needs a look" />
              <Text as="span">
                Something else is at its place, and nothing of what is known of it. If another one is in, add that as a
                volume of its own; if this one was formatted, say so in its details
              </Text>
            </HStack>
          )}
          {volume.toReadAgain > 0 && (
            <Text>
              {count(volume.toReadAgain, 'file')} of it {volume.toReadAgain === 1 ? 'was' : 'were'} read by an earlier
              version, which read less: scan again
            </Text>
          )}
          {volume.unreadKinds.length > 0 && (
            <HStack gap="2" align="center">
              <StateWord word="not read" />
              <Text as="span">{unread(volume.unreadKinds)}</Text>
            </HStack>
          )}
          {volume.growingFiles > 0 && (
            <HStack gap="2" align="center">
              <StateWord word="being written" />
              <Text as="span">
                {count(volume.growingFiles, 'file')}: read as soon as nothing has changed{' '}
                {volume.growingFiles === 1 ? 'it' : 'them'} for some seconds
              </Text>
            </HStack>
          )}
          {volume.onlyHere > 0 && (
            <HStack gap="2" align="center">
              <StateWord word="only on a card" />
              <Text as="span">{count(volume.onlyHere, 'clip')}: offload before anybody works with them</Text>
            </HStack>
          )}
          {volume.notCompared.clips > 0 && !comparing && (
            <Text>
              {count(volume.notCompared.clips, 'clip')} {volume.notCompared.clips === 1 ? 'has' : 'have'} a copy{' '}
              {volume.isRemovable ? 'elsewhere' : 'here'} that nobody has compared: alike by size and fingerprint, which
              is no proof yet
            </Text>
          )}
          {volume.moved > 0 && volume.isHere && (
            <HStack gap="2" align="center">
              <StateWord word="moved" />
              <Text as="span">
                {count(volume.moved, 'original')} {volume.moved === 1 ? 'lies' : 'lie'} here at another place than the
                ledger has {volume.moved === 1 ? 'it' : 'them'}
              </Text>
            </HStack>
          )}
          {volume.moved > 0 && !volume.isHere && (
            <Text>
              The content of {count(volume.moved, 'original')} is on volumes that are here: if this one will not come
              back, point at those
            </Text>
          )}
          {volume.waitingProxies > 0 && (
            <Text>
              {count(volume.waitingProxies, 'proxy', 'proxies')} waiting for{' '}
              {volume.waitingProxies === 1 ? 'its original' : 'their originals'}
            </Text>
          )}
          <Text color="quiet" fontSize="0.85rem" fontFamily="mono" overflowWrap="anywhere">
            {volume.rootPath}
          </Text>
          <Text color="quiet" fontSize="0.85rem">
            {volume.isHere ? `Scanned ${when(volume.lastScanAt)}` : `Last seen ${when(volume.lastSeenAt)}`}
            {volume.isWatched && ' · watched'}
            {volume.freeBytes !== null && !volume.isRemovable && ` · ${bytes(volume.freeBytes)} free`}
          </Text>
          {lack !== null && lack.neededBy.length > 0 && (
            <Text>
              {count(volume.usedClips, 'clip')} of it {volume.usedClips === 1 ? 'is' : 'are'} needed by{' '}
              {nameSome(lack.neededBy)}
            </Text>
          )}
          {lack?.isMissed === false && <Text>Not missed: all picture and sound of it is here as well</Text>}
          <LastEnding volume={volume} jobs={jobs} scan={scan} offload={offload} />
          {compared && !comparing && <Compared job={compared} />}
          {compare.error && <Problem message={compare.error.message} />}
          {start.error && <Problem message={start.error.message} />}
        </Box>
        <Flex gap="2" wrap="wrap" justify="end" maxWidth="21rem">
          {volume.problems > 0 && (
            <Button size="xs" variant="outline" onClick={onProblems}>
              {count(volume.problems, 'file')} cannot be read
            </Button>
          )}
          <Button size="xs" variant="ghost" aria-label={`Details of ${volume.label}`} onClick={onOpen}>
            Details
          </Button>
          {volume.notCompared.clips > 0 && !comparing && (
            <Button
              size="xs"
              variant="outline"
              loading={compare.isPending}
              onClick={() => compare.mutate({ params: { volumeId: volume.id } })}
            >
              Compare {count(volume.notCompared.clips, 'copy', 'copies')}, {bytes(volume.notCompared.bytes)} to read
            </Button>
          )}
          {volume.moved > 0 && (
            <Button size="xs" variant={volume.isHere ? 'solid' : 'ghost'} onClick={onMoved}>
              Repoint {count(volume.moved, 'original')}…
            </Button>
          )}
          {volume.isRemovable && volume.isHere && volume.lastScanAt !== null && volume.onlyHere === 0 && (
            <Button size="xs" variant="ghost" onClick={onFormat}>
              May it be formatted?
            </Button>
          )}
          {volume.isRemovable && (
            <Button
              size="xs"
              variant={volume.onlyHere ? 'solid' : 'outline'}
              disabled={!volume.isHere || (offload !== null && isLive(offload))}
              onClick={onOffload}
            >
              Offload…
            </Button>
          )}
          {!scan && (
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
      {scan && <RunningJob job={scan} stop="Stop the scan" />}
      {comparing && <RunningJob job={comparing} stop="Stop comparing" />}
      {fetches.map((job) => (
        <FetchLines key={job.id} job={job} isLive={isLive(job)} />
      ))}
      {offload && isLive(offload) && <RunningJob job={offload} stop="Stop the offload" />}
    </Box>
  )
}

function contents(volume: Volume): string {
  const parts = [
    volume.lastScanAt === null ? 'Never scanned' : `${count(volume.clips, 'clip')}, ${bytes(volume.bytes)}`,
  ]
  if (volume.goneFiles > 0) parts.push(`${count(volume.goneFiles, 'file')} gone`)
  if (volume.otherFiles > 0) parts.push(count(volume.otherFiles, 'other file'))
  return parts.join(' · ')
}

/** Endings that are named one by one. */
const mostEndings = 3

/** "12 .xyz files, 340 GB: picture or sound of a kind …": they are no clips, and somebody may believe they are. */
function unread(kinds: Volume['unreadKinds']): string {
  const named = kinds
    .slice(0, mostEndings)
    .map(({ ending, files, bytes: size }) => `${count(files, `${ending || 'nameless'} file`)}, ${bytes(size)}`)
  const more = kinds.length > mostEndings ? `; and ${kinds.length - mostEndings} endings more` : ''
  return `${named.join('; ')}${more}: by ending or size they may be picture or sound of a kind that is not read here. No clip is made of them; an offload copies them with everything else.`
}

/** How the newest scan and offload ended, when that needs a word. */
function LastEnding({
  volume,
  jobs,
  scan,
  offload,
}: {
  volume: Volume
  jobs: readonly Job[]
  scan: Job | null
  offload: Job | null
}): ReactElement | null {
  const last = jobs.find((job) => job.kind === 'scan' && job.title === `Scan ${volume.label}` && job.endedAt !== null)
  const scanWord =
    last?.state === 'failed'
      ? last.error
      : last?.state === 'cancelled'
        ? 'The last scan was stopped; what it had read is kept.'
        : null
  const offloadWord =
    !offload || isLive(offload)
      ? null
      : offload.state === 'failed'
        ? offload.error
        : offload.state === 'cancelled'
          ? 'The last offload was stopped; the next goes on where it was.'
          : `Offloaded: ${offload.summary}`
  const isFailed = (job: Job | null | undefined): boolean => job?.state === 'failed'
  return (
    <>
      {scanWord &&
        !scan &&
        (isFailed(last) ? <Failed message={`Scan not done. ${scanWord}`} /> : <Text>{scanWord}</Text>)}
      {offloadWord &&
        (isFailed(offload) ? <Failed message={`Offload not done. ${offloadWord}`} /> : <Text>{offloadWord}</Text>)}
      {offload && isFailed(offload) && offload.summary && <WhatOf job={offload} />}
    </>
  )
}

const Failed = ({ message }: { message: string }): ReactElement => (
  <Box mt="2">
    <Problem message={message} />
  </Box>
)

function Compared({ job }: { job: Job }): ReactElement {
  if (job.state === 'cancelled') return <Text>Comparing was stopped; what was compared is kept.</Text>
  if (job.state !== 'failed') return <Text>Compared: {job.summary}</Text>
  return (
    <>
      <Failed message={`Not all copies are the same. ${job.error}`} />
      {job.summary && <WhatOf job={job} />}
    </>
  )
}

/** The files of a job that need a look, each with its reason, when somebody asks. */
function WhatOf({ job }: { job: Job }): ReactElement | null {
  const [isOpen, setOpen] = useState(false)
  const details = useRead('readJobDetails', { params: { jobId: job.id } })
  if (!details.data || details.data.total === 0) return null
  return (
    <Box mt="1">
      <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {isOpen ? 'Hide' : 'Show'} what to look at: {count(details.data.total, 'line')}
      </Button>
      {isOpen && <DetailLines details={details.data} />}
    </Box>
  )
}
