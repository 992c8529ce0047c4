import { Box, Text } from '@chakra-ui/react'
import type { CutDetail, CutEventRow } from '@ennick/contract'
import { formatNumber, normalPath } from '@ennick/core'
import { type ReactElement, useMemo } from 'react'
import { type Column, DataTable } from '../../parts/data-table.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'
import { PathMap } from './path-map.tsx'

/** Event by event: the path that the list names, what it is here by the map, and where the event landed. */
export function PathsView({ detail }: { detail: CutDetail }): ReactElement {
  const rows = useMemo(() => detail.events.filter(({ path }) => path !== null), [detail.events])
  const understood = rows.filter(({ by }) => by === 'path' || by === 'path of its proxy').length
  const without = count(detail.events.length - rows.length, 'event')
  return (
    <>
      <PathMap suggestions={detail.suggestedMappings} events={detail.events} />
      <Section title="Paths in the list">
        <Text color="quiet" mb="2">
          {rows.length === 0
            ? 'The list names no path.'
            : `${formatNumber(understood)} of ${count(rows.length, 'path')} lead to a known file; ` +
              `${without} without a path`}
        </Text>
        {rows.length > 0 && (
          <Box display="flex" height={`${Math.min(11, rows.length) * 50 + 44}px`}>
            <DataTable label="Paths" columns={columns} rows={rows} rowId={rowId} rowHeight={50} empty={null} />
          </Box>
        )}
      </Section>
    </>
  )
}

const Path = ({ path }: { path: string | null }): ReactElement => (
  // The end of a path tells more than its beginning.
  <Text truncate dir="rtl" textAlign="left" title={path ?? undefined}>
    <bdi>{path === null ? '—' : normalPath(path)}</bdi>
  </Text>
)

const columns: readonly Column<CutEventRow>[] = [
  {
    ...{ id: 'number', header: 'Event', width: 4, isMono: true },
    cell: ({ number }) => number,
    sortBy: ({ position }) => position,
  },
  { ...{ id: 'listed', header: 'In the list', width: 17.4, isMono: true }, cell: ({ path }) => <Path path={path} /> },
  {
    ...{ id: 'mapped', header: 'Here, by the path map', width: 17.4, isMono: true },
    cell: ({ mappedPath }) => <Path path={mappedPath} />,
    sortBy: ({ mappedPath }) => mappedPath ?? '',
  },
  {
    ...{ id: 'state', header: 'State', width: 9 },
    cell: ({ state }) => <StateWord word={state} />,
    sortBy: ({ state }) => state,
  },
  {
    ...{ id: 'by', header: 'Found by', width: 8 },
    cell: ({ by }) => by ?? 'nothing',
    sortBy: ({ by }) => by ?? '',
  },
  {
    ...{ id: 'original', header: 'Original', width: 17.4, isMono: true },
    cell: ({ originalPath }) => <Path path={originalPath} />,
    sortBy: ({ originalPath }) => originalPath ?? '',
  },
]

const rowId = ({ position }: CutEventRow): string => String(position)
