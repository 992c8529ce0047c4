import { Box, Text } from '@chakra-ui/react'
import type { CutEventRow } from '@ennick/contract'
import type { ReactElement } from 'react'
import { type Column, DataTable } from '../../parts/data-table.tsx'
import { StateWord } from '../../parts/state-word.tsx'

const columns: readonly Column<CutEventRow>[] = [
  {
    id: 'number',
    header: 'Event',
    width: 3.5,
    isMono: true,
    cell: (event) => event.number,
    sortBy: (event) => event.position,
  },
  {
    id: 'track',
    header: 'Track',
    width: 3.3,
    isMono: true,
    cell: (event) => event.track,
    sortBy: (event) => event.track,
  },
  {
    id: 'source',
    header: 'Source',
    width: 12,
    cell: (event) => <span title={event.path ?? undefined}>{event.clipName ?? 'no name'}</span>,
    sortBy: (event) => event.clipName ?? '',
  },
  {
    id: 'reel',
    header: 'Reel',
    width: 4.6,
    isMono: true,
    cell: (event) => event.reel ?? '',
    sortBy: (event) => event.reel ?? '',
  },
  {
    id: 'sourceIn',
    header: 'Source in',
    width: 7.1,
    isMono: true,
    cell: (event) => event.sourceIn,
    sortBy: (event) => event.sourceIn,
  },
  { id: 'sourceOut', header: 'out', width: 7.1, isMono: true, cell: (event) => event.sourceOut },
  {
    id: 'recordIn',
    header: 'Record in',
    width: 7.1,
    isMono: true,
    cell: (event) => event.recordIn,
    sortBy: (event) => event.recordStartFrame,
  },
  { id: 'recordOut', header: 'out', width: 7.1, isMono: true, cell: (event) => event.recordOut },
  {
    id: 'state',
    header: 'State',
    width: 8.4,
    cell: (event) => <StateWord word={event.state} />,
    sortBy: (event) => event.state,
  },
  {
    id: 'original',
    header: 'Original',
    width: 13.6,
    cell: (event) => {
      const how = [event.by && `by ${event.by}`, event.note].filter(Boolean).join(' · ')
      return (
        <>
          <Text truncate title={event.originalPath ?? undefined}>
            {event.originalName ?? '—'}
          </Text>
          {how && (
            <Text truncate color="quiet" fontSize="0.82rem" title={how}>
              {how}
            </Text>
          )}
        </>
      )
    },
    sortBy: (event) => event.originalName ?? '',
  },
]

const rowId = (event: CutEventRow): string => String(event.position)

export function EventTable({
  events,
  chosen,
  onOpen,
  onView,
}: {
  events: readonly CutEventRow[]
  /** The event to go to, by its position. */
  chosen: number | null
  onOpen: (position: number) => void
  onView: (event: CutEventRow) => void
}): ReactElement {
  const rowHeight = 50
  return (
    <Box display="flex" height={`${Math.min(12, events.length) * rowHeight + 44}px`}>
      <DataTable
        label="Events"
        columns={columns}
        rows={events}
        rowId={rowId}
        rowHeight={rowHeight}
        onOpen={(event) => onOpen(event.position)}
        onView={onView}
        goTo={chosen === null ? null : String(chosen)}
        empty={null}
      />
    </Box>
  )
}
