import { Box, Button, Flex, Text } from '@chakra-ui/react'
import type { Cut, FindingRow, Mend } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useMemo, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue } from '../../data/remembered.ts'
import { AcceptRedelivered } from '../../parts/accept-redelivered.tsx'
import { Choice } from '../../parts/choices.tsx'
import { CutChoice, useChosenCut } from '../../parts/cut-choice.tsx'
import { FilterField } from '../../parts/filter-field.tsx'
import { matches } from '../../parts/matches.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { Tab, TabList } from '../../parts/tab-list.tsx'
import { count } from '../../parts/words.ts'
import { useViewer } from '../../viewer/address.ts'
import { BeginTrial } from './begin-trial.tsx'
import { type ChoiceForAll, ChooseDialog } from './choose-dialog.tsx'
import { CollectionCheck } from './collection-check.tsx'
import { FindingCard } from './finding-card.tsx'
import { MendList } from './mend-list.tsx'
import { OrderOfWork, stepId } from './order-of-work.tsx'
import { ReplaceDialog } from './replace-dialog.tsx'
import { SearchDialog } from './search-dialog.tsx'
import { TakeApartDialog } from './take-apart-dialog.tsx'
import { TrimDialog } from './trim-dialog.tsx'
import { useMends } from './use-mends.ts'

/** Everything wrong with a cut, with evidence, and what would mend it. */
export function MendStop(): ReactElement {
  const { cuts, cut, isPending, error } = useChosenCut()
  if (isPending) return <Loading what="the cuts" />
  if (error) return <Problem message={error} />
  if (!cut) return <WithoutCut />
  return <CutFindings key={cut.id} cut={cut} cuts={cuts} />
}

/** Pairs are mended without a cut too, and that is taken back here. */
function WithoutCut(): ReactElement {
  const mended = useMends()
  if (mended.isPending) return <Loading what="the mends" />
  if (mended.error) return <Problem message={mended.error.message} />
  const has = mended.mends.length > 0
  return (
    <Page
      title={
        has
          ? `${mended.hasEarlier ? 'Many mends' : count(mended.mends.length, 'mend')}, and no cut to mend yet`
          : 'Nothing to mend yet'
      }
      answer={has ? 'Read a cut in Cuts: what is wrong with its links is listed here' : undefined}
    >
      {has ? (
        <MendList {...mended} />
      ) : (
        <Empty title="No cut has been read">Read a cut in Cuts: what is wrong with its links is listed here.</Empty>
      )}
    </Page>
  )
}

/** Findings that are drawn at once: more of them come when somebody asks. */
const atOnce = 60

const blocking = 'blocks handoff'
const fresh = 'new since yesterday'

