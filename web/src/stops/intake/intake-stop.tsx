import { Box, Button, HStack, Text } from '@chakra-ui/react'
import type { Volume } from '@ennick/contract'
import { nameSome } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { useAddressValue, useOpened } from '../../data/remembered.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Offers } from '../../parts/offers.tsx'
import { Page } from '../../parts/page.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'
import { AddVolume } from './add-volume.tsx'
import { Awaited } from './awaited.tsx'
import { CardBay } from './card-bay.tsx'
import { FetchDialog } from './fetch-dialog.tsx'
import { FitTable } from './fit-table.tsx'
import { FormatDialog } from './format-dialog.tsx'
import { MovedDialog } from './moved-dialog.tsx'
import { OffloadDialog } from './offload-dialog.tsx'
import { ProblemsSheet } from './problems-sheet.tsx'
import { StandInCamera } from './stand-in-camera.tsx'
import { VolumeRow } from './volume-row.tsx'
import { VolumeSheet } from './volume-sheet.tsx'

/** So many volumes that are away and not missed are shown like all others. */
const mostResting = 5

/** The first stop: which volumes there are, which are here, what is on them, and what is safe. */
export function IntakeStop(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const volumes = useRead('listVolumes', { params })
  const jobs = useRead('listJobs', { params })
  const today = useRead('today', { params })
  const [isAdding, setAdding] = useState(false)
  const [isFetching, setFetching] = useState(false)
  const [areRestingShown, setRestingShown] = useState(false)
  const [problemsOf, setProblemsOf] = useOpened('problems')
  const [openId, setOpenId] = useOpened('volume')
  const [formatOf, setFormatOf] = useOpened('format')
  const [movedOf, setMovedOf] = useOpened('moved')
  const [offloadId, setOffloadId] = useAddressValue('offload')
  if (volumes.isPending) return <Loading what="the volumes" />
  if (volumes.error) return <Problem message={volumes.error.message} />
  const list = volumes.data
  const away = list.filter((volume) => !volume.isHere)
  const lacks = new Map(today.data?.volumesAway.map((lack) => [lack.id, lack]))
  const missed = away.filter(({ id }) => lacks.get(id)?.isMissed)
  const resting = away.length - missed.length > mostResting ? away.filter((volume) => !missed.includes(volume)) : []
  const find = (id: string) => list.find((volume) => volume.id === id) ?? null
  const row = (volume: Volume): ReactElement => (
    <VolumeRow
      key={volume.id}
      volume={volume}
      jobs={jobs.data ?? []}
      lack={lacks.get(volume.id) ?? null}
      onOpen={() => setOpenId(volume.id)}
      onOffload={() => setOffloadId(volume.id)}
      onFormat={() => setFormatOf(volume.id)}
      onMoved={() => setMovedOf(volume.id)}
      onProblems={() => setProblemsOf(volume.id)}
    />
  )
  return (
    <Page
      title={
        missed.length
          ? `${count(missed.length, 'volume')} away: ${nameSome(missed.map(({ label }) => label))}`
          : away.length
            ? `${count(away.length, 'volume')} away${today.data ? ', and nothing is missed' : ''}`
            : list.length
              ? 'Every volume is here'
              : 'No volume yet'
      }
      answer={list.length ? answerOf(list) : undefined}
      actions={
        <HStack gap="2">
          <Button size="sm" variant="outline" onClick={() => setFetching(true)}>
            Fetch from a store…
          </Button>
          <Button size="sm" onClick={() => setAdding(true)}>
            Add a volume
          </Button>
        </HStack>
      }
    >
      {list.length === 0 && (
        <Empty title="Add the first card, drive or folder">
          Ennick reads what is on it and never writes to it. It keeps the label, so that months later you know which box
          to ask for.
        </Empty>
      )}
      <Box mb="8">
        {list.filter((volume) => !resting.includes(volume)).map(row)}
        {resting.length > 0 && (
          <Box borderTopWidth="1px" borderColor="rule" py="3">
            <HStack gap="3" wrap="wrap">
              <StateWord word="away" />
              <Text>
                {count(resting.length, 'volume')}
                {today.data && ', and not missed: all picture and sound of them is here as well'}
              </Text>
              <Button
                size="xs"
                variant="outline"
                aria-expanded={areRestingShown}
                onClick={() => setRestingShown(!areRestingShown)}
              >
                {areRestingShown ? 'Hide them' : 'Show them'}
              </Button>
            </HStack>
          </Box>
        )}
        {areRestingShown && resting.map(row)}
      </Box>
      <Awaited />
      <FitTable />
      <Offers isFolded />
      {production.isDemo && (
        <Box maxWidth="34rem">
          <CardBay />
          <StandInCamera />
        </Box>
      )}
      <FetchDialog
        isOpen={isFetching}
        volumes={list}
        onClose={() => setFetching(false)}
        onAdd={() => setAdding(true)}
      />
      <AddVolume isOpen={isAdding} onClose={() => setAdding(false)} />
      <ProblemsSheet volume={find(problemsOf)} onClose={() => setProblemsOf(null)} />
      <FormatDialog volume={find(formatOf)} onClose={() => setFormatOf(null)} />
      <MovedDialog volume={find(movedOf)} onClose={() => setMovedOf(null)} />
      <VolumeSheet volume={find(openId)} onClose={() => setOpenId(null)} />
      <OffloadDialog
        volume={find(offloadId)}
        volumes={list}
        onClose={() => setOffloadId(null)}
        onAdd={() => setAdding(true)}
      />
    </Page>
  )
}

/** Is everything in, and is it safe? What was seen and is no clip belongs to that answer. */
function answerOf(list: readonly Volume[]): string {
  const sum = (of: (volume: Volume) => number): number => list.reduce((total, volume) => total + of(volume), 0)
  const [atRisk, problems] = [sum(({ onlyHere }) => onlyHere), sum((volume) => volume.problems)]
  const moved = sum((volume) => (volume.isHere ? volume.moved : 0))
  const unread = sum(({ unreadKinds }) => unreadKinds.reduce((total, { files }) => total + files, 0))
  return [
    `${count(
      sum(({ clips }) => clips),
      'clip',
    )} on ${count(list.length, 'volume')}`,
    atRisk ? `${count(atRisk, 'clip')} only on a card` : 'every clip is on a volume that stays',
    ...(moved ? [`${count(moved, 'original')} moved`] : []),
    ...(problems ? [`${count(problems, 'file')} cannot be read`] : []),
    ...(unread ? [`${count(unread, 'file')} of a kind that is not read`] : []),
  ].join(' · ')
}
