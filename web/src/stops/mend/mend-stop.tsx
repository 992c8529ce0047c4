import { Box, Button, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { Cut, FindingRow } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue } from '../../data/remembered.ts'
import { CutChoice, useChosenCut } from '../../parts/cut-choice.tsx'
import { FilterField } from '../../parts/filter-field.tsx'
import { matches } from '../../parts/matches.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'
import { FindingCard } from './finding-card.tsx'
import { MendList } from './mend-list.tsx'
import { SearchDialog } from './search-dialog.tsx'

/** Everything wrong with a cut, with evidence, and what would mend it. */
export function MendStop(): ReactElement {
  const { cuts, cut, isPending, error } = useChosenCut()
  if (isPending) return <Loading what="the cuts" />
  if (error) return <Problem message={error} />
  if (!cut) {
    return (
      <Page title="Nothing to mend yet">
        <Empty title="No cut has been read">Read a cut in Cuts: what is wrong with its links is listed here.</Empty>
      </Page>
    )
  }
  return <CutFindings key={cut.id} cut={cut} cuts={cuts} />
}

function CutFindings({ cut, cuts }: { cut: Cut; cuts: readonly Cut[] }): ReactElement {
  const production = useProduction()
  const findings = useRead('listFindings', { params: { cutId: cut.id } })
  const mends = useRead('listMends', { params: { productionId: production.id } })
  const makeAgain = useChange('makeAgain')
  const [kind, setKind] = useAddressValue('kind')
  const [filter, setFilter] = useAddressValue('q')
  const [search, setSearch] = useState<readonly string[] | null>(null)
  if (findings.isPending) return <Loading what="the findings" />
  if (findings.error) return <Problem message={findings.error.message} />
  const all = findings.data
  const shown = all.filter(
    (finding) =>
      (!kind || finding.kind === kind) &&
      matches(filter, finding.message, finding.clipName, finding.volumeLabel, finding.kind),
  )
  const repointable = shown.filter((finding) => finding.mends.includes('repoint'))
  const remakable = [
    ...new Set(
      shown
        .filter((finding) => finding.mends.includes('make again'))
        .flatMap((finding) => (finding.pairId ? [finding.pairId] : [])),
    ),
  ]
  const kinds = [...new Set(all.map((finding) => finding.kind))]
  return (
    <Page
      title={heading(all)}
      answer={
        all.length ? 'What blocks the handoff comes first' : 'Every event has its original, and every proxy is its twin'
      }
      actions={
        <>
          <CutChoice stop="mend" cuts={cuts} chosen={cut} />
          <FilterField label="Filter findings" value={filter} onChange={setFilter} />
          <NativeSelect.Root size="sm" width="11rem">
            <NativeSelect.Field
              aria-label="Kind of finding"
              value={kind}
              onChange={(event) => setKind(event.target.value)}
              bg="page"
            >
              <option value="">every kind</option>
              {kinds.map((name) => (
                <option key={name} value={name}>
                  {name} ({all.filter((finding) => finding.kind === name).length})
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </>
      }
    >
      {(repointable.length > 1 || remakable.length > 1) && (
        <HStack mb="4" gap="3">
          {repointable.length > 1 && (
            <Button size="sm" onClick={() => setSearch(repointable.map((finding) => finding.key))}>
              Search a folder for {repointable.length} findings
            </Button>
          )}
          {remakable.length > 1 && (
            <Button
              size="sm"
              variant="outline"
              loading={makeAgain.isPending}
              onClick={() => makeAgain.mutate({ params: { cutId: cut.id }, body: { pairIds: remakable } })}
            >
              Make {remakable.length} proxies again
            </Button>
          )}
        </HStack>
      )}
      {makeAgain.error && <Problem message={makeAgain.error.message} />}
      {all.length > 0 && shown.length === 0 && <Text color="quiet">No finding fits the filter.</Text>}
      {shown.map((finding) => (
        <FindingCard
          key={finding.key}
          cutId={cut.id}
          finding={finding}
          onSearch={() => setSearch([finding.key])}
          onMakeAgain={() =>
            finding.pairId && makeAgain.mutate({ params: { cutId: cut.id }, body: { pairIds: [finding.pairId] } })
          }
          isWaiting={
            finding.pairId !== null &&
            (mends.data ?? []).some(
              (mend) => mend.state === 'waiting' && mend.changes.some((change) => change.before === finding.pairId),
            )
          }
        />
      ))}
      <Box mt="8">
        <Section title="Mends">
          <MendList mends={mends.data ?? []} />
        </Section>
      </Box>
      {search && <SearchDialog cutId={cut.id} findingKeys={search} onClose={() => setSearch(null)} />}
    </Page>
  )
}

function heading(findings: readonly FindingRow[]): string {
  const blocking = findings.filter(
    (finding) => finding.severity === 'blocks handoff' && finding.decision === null,
  ).length
  if (findings.length === 0) return 'Nothing is wrong with this cut'
  if (blocking === 0) return `${count(findings.length, 'finding')}, none in the way of the handoff`
  return `${count(blocking, 'finding')} ${blocking === 1 ? 'blocks' : 'block'} the handoff${findings.length > blocking ? `, ${findings.length - blocking} more to look at` : ''}`
}
