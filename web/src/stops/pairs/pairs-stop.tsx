import { Box, Button, HStack, NativeSelect, Text } from '@chakra-ui/react'
import { type Job, type LedgerPair, type LedgerRow, verdict } from '@ennick/contract'
import { type ReactElement, useCallback, useMemo, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue } from '../../data/remembered.ts'
import { type Column, DataTable } from '../../parts/data-table.tsx'
import { FilterField } from '../../parts/filter-field.tsx'
import { matches } from '../../parts/matches.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Offers } from '../../parts/offers.tsx'
import { Page } from '../../parts/page.tsx'
import { TinyStrip } from '../../parts/span-strip.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count, timeLeft } from '../../parts/words.ts'
import { PairSheet } from './pair-sheet.tsx'
import { ReleaseDialog } from './release-dialog.tsx'
import { SuffixDialog } from './suffix-dialog.tsx'

/** A line of the ledger: an original, or one of its pairs. */
interface Line {
  readonly id: string
  readonly row: LedgerRow
  readonly pair: LedgerPair | null
}

/** Verdicts of items that are there to be read. */
const canBeDecoded: readonly LedgerPair['verdict'][] = [
  'proven',
  'matched',
  'unchecked',
  'stale',
  'mismatched',
  'original away',
  'original gone',
]
/** Verdicts that a newer proxy cures, where the original is here. */
const canBeMadeAgain: readonly LedgerPair['verdict'][] = ['stale', 'mismatched', 'proxy gone']
const verdicts = [...verdict.options, 'no proxy']

