import { Box, Grid, HStack, Text } from '@chakra-ui/react'
import type { LedgerCopies, Today } from '@ennick/contract'
import { formatNumber, nameSome } from '@ennick/core'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { Go } from '../../parts/go.tsx'
import { JobLine } from '../../parts/job-line.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, count, when } from '../../parts/words.ts'
import { CardBay } from '../intake/card-bay.tsx'
import { Line, Lines } from './lines.tsx'
import { VolumesAway } from './volumes-away.tsx'

/** Home: is everything in, what runs, what is wrong, what next. */
export function TodayStop(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const today = useRead('today', { params })
  const jobs = useRead('listJobs', { params })
  const history = useRead('history', { params, query: { limit: mostLately } })
  const ledger = useRead('listLedgerCopies', {})
  if (today.isPending) return <Loading what="today" />
  if (today.error) return <Problem message={today.error.message} />
  const data = today.data
  const atRisk = atRiskOf(data)
  const live = (jobs.data ?? []).filter((job) => job.state === 'running' || job.state === 'waiting')
  const failed = (jobs.data ?? []).filter((job) => job.state === 'failed')
  return (
    <Page title={headline(data)} answer={`${count(data.clips.total, 'original')}, ${bytes(data.clips.bytes)}`}>
      <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) minmax(0, 1fr)' }} columnGap="12">
        <Box>
          <Section title="Is everything in?">
            <Lines>
              <VolumesAway volumes={data.volumesAway} />
              {data.neverScanned.length > 0 && (
                <Line>
                  Never scanned: <Go to="intake">{nameSome(data.neverScanned)}</Go>
                </Line>
              )}
              {data.growing.map(({ label, files }) => (
                <Line key={label}>
                  <HStack gap="3" wrap="wrap">
                    <StateWord word="being written" />
                    <Go to="intake">
                      {count(files, 'file')} on {label}
                    </Go>
                  </HStack>
                </Line>
              ))}
              {atRisk > 0 && (
                <Line>
                  <HStack gap="3" wrap="wrap">
                    <StateWord word="only on a card" />
                    <Go to="clips?only=only+on+a+card">{count(atRisk, 'clip')}</Go>
                    <Text color="quiet">
                      {nameSome(data.onlyOnCard.map(({ label, clips }) => `${label} ${formatNumber(clips)}`))}
                    </Text>
                  </HStack>
                </Line>
              )}
              {data.gone > 0 && (
                <Line>
                  <HStack gap="3" wrap="wrap">
                    <StateWord word="gone" />
                    <Go to="clips?only=gone">{count(data.gone, 'original')}</Go>
                    <Text color="quiet">not where the ledger has {data.gone === 1 ? 'it' : 'them'}</Text>
                  </HStack>
                </Line>
              )}
              {data.problems > 0 && (
                <Line>
                  <Go to="intake">{count(data.problems, 'file')} cannot be read</Go>
                </Line>
              )}
            </Lines>
          </Section>
          <Section title="What is wrong?">
            <Lines>
              {data.cuts.length === 0 && <Line>No cut has been read yet.</Line>}
              {data.cuts.map((cut) => (
                <Line key={cut.id}>
                  <Go to={cut.blocking ? `mend/${cut.id}` : `handoff/${cut.id}`}>{cut.name}</Go>
                  <Text color="quiet">
                    {formatNumber(cut.onOriginal)} of {count(cut.events, 'event')} on their original
                    {cut.blocking > 0
                      ? ` · ${count(cut.blocking, 'finding')} ${cut.blocking === 1 ? 'blocks' : 'block'} the handoff`
                      : cut.handedOffAt
                        ? ` · handed off ${when(cut.handedOffAt)}`
                        : ' · ready to hand off'}
                    {cut.changedSince > 0 && (
                      <>
                        {' · '}
                        <Go to={`handoff/${cut.id}`}>
                          {count(cut.changedSince, 'event')} changed since it was handed off
                        </Go>
                      </>
                    )}
                    {cut.fresh > 0 && (
                      <>
                        {' · '}
                        <Go to={`mend/${cut.id}?weight=new+since+yesterday`}>{cut.fresh} new since yesterday</Go>
                      </>
                    )}
                  </Text>
                </Line>
              ))}
              {data.pairVerdicts.length > 0 && (
                <Line>
                  <HStack gap="5" wrap="wrap">
                    {data.pairVerdicts.map((entry) => (
                      <Go key={entry.verdict} to={`pairs?verdict=${encodeURIComponent(entry.verdict)}`}>
                        <StateWord word={entry.verdict} times={entry.count} />
                      </Go>
                    ))}
                  </HStack>
                </Line>
              )}
            </Lines>
          </Section>
          <Section title="What next?">
            <Lines>
              {[...nextSteps(data), ...ledgerSteps(ledger.data)].map((step) => (
                <Line key={step.text}>
                  <Go to={step.to}>{step.text}</Go>
                </Line>
              ))}
            </Lines>
          </Section>
        </Box>
        <Box>
          <Section title="What runs?">
            {live.length === 0 && failed.length === 0 && <Text color="quiet">Nothing runs or waits.</Text>}
            {live.slice(0, 6).map((job) => (
              <JobLine key={job.id} job={job} />
            ))}
            {live.length > 6 && <Go to="make?view=queue">and {formatNumber(live.length - 6)} more on the queue</Go>}
            {failed.slice(0, mostFailed).map((job) => (
              <JobLine key={job.id} job={job} />
            ))}
            {failed.length > mostFailed && (
              <Go to="make?view=queue">and {formatNumber(failed.length - mostFailed)} more that failed</Go>
            )}
          </Section>
          {production.isDemo && <CardBay />}
          <Section title="Lately" action={<Go to="history">All of it</Go>}>
            <Lines>
              {(history.data ?? []).map((line) => (
                <Line key={line.id}>
                  <Text color="quiet" fontSize="0.85rem">
                    {when(line.at)}
                  </Text>
                  <Text overflowWrap="anywhere">{line.what}</Text>
                </Line>
              ))}
            </Lines>
          </Section>
        </Box>
      </Grid>
    </Page>
  )
}