function CutFindings({ cut, cuts }: { cut: Cut; cuts: readonly Cut[] }): ReactElement {
  const production = useProduction()
  const params = { cutId: cut.id }
  const findings = useRead('listFindings', { params })
  const work = useRead('readOrderOfWork', { params })
  const mended = useMends()
  const makeAgain = useChange('makeAgain')
  const [view, setView] = useAddressValue('view')
  const [kind, setKind] = useAddressValue('kind')
  const [weight, setWeight] = useAddressValue('weight')
  const [medium, setMedium] = useAddressValue('medium')
  const [volume, setVolume] = useAddressValue('volume')
  const [step, setStep] = useAddressValue('step')
  const [filter, setFilter] = useAddressValue('q', { isTyped: true })
  const [most, setMost] = useState(atOnce)
  const [search, setSearch] = useState<readonly string[] | null>(null)
  const [trimming, setTrimming] = useState<readonly string[] | null>(null)
  const [apart, setApart] = useState<readonly string[] | null>(null)
  const [replacing, setReplacing] = useState<FindingRow | null>(null)
  const [accepting, setAccepting] = useState<readonly string[] | null>(null)
  const [forAll, setForAll] = useState<ChoiceForAll | null>(null)
  const { mutate: make } = makeAgain
  const restamp = useChange('restamp')
  const { mutate: copy } = restamp
  const rename = useChange('renameMade')
  const { mutate: call } = rename
  const pad = useChange('padRecordings')
  const { mutate: padThem } = pad
  const { open: look } = useViewer()
  const known = findings.data ?? none
  const actions = useMemo(
    () => ({
      onSearch: setSearch,
      onTrim: setTrimming,
      onTakeApart: setApart,
      onAccept: setAccepting,
      onReplace: setReplacing,
      onChooseForAll: setForAll,
      onRestamp: (pairIds: readonly string[]) =>
        copy({ params: { productionId: production.id }, body: { pairIds: [...pairIds] } }),
      onPad: (findingKeys: readonly string[]) =>
        padThem({ params: { cutId: cut.id }, body: { findingKeys: [...findingKeys] } }),
      onRename: (pairIds: readonly string[]) =>
        call({ params: { productionId: production.id }, body: { pairIds: [...pairIds] } }),
      onMakeAgain: (pairIds: readonly string[]) => make({ params: { cutId: cut.id }, body: { pairIds: [...pairIds] } }),
      onLook: ({ clipId, events: [position] }: FindingRow) =>
        look(position === undefined ? { clipId } : { clipId, cutId: cut.id, position }),
    }),
    [make, copy, call, padThem, look, cut.id, production.id],
  )
  const toChoose = useMemo(
    () => known.filter(({ rivals, decision }) => rivals.length > 0 && decision === null),
    [known],
  )
  const newest = useMemo(() => newestOf(toChoose), [toChoose])
  const redelivered = useMemo(() => redeliveredOf(known), [known])
  const making = useMemo(() => pairsBeingMade(mended.mends), [mended.mends])
  if (findings.isPending) return <Loading what="the findings" />
  if (findings.error) return <Problem message={findings.error.message} />
  const all = findings.data
  const chosenStep = (work.data ?? []).find((each) => stepId(each) === step)
  const ofStep = chosenStep && new Set(chosenStep.keys)
  const shown = all.filter(
    (finding) =>
      (!kind || finding.kind === kind) &&
      (weight !== blocking || (finding.severity === blocking && finding.decision === null)) &&
      (weight !== fresh || finding.isNew) &&
      (!medium || finding.media.some((each) => each === medium)) &&
      (!volume || finding.volumeLabel === volume) &&
      (!ofStep || ofStep.has(finding.key)) &&
      matches(filter, finding.message, finding.clipName, finding.volumeLabel, finding.kind),
  )
  const of = (name: 'kind' | 'volumeLabel'): string[] =>
    [...new Set(all.flatMap((finding) => finding[name] ?? []))].sort((a, b) => a.localeCompare(b))
  const kinds = of('kind')
  const isFindings = view !== 'mends' && view !== 'collection'
  const done = mended.mends.filter(({ state }) => state !== 'failed').length
  return (
    <Page
      title={heading(all)}
      answer={
        all.length
          ? 'What blocks the handoff comes first'
          : 'Every event has its original, and nothing speaks against its proxies'
      }
      actions={
        <>
          <CutChoice stop="mend" cuts={cuts} chosen={cut} />
          <FilterField label="Filter findings" value={filter} onChange={setFilter} />
        </>
      }
    >
      <Flex gap="1" mb="3" align="center" wrap="wrap">
        <TabList label="Mend">
          <Tab isChosen={isFindings} onChoose={() => setView(null)}>
            Findings {formatNumber(all.length)}
          </Tab>
          <Tab isChosen={view === 'mends'} onChoose={() => setView('mends')}>
            Mends {formatNumber(done)}
            {mended.hasEarlier && '+'}
          </Tab>
          <Tab isChosen={view === 'collection'} onChoose={() => setView('collection')}>
            Check a folder
          </Tab>
        </TabList>
        <BeginTrial cut={cut} />
        <Box flex="1" />
        {isFindings && all.length > 0 && (
          <>
            <Choice
              label="Kind of finding"
              all="every kind"
              value={kind}
              onChange={setKind}
              options={kinds}
              words={Object.fromEntries(
                kinds.map((name) => [name, `${name} (${all.filter((finding) => finding.kind === name).length})`]),
              )}
            />
            <Choice
              label="Which findings"
              all="all of them"
              value={weight}
              onChange={setWeight}
              options={[blocking, fresh]}
            />
            <Choice
              label="Picture or sound"
              all="picture and sound"
              value={medium}
              onChange={setMedium}
              options={['picture', 'sound']}
            />
            <Choice label="Volume" all="every volume" value={volume} onChange={setVolume} options={of('volumeLabel')} />
          </>
        )}
      </Flex>
      {view === 'mends' && <MendList {...mended} />}
      {view === 'collection' && <CollectionCheck cut={cut} />}
      {isFindings && (
        <>
          {(work.data ?? []).length > 0 && (
            <OrderOfWork
              steps={work.data ?? []}
              chosen={step}
              onChoose={setStep}
              newest={newest}
              redelivered={redelivered}
              hasMoved={known.some((finding) => finding.kind === 'moved' && finding.decision === null)}
              actions={actions}
              isMaking={makeAgain.isPending}
            />
          )}
          {makeAgain.error && <Problem message={makeAgain.error.message} />}
          {restamp.error && <Problem message={restamp.error.message} />}
          {pad.error && <Problem message={pad.error.message} />}
          {rename.error && <Problem message={rename.error.message} />}
          {rename.data?.left.map(({ name, reason }) => (
            <Problem key={name} message={`${name} was not renamed: ${reason}`} />
          ))}
          {all.length > 0 && shown.length === 0 && <Text color="quiet">No finding fits the filter.</Text>}
          {shown.length < all.length && shown.length > 0 && (
            <Text color="quiet" mb="1">
              {formatNumber(shown.length)} of {count(all.length, 'finding')}
            </Text>
          )}
          {shown.slice(0, most).map((finding) => (
            <FindingCard
              key={finding.key}
              cutId={cut.id}
              finding={finding}
              actions={actions}
              toChoose={toChoose}
              isWaiting={finding.pairIds.some((id) => making.has(id))}
            />
          ))}
          {shown.length > most && (
            <Button mt="3" size="sm" variant="outline" alignSelf="start" onClick={() => setMost(most + 2 * atOnce)}>
              Show more: {formatNumber(shown.length - most)} are not shown
            </Button>
          )}
        </>
      )}
      {search && <SearchDialog cutId={cut.id} findingKeys={search} onClose={() => setSearch(null)} />}
      {replacing && <ReplaceDialog cut={cut} finding={replacing} onClose={() => setReplacing(null)} />}
      {apart && <TakeApartDialog cut={cut} findingKeys={apart} onClose={() => setApart(null)} />}
      {forAll && <ChooseDialog cutId={cut.id} choice={forAll} onClose={() => setForAll(null)} />}
      {trimming && (
        <TrimDialog
          cut={cut}
          findings={all.filter(({ key }) => trimming.includes(key))}
          onClose={() => setTrimming(null)}
        />
      )}
      {accepting && (
        <AcceptRedelivered
          clipIds={accepting}
          isOpen
          onClose={() => setAccepting(null)}
          onDone={() => setAccepting(null)}
        />
      )}
    </Page>
  )
}