/** The ledger: every original with what was made of it, and the verdict in a word. */
export function PairsStop(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const ledger = useRead('listPairs', { params })
  const jobs = useRead('listJobs', { params })
  const check = useChange('check')
  const decode = useChange('decodePairs')
  const [filter, setFilter] = useAddressValue('q')
  const [only, setOnly] = useAddressValue('verdict')
  const [pairId, setPairId] = useAddressValue('pair')
  const again = useChange('makePairsAgain')
  const look = useChange('comparePictures')
  const offers = useRead('listOffers', { params })
  const [view, setView] = useAddressValue('view')
  const isOffers = view === 'elsewhere'
  const [isNaming, setNaming] = useState(false)
  const [releasing, setReleasing] = useState<readonly string[] | null>(null)
  const lines = useMemo(() => (ledger.data ?? []).flatMap(linesOf), [ledger.data])
  const shown = useMemo(
    () =>
      lines.filter(
        (line) =>
          (!only || verdictOf(line) === only) &&
          matches(
            filter,
            line.row.name,
            line.row.reel,
            line.row.volumeLabel,
            line.pair?.name ?? null,
            line.pair?.recipe ?? null,
          ),
      ),
    [lines, only, filter],
  )
  const open = useCallback((line: Line) => line.pair && setPairId(line.pair.id), [setPairId])
  if (ledger.isPending) return <Loading what="the ledger" />
  if (ledger.error) return <Problem message={ledger.error.message} />
  const pairs = lines.filter((line) => line.pair !== null)
  const of = (word: LedgerPair['verdict']): number => pairs.filter((line) => verdictOf(line) === word).length
  const [proven, matched] = [of('proven'), of('matched')]
  const amiss = pairs.length - proven - matched
  const without = lines.filter((line) => line.pair === null && line.row.needsProxy).length
  const running = (kind: Job['kind']) =>
    jobs.data?.find((job) => job.kind === kind && (job.state === 'running' || job.state === 'waiting'))
  const checking = running('check')
  const decoding = running('decode')
  const looking = running('look')
  const decodable = shown.flatMap(({ pair }) => (pair && canBeDecoded.includes(pair.verdict) ? [pair] : []))
  const partly = decodable.filter((pair) => !pair.isDecodedWhole)
  const toDecode = partly.length ? partly : decodable
  const curable = shown.flatMap(({ row, pair }) =>
    pair && row.presence === 'here' && canBeMadeAgain.includes(pair.verdict) ? [pair.id] : [],
  )
  const releasable = shown.flatMap(({ pair }) => (pair?.origin === 'made' ? [pair.id] : []))
  const unseen = shown.filter((line) => verdictOf(line) === 'matched').length
  const decoded = pairs.filter((line) => line.pair?.isDecodedWhole).length
  return (
    <Page
      isTall
      title={
        pairs.length === 0
          ? 'No pair yet'
          : amiss > 0
            ? `${amiss} of ${count(pairs.length, 'pair')} ${amiss === 1 ? 'needs' : 'need'} a look`
            : matched === 0
              ? `All ${count(pairs.length, 'pair')} are proven`
              : `${proven} of ${count(pairs.length, 'pair')} proven, ${matched} matched: their pictures were not compared`
      }
      answer={`${count(without, 'picture')} without a proxy${decoded ? ` · ${decoded} of ${pairs.length} decoded from first frame to last` : ''}`}
      actions={
        <>
          <FilterField label="Filter the ledger" value={filter} onChange={setFilter} />
          <NativeSelect.Root size="sm" width="10rem">
            <NativeSelect.Field
              aria-label="Verdict"
              value={only}
              onChange={(event) => setOnly(event.target.value)}
              bg="page"
            >
              <option value="">every verdict</option>
              {verdicts.map((word) => (
                <option key={word}>{word}</option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
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
        <HStack role="tablist" aria-label="Pairs" gap="1">
          <Button
            role="tab"
            aria-selected={!isOffers}
            size="sm"
            variant={isOffers ? 'ghost' : 'subtle'}
            onClick={() => setView(null)}
          >
            Ledger
          </Button>
          <Button
            role="tab"
            aria-selected={isOffers}
            size="sm"
            variant={isOffers ? 'subtle' : 'ghost'}
            onClick={() => setView('elsewhere')}
          >
            Made elsewhere{' '}
            <Box as="span" minWidth="1.5rem">
              {offers.data?.length || ''}
            </Box>
          </Button>
        </HStack>
        {!isOffers && ledgerActions()}
      </HStack>
      {isOffers ? <Offers isFolded={false} /> : ledgerTable()}
      {isNaming && <SuffixDialog onClose={() => setNaming(false)} />}
      {releasing && <ReleaseDialog pairIds={releasing} onClose={() => setReleasing(null)} />}
      <PairSheet pairId={pairId || null} onClose={() => setPairId(null)} />
    </Page>
  )

  function ledgerActions(): ReactElement {
    return (
      <>
        {curable.length > 0 && (
          <Button
            size="sm"
            variant="outline"
            title="A newer one takes the place of each; what it replaces is set aside, and comes back when the mend is taken back."
            loading={again.isPending}
            onClick={() => again.mutate({ params, body: { pairIds: curable } })}
          >
            Make {curable.length} again
          </Button>
        )}
        <Button size="sm" variant="outline" onClick={() => setNaming(true)}>
          Suffixes…
        </Button>
        {releasable.length > 0 && (
          <Button size="sm" variant="outline" onClick={() => setReleasing(releasable)}>
            Release {releasable.length}…
          </Button>
        )}
        {unseen > 0 && (
          <Button
            size="sm"
            variant="outline"
            title="Each is compared with its original at five places, behind all other work."
            loading={look.isPending || looking !== undefined}
            loadingText="Comparing pictures"
            onClick={() => look.mutate({ params })}
          >
            Compare the pictures of {unseen}
          </Button>
        )}
        {toDecode.length > 0 && (
          <Button
            size="sm"
            variant="outline"
            title="Proxies are proven by some of their pictures when they are made. This decodes all of them, behind all other work."
            loading={decode.isPending || decoding !== undefined}
            loadingText={decoding?.progress ? timeLeft(decoding.progress.secondsLeft) : 'Decoding'}
            onClick={() => decode.mutate({ params, body: { pairIds: toDecode.map(({ id }) => id) } })}
          >
            {partly.length ? `Decode every frame of ${partly.length}` : `Decode all ${toDecode.length} again`}
          </Button>
        )}
      </>
    )
  }

  function ledgerTable(): ReactElement {
    return (
      <>
        {check.error && <Problem message={check.error.message} />}
        {decode.error && <Problem message={decode.error.message} />}
        {look.error && <Problem message={look.error.message} />}
        <DataTable
          label="Ledger"
          columns={columns}
          rows={shown}
          rowId={lineId}
          rowHeight={58}
          onOpen={open}
          empty={
            <Empty title={lines.length ? 'No line of the ledger fits' : 'The ledger is empty'}>
              {lines.length
                ? 'Take a word out of the filter, or show every verdict.'
                : 'Scan a volume in Intake, then make proxies in Make: each pair is written down here with its proof.'}
            </Empty>
          }
        />
        {again.error && <Problem message={again.error.message} />}
      </>
    )
  }
}

function linesOf(row: LedgerRow): Line[] {
  if (row.pairs.length === 0) return [{ id: row.clipId, row, pair: null }]
  return row.pairs.map((pair) => ({ id: pair.id, row, pair }))
}

const lineId = (line: Line): string => line.id
const verdictOf = (line: Line): string => line.pair?.verdict ?? (line.row.needsProxy ? 'no proxy' : '')

/** The strip of a line shows its own made item alone. */
function stripOfLine({ row, pair }: Line) {
  if (!row.strip) return null
  return { ...row.strip, made: row.strip.made.filter((span) => pair !== null && span.label === pair.name) }
}

const columns: readonly Column<Line>[] = [
  {
    id: 'name',
    header: 'Original',
    width: 12,
    cell: ({ row }) => (
      <>
        <Text truncate fontWeight="semibold" title={row.name}>
          {row.name}
        </Text>
        <Text truncate color="quiet" fontSize="0.82rem">
          {row.volumeLabel}
          {row.presence !== 'here' && `, ${row.presence}`}
        </Text>
      </>
    ),
    sortBy: ({ row }) => row.name,
  },
  {
    id: 'reel',
    header: 'Reel',
    width: 4.8,
    isMono: true,
    cell: ({ row }) => row.reel ?? '',
    sortBy: ({ row }) => row.reel ?? '',
  },
  {
    id: 'span',
    header: 'Span',
    width: 10.5,
    cell: (line) => {
      const strip = stripOfLine(line)
      return strip ? <TinyStrip strip={strip} /> : null
    },
  },
  {
    id: 'verdict',
    header: 'Verdict',
    width: 8.6,
    cell: (line) =>
      verdictOf(line) ? <StateWord word={verdictOf(line)} /> : <Text color="quiet">travels as it is</Text>,
    sortBy: verdictOf,
  },
  {
    id: 'made',
    header: 'Made item',
    width: 13,
    cell: ({ pair }) =>
      pair && (
        <>
          <Text truncate title={pair.name}>
            {pair.name}
          </Text>
          <Text truncate color="quiet" fontSize="0.82rem">
            {pair.recipe ?? 'made elsewhere, adopted'}
          </Text>
        </>
      ),
    sortBy: ({ pair }) => pair?.name ?? '',
  },
  {
    id: 'raster',
    header: 'Raster',
    width: 7.4,
    align: 'right',
    isMono: true,
    cell: ({ pair }) => pair?.raster ?? '',
    sortBy: ({ pair }) => Number(pair?.raster?.split(' ')[0] ?? 0),
  },
  {
    id: 'why',
    header: 'Why',
    width: 18,
    cell: ({ pair }) => (
      <Box whiteSpace="normal" fontSize="0.9rem" lineClamp={2} title={pair?.why}>
        {pair?.why}
      </Box>
    ),
  },
]
