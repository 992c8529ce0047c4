import { Box, Button, HStack, Text } from '@chakra-ui/react'
import type { RepointPlanRow, SearchResult, SearchScope } from '@ennick/contract'
import { formatNumber, groupBy } from '@ennick/core'
import { type ReactElement, useMemo, useState } from 'react'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'
import { RepointRow } from './repoint-row.tsx'
import type { SearchChoices } from './search-choices.ts'

const scopeWords: Record<SearchScope, string> = {
  folder: 'the folder gave',
  below: 'all below it',
  known: 'everything known',
}

/** Rows of a group that are drawn at once: more of them come when somebody asks. */
const atOnce = 40

/** What a search found, by rule and outcome, with what a person takes of it. */
export function SearchPreview({ result, chosen }: { result: SearchResult; chosen: SearchChoices }): ReactElement {
  const groups = useMemo(() => groupsOf(result.rows), [result.rows])
  return (
    <Box>
      <Text mb="3">{toldOf(result)}</Text>
      {result.scopes.length > 1 && (
        <Text mb="3" color="quiet">
          In turn:{' '}
          {result.scopes
            .map(
              ({ scope, looked, settled }) =>
                `${scopeWords[scope]} ${formatNumber(settled)} of ${count(looked, 'file')}`,
            )
            .join(' · ')}
        </Text>
      )}
      {result.unreadable.length > 0 && (
        <Problem
          message={`${count(result.unreadable.length, 'folder')} could not be read, so what is in ${result.unreadable.length === 1 ? 'it' : 'them'} was not searched: ${result.unreadable.slice(0, 5).join(', ')}${result.unreadable.length > 5 ? ' …' : ''}.`}
        />
      )}
      {groups.map((group) => (
        <Group key={group.title} group={group} jobId={result.jobId} chosen={chosen} />
      ))}
    </Box>
  )
}

interface GroupOfRows {
  readonly title: string
  /** Whether its rows are proposed by one rule, and taken or left together. */
  readonly isRule: boolean
  readonly rows: readonly RepointPlanRow[]
}

function Group({ group, jobId, chosen }: { group: GroupOfRows; jobId: string; chosen: SearchChoices }): ReactElement {
  const [most, setMost] = useState(atOnce)
  const { rows } = group
  const areLeft = group.isRule && rows.every((row) => chosen.pickedFor(row) === null)
  return (
    <Box mb="4" as="section" aria-label={group.title}>
      <HStack mb="1" gap="3">
        <Text fontWeight="semibold" fontSize="0.92rem" overflowWrap="anywhere">
          {headingOf(group)}
        </Text>
        {group.isRule && (
          <Button
            size="xs"
            variant="ghost"
            onClick={() =>
              chosen.pickAll(rows.map(({ wantedId, candidateId }) => [wantedId, areLeft ? candidateId : null] as const))
            }
          >
            {areLeft ? 'Take all' : 'Leave all'}
          </Button>
        )}
      </HStack>
      {rows.slice(0, most).map((row) => (
        <RepointRow key={row.wantedId} row={row} jobId={jobId} chosen={chosen} />
      ))}
      {rows.length > most && (
        <Button mt="2" size="sm" variant="outline" onClick={() => setMost(most + 2 * atOnce)}>
          Show more: {formatNumber(rows.length - most)} are not shown
        </Button>
      )}
    </Box>
  )
}

function headingOf({ title, isRule, rows }: GroupOfRows): string {
  const number = formatNumber(rows.length)
  if (!isRule) return `${number} ${title}`
  return rows.length === 1 ? `1 fits: ${title}` : `${number} fit by one rule: ${title}`
}

/** How much was compared, and what became of everything that was asked for. */
function toldOf({ looked, counts }: SearchResult): string {
  const part = (number: number, word: string): string => `${formatNumber(number)} ${word}`
  const parts = [
    ...[part(counts.fits, 'fit'), part(counts.likely, 'likely'), part(counts.ambiguous, 'ambiguous')],
    ...[part(counts.refused, 'refused'), part(counts.notFound, 'not found')],
  ]
  return `${count(looked, 'file')} compared. Of ${count(counts.asked, 'source')} asked for: ${parts.join(', ')}.`
}

/** Those that need a person come first; then rows that fit, by their rule; then what cannot be mended from there. */
function groupsOf(rows: readonly RepointPlanRow[]): GroupOfRows[] {
  const fitting = rows.filter(({ rule }) => rule !== null)
  const byRule = [...groupBy(fitting, ({ rule }) => rule)].map(([rule, group]) => ({
    ...{ title: rule ?? '', isRule: true, rows: group },
  }))
  const of = (outcome: RepointPlanRow['outcome'], title: string): GroupOfRows => ({
    ...{ title, isRule: false, rows: rows.filter((row) => row.rule === null && row.outcome === outcome) },
  })
  return [
    ...[of('ambiguous', 'to choose'), of('likely', 'likely, to look at')],
    ...byRule,
    ...[of('refused', 'refused'), of('not found', 'not found')],
  ].filter((group) => group.rows.length > 0)
}
