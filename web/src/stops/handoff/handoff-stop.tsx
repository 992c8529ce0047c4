import { Box, Button, Flex, Text } from '@chakra-ui/react'
import type { Cut, FindingRow, PreflightInfo } from '@ennick/contract'
import type { WriteOptions } from '@ennick/core'
import { formatNumber } from '@ennick/core'
import { Fragment, type ReactElement, useState } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { CutChoice, useChosenCut } from '../../parts/cut-choice.tsx'
import { Go } from '../../parts/go.tsx'
import { Lapsed, LeaveOpen, WithdrawDecision } from '../../parts/leave-open.tsx'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { OffloadLink } from '../../parts/offload-link.tsx'
import { Page } from '../../parts/page.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count, timeLeft } from '../../parts/words.ts'
import { FinishedFiles } from './finished-files.tsx'
import { Formats } from './formats.tsx'
import { HandoffList } from './handoff-list.tsx'
import { Pulls } from './pulls.tsx'

/** The last stop: a preflight, decisions on what stays open, and the cut on its originals. */
export function HandoffStop(): ReactElement {
  const { cuts, cut, isPending, error } = useChosenCut()
  if (isPending) return <Loading what="the cuts" />
  if (error) return <Problem message={error} />
  if (!cut) {
    return (
      <Page title="Nothing to hand off yet">
        <Empty title="No cut has been read">Read a cut in Cuts first.</Empty>
      </Page>
    )
  }
  return <CutHandoff key={cut.id} cut={cut} cuts={cuts} />
}

function CutHandoff({ cut, cuts }: { cut: Cut; cuts: readonly Cut[] }): ReactElement {
  const production = useProduction()
  const preflight = useRead('readPreflight', { params: { cutId: cut.id } })
  const handoffs = useRead('listHandoffs', { params: { productionId: production.id } })
  const handOff = useChange('handOff')
  const [options, setOptions] = useState<WriteOptions>(() =>
    // What the target cannot hold is cut when the list is written, and told.
    (production.target?.longestReel ?? 9) <= 8 ? { edlReels: 'eight characters' } : {},
  )
  if (preflight.isPending) return <Loading what="the preflight" />
  if (preflight.error) return <Problem message={preflight.error.message} />
  const { data } = preflight
  return (
    <Page
      title={data.ready ? 'Ready to hand off' : `${count(data.open.length, 'finding')} in the way`}
      answer={data.ready ? 'What leaves points at originals only' : 'Mend them, or decide upon each with a reason'}
      actions={
        <>
          <CutChoice stop="handoff" cuts={cuts} chosen={cut} />
          {!data.ready && (
            <Button size="sm" variant="outline" asChild>
              <Link to={`/p/${production.id}/mend/${cut.id}`}>Go to Mend</Link>
            </Button>
          )}
          <Button
            size="sm"
            disabled={!data.ready}
            loading={handOff.isPending}
            onClick={() => handOff.mutate({ params: { cutId: cut.id }, body: options })}
          >
            Hand off {count(cut.events, 'event')} on originals
          </Button>
        </>
      }
    >
      {handOff.error && <Problem message={handOff.error.message} />}
      <Section title="Preflight">
        {data.checks.map((check) => (
          <Flex key={check.id} gap="5" py="1.5" data-testid={`check-${check.id}`} data-result={check.result}>
            <Box width="9.5rem" flexShrink="0">
              <StateWord word={check.result} />
            </Box>
            <Text flex="1" minWidth="0">
              {check.question}{' '}
              <Box as="span" color="quiet">
                {check.answer}
              </Box>
              {check.kinds.map((kind, index) => (
                <Fragment key={kind}>
                  {index ? ' · ' : ' '}
                  <Go to={`/p/${production.id}/mend/${cut.id}?kind=${encodeURIComponent(kind)}`}>{kind}</Go>
                </Fragment>
              ))}
            </Text>
          </Flex>
        ))}
      </Section>
      <Trial cutId={cut.id} tried={data.tried} />
      {data.open.length > 0 && (
        <Section title="Open, and in the way">
          {data.open.map((finding) => (
            <OpenFinding key={finding.key} cutId={cut.id} finding={finding} />
          ))}
        </Section>
      )}
      {data.decided.length > 0 && (
        <Section title="Left open by decision">
          {data.decided.map((finding) => (
            <DecidedFinding key={finding.key} cutId={cut.id} finding={finding} />
          ))}
        </Section>
      )}
      <Formats cutId={cut.id} options={options} onOptions={setOptions} />
      <Pulls cut={cut} />
      <Section title="Handoffs">
        <HandoffList handoffs={(handoffs.data ?? []).filter((handoff) => handoff.cutId === cut.id)} />
      </Section>
      <FinishedFiles cut={cut} />
    </Page>
  )
}

/** Whether the originals decode: one that plays through its proxy may die in the render. */
function Trial({ cutId, tried }: { cutId: string; tried: PreflightInfo['tried'] }): ReactElement | null {
  const production = useProduction()
  const jobs = useRead('listJobs', { params: { productionId: production.id } })
  const start = useChange('tryOriginals')
  const running = jobs.data?.find((job) => job.kind === 'try' && (job.state === 'waiting' || job.state === 'running'))
  if (tried.of === 0) return null
  return (
    <Section
      title="Do the originals decode?"
      action={
        <Button
          size="xs"
          variant="outline"
          loading={start.isPending || running !== undefined}
          loadingText={running?.progress ? timeLeft(running.progress.secondsLeft) : 'Trying'}
          onClick={() => start.mutate({ params: { cutId } })}
        >
          Try {count(tried.of, 'original')} at head, quarters and tail
        </Button>
      }
    >
      <Text color="quiet">
        {tried.done === tried.of
          ? `All ${count(tried.of, 'original')} that are here were tried; what does not decode is among the findings.`
          : `${formatNumber(tried.done)} of ${count(tried.of, 'original')} that are here were tried. ` +
            'A damaged one plays through its proxy, and dies in the render.'}
      </Text>
      {start.error && <Problem message={start.error.message} />}
    </Section>
  )
}

function OpenFinding({ cutId, finding }: { cutId: string; finding: FindingRow }): ReactElement {
  return (
    <Box borderBottomWidth="1px" borderColor="rule" py="2.5" data-testid="open-finding">
      <Text mb="1.5" overflowWrap="anywhere">
        <b>{finding.kind}.</b> {finding.message}
      </Text>
      <Lapsed finding={finding} />
      <Flex gap="4" align="center" wrap="wrap">
        <LeaveOpen cutId={cutId} finding={finding} />
        {finding.mends.includes('offload') && (
          <OffloadLink volumeLabel={finding.volumeLabel} size="sm" variant="outline" />
        )}
      </Flex>
    </Box>
  )
}

function DecidedFinding({ cutId, finding }: { cutId: string; finding: FindingRow }): ReactElement {
  return (
    <Flex borderBottomWidth="1px" borderColor="rule" py="2" gap="4" align="start">
      <Box flex="1" minWidth="0">
        <Text overflowWrap="anywhere">
          <b>{finding.kind}.</b> {finding.message}
        </Text>
        <Text color="quiet">Reason: {finding.decision?.reason}</Text>
      </Box>
      <WithdrawDecision cutId={cutId} finding={finding} />
    </Flex>
  )
}
