import { Box, Button, HStack } from '@chakra-ui/react'
import { type LedgerLine, type LedgerPage, type LedgerQuery, ledgerQuery } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useCallback, useMemo } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue, useOpened } from '../../data/remembered.ts'
import { Choice } from '../../parts/choices.tsx'
import { DataTable } from '../../parts/data-table.tsx'
import { FilterField } from '../../parts/filter-field.tsx'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Offers } from '../../parts/offers.tsx'
import { Page } from '../../parts/page.tsx'
import { Tab, TabList } from '../../parts/tab-list.tsx'
import { count, timeLeft } from '../../parts/words.ts'
import { useViewer } from '../../viewer/address.ts'
import { LedgerActions } from './ledger-actions.tsx'
import { ledgerColumns } from './ledger-columns.tsx'
import { useLedger } from './ledger-pages.ts'
import { PairSheet } from './pair-sheet.tsx'

const verdicts = ledgerQuery.shape.verdict.unwrap().unwrap().options
const origins = { made: 'made here', adopted: 'made elsewhere' } as const

/** The ledger: every original with what was made of it, and the verdict in a word; and what others made. */
export function PairsStop(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const jobs = useRead('listJobs', { params })
  const offers = useRead('listOffers', { params })
  const check = useChange('check')
  const [words, setWords] = useAddressValue('q', { isTyped: true })
  const [only, setOnly] = useAddressValue('verdict')
  const [origin, setOrigin] = useAddressValue('origin')
  const [sort] = useAddressValue('sort')
  const [pairId, setPairId] = useOpened('pair')
  const [view, setView] = useAddressValue('view')
  const query = useMemo(() => queryOf({ words, only, origin, sort }), [words, only, origin, sort])
  const { head, error, rows } = useLedger(production.id, query)
  const viewer = useViewer()
  const open = useCallback(({ pair }: LedgerLine) => pair && setPairId(pair.id), [setPairId])
  if (error) return <Problem message={error.message} />
  if (!head) return <Loading what="the ledger" />
  const isOffers = view === 'elsewhere'
  const checking = jobs.data?.find(
    ({ kind, state }) => kind === 'check' && (state === 'running' || state === 'waiting'),
  )
  return (
    <Page
      isTall
      title={titleOf(head.counts)}
      answer={answerOf(head.counts)}
      actions={
        <>
          {!isOffers && (
            <>
              <FilterField label="Filter the ledger" value={words} onChange={setWords} />
              <Choice label="Verdict" value={only} onChange={setOnly} all="every verdict" options={verdicts} />
              <Choice
                label="Made by"
                value={origin}
                onChange={setOrigin}
                all="every origin"
                options={Object.keys(origins)}
                words={origins}
              />
            </>
          )}
          <Button
            size="sm"
            loading={check.isPending || checking !== undefined}
            loadingText={checking?.progress ? timeLeft(checking.progress.secondsLeft) : 'Checking'}
            onClick={() => check.mutate({ params })}
          >
            Check again
          </Button>
        </>
      }
    >
      <HStack gap="2" mb="4" wrap="wrap">
        <TabList label="Pairs">
          <Tab isChosen={!isOffers} onChoose={() => setView(null)}>
            Ledger
          </Tab>
          <Tab isChosen={isOffers} onChoose={() => setView('elsewhere')}>
            Made elsewhere{' '}
            <Box as="span" minWidth="1.5rem">
              {offers.data?.length || ''}
            </Box>
          </Tab>
        </TabList>
        {!isOffers && <LedgerActions query={query} can={head.can} jobs={jobs.data ?? []} />}
      </HStack>
      {check.error && <Problem message={check.error.message} />}
      {isOffers ? (
        <Offers isFolded={false} />
      ) : (
        <DataTable
          label="Ledger"
          columns={ledgerColumns}
          rows={rows}
          rowId={({ id }) => id}
          rowHeight={58}
          onOpen={open}
          onView={({ clipId, pair }) =>
            viewer.open(pair ? { clipId, sideId: 'original', withId: pair.id } : { clipId })
          }
          empty={
            <Empty title={head.counts.lines ? 'No line of the ledger fits' : 'The ledger is empty'}>
              {head.counts.lines
                ? 'Take a word out of the filter, or show every verdict and origin.'
                : 'Scan a volume in Intake, then make proxies in Make: each pair is written down here with its proof.'}
            </Empty>
          }
        />
      )}
      <PairSheet pairId={pairId || null} onClose={() => setPairId(null)} />
    </Page>
  )
}

/** What stands in an address may be anything: what is no query is none. */
function queryOf({
  words,
  only,
  origin,
  sort,
}: {
  words: string
  only: string
  origin: string
  sort: string
}): LedgerQuery {
  const asked = {
    words,
    verdict: only || null,
    origin: origin || null,
    ...(sort ? { sort: sort.replace(/^-/, ''), isDescending: sort.startsWith('-') } : {}),
  }
  const parsed = ledgerQuery.safeParse(asked)
  return parsed.success ? parsed.data : ledgerQuery.parse({ words: words.slice(0, 500) })
}

function titleOf({ pairs, proven, matched, amiss }: LedgerPage['counts']): string {
  if (pairs === 0) return 'No pair yet'
  if (amiss > 0) return `${formatNumber(amiss)} of ${count(pairs, 'pair')} ${amiss === 1 ? 'needs' : 'need'} a look`
  if (matched === 0) return pairs === 1 ? 'The one pair is proven' : `All ${formatNumber(pairs)} pairs are proven`
  const some = `${formatNumber(proven)} of ${count(pairs, 'pair')} proven, ${formatNumber(matched)} matched`
  return `${some}: their pictures were not compared`
}

const answerOf = ({ without, decoded, pairs }: LedgerPage['counts']): string =>
  `${count(without, 'picture')} without a proxy` +
  (decoded ? ` · ${formatNumber(decoded)} of ${formatNumber(pairs)} decoded from first frame to last` : '')