const none: readonly FindingRow[] = []

/** For each shot the newest version against which nothing speaks; those that have none are left as they are. */
function newestOf(toChoose: readonly FindingRow[]): ChoiceForAll {
  const findings = toChoose.filter(({ kind }) => kind === 'newer version')
  const choices = findings.flatMap((finding) => {
    const newest = finding.rivals.find(({ against }) => against === null)
    return newest ? [{ finding, clipId: newest.clipId, path: newest.path }] : []
  })
  const left = findings.length - choices.length
  const rest = left
    ? `. ${count(left, 'shot')} ${left === 1 ? 'has' : 'have'} none, and ${left === 1 ? 'stays' : 'stay'} as ${left === 1 ? 'it is' : 'they are'}`
    : ''
  return { rule: `the newest version that is here and covers every use${rest}`, choices }
}

/** Clips that hold other content by now, which may be the one that is meant. */
const redeliveredOf = (findings: readonly FindingRow[]): string[] => [
  ...new Set(
    findings.flatMap(({ clipId, mends, decision }) =>
      clipId !== null && mends.includes('accept redelivery') && decision === null ? [clipId] : [],
    ),
  ),
]

const pairsBeingMade = (mends: readonly Mend[]): Set<string> =>
  new Set(
    mends
      .filter(({ state }) => state === 'waiting')
      .flatMap(({ changes }) => changes.flatMap(({ before }) => before ?? [])),
  )

function heading(findings: readonly FindingRow[]): string {
  const blocking = findings.filter(
    (finding) => finding.severity === 'blocks handoff' && finding.decision === null,
  ).length
  if (findings.length === 0) return 'Nothing was found wrong with this cut'
  if (blocking === 0) return `${count(findings.length, 'finding')}, none in the way of the handoff`
  const others = findings.length - blocking
  const besides = others > 0 ? `, ${formatNumber(others)} more to look at` : ''
  return `${count(blocking, 'finding blocks', 'findings block')} the handoff${besides}`
}