const mostFailed = 3
const mostLately = 8

/** So many things are named in one line; the page below has them all. */
const mostInHeadline = 3

const atRiskOf = ({ onlyOnCard }: Today): number => onlyOnCard.reduce((sum, { clips }) => sum + clips, 0)

function headline(data: Today): string {
  const blocking = data.cuts.reduce((sum, cut) => sum + cut.blocking, 0)
  const parts: string[] = []
  const missed = data.volumesAway.filter(({ isMissed }) => isMissed)
  if (missed.length) parts.push(`${count(missed.length, 'volume')} away`)
  if (data.gone) parts.push(`${count(data.gone, 'original')} gone`)
  if (atRiskOf(data)) parts.push(`${count(atRiskOf(data), 'clip')} only on a card`)
  if (blocking) parts.push(`${count(blocking, 'finding')} in the way of a handoff`)
  if (data.neverScanned.length) parts.push(`${count(data.neverScanned.length, 'volume')} never scanned`)
  const growing = data.growing.reduce((sum, { files }) => sum + files, 0)
  if (growing) parts.push(`${count(growing, 'file')} being written`)
  if (data.counts.pairs) parts.push(`${count(data.counts.pairs, 'pair')} to look at`)
  if (data.problems) parts.push(`${count(data.problems, 'file')} cannot be read`)
  if (data.counts.make) parts.push(`${count(data.counts.make, 'job')} on the queue`)
  if (parts.length) return parts.slice(0, mostInHeadline).join(', ')
  return data.clips.total === 0 ? 'Nothing is in yet' : 'All is in, and nothing was found wrong'
}

function nextSteps(data: Today): { text: string; to: string }[] {
  const steps: { text: string; to: string }[] = []
  if (data.clips.total === 0) steps.push({ text: 'Add the first volume and scan it', to: 'intake' })
  const needed = data.volumesAway.filter((volume) => volume.neededBy.length)
  for (const [what, some] of [
    ['Put in', needed.filter(({ isAllowed }) => isAllowed)],
    ['Allow the folder of', needed.filter(({ isAllowed }) => !isAllowed)],
  ] as const)
    if (some.length) steps.push({ text: `${what} ${nameSome(some.map(({ label }) => label))}`, to: 'intake' })
  if (data.neverScanned.length) steps.push({ text: `Scan ${nameSome(data.neverScanned)}`, to: 'intake' })
  const isAway = new Set(data.volumesAway.map(({ id }) => id))
  const [card] = data.onlyOnCard.filter(({ volumeId }) => !isAway.has(volumeId))
  const clipsOf = (card: Today['onlyOnCard'][number], clips: number): string =>
    `${count(clips, 'clip')} of ${card.label} ${clips === 1 ? 'has a copy' : 'have copies'} that nobody has read back`
  if (card && card.notCompared === card.clips)
    steps.push({ text: `Compare: ${clipsOf(card, card.notCompared)}`, to: 'intake' })
  else if (card)
    steps.push({
      text: `Offload ${card.label}: ${count(card.clips, 'clip')} of it ${card.clips === 1 ? 'is' : 'are'} only there`,
      to: `intake?offload=${card.volumeId}`,
    })
  for (const { volumeId, label, originals } of data.moved)
    steps.push({
      text: `Point ${count(originals, 'original')} at where ${originals === 1 ? 'it lies' : 'they lie'} on ${label}`,
      to: `intake?moved=${volumeId}`,
    })
  if (data.counts.clips)
    steps.push({ text: `Give ${count(data.counts.clips, 'clip')} a reel`, to: 'clips?only=no+reel' })
  if (data.clips.withoutProxy)
    steps.push({
      text: `Make ${count(data.clips.withoutProxy, 'proxy', 'proxies')} that ${data.clips.withoutProxy === 1 ? 'is' : 'are'} missing`,
      to: 'make',
    })
  const broken = data.cuts.find((cut) => cut.blocking > 0)
  if (broken) steps.push({ text: `Mend “${broken.name}”`, to: `mend/${broken.id}` })
  const ready = data.cuts.find((cut) => cut.blocking === 0 && (!cut.handedOffAt || cut.changedSince > 0))
  if (ready && data.counts.handoff > 0)
    steps.push({
      text: `Hand off “${ready.name}”${ready.handedOffAt ? ' again' : ''}`,
      to: `handoff/${ready.id}`,
    })
  if (data.done?.items)
    steps.push({
      text: `Release what was made: ${count(data.done.items, 'item')}, ${bytes(data.done.bytes)}, can be made again`,
      to: 'pairs',
    })
  if (data.done && !data.done.isArchived)
    steps.push({ text: 'Archive the originals: every cut is handed off as it stands', to: 'settings' })
  if (steps.length === 0) steps.push({ text: 'Read the next cut', to: 'cuts' })
  return steps
}

/** The ledger is all that was ever done here: that it is on one disk alone is told last, and always. */
function ledgerSteps(ledger: LedgerCopies | undefined): { text: string; to: string }[] {
  if (ledger?.problem) return [{ text: 'The ledger could not be copied: look why', to: 'settings' }]
  if (ledger && (ledger.elsewhere === null || ledger.elsewhere.isOnOneDisk))
    return [{ text: 'Have the ledger copied to another disk', to: 'settings' }]
  return []
}
