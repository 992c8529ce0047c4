import { Box, chakra, VisuallyHidden } from '@chakra-ui/react'
import type { SortKey } from '@ennick/contract'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { type PointerEvent, type ReactElement, useRef } from 'react'
import { isRight, type ShownColumn } from './clip-cells.tsx'

/** The headings: a click sorts, with Shift beside the other columns; the right edge sets the width. */
export function ClipTableHead({
  columns,
  sort,
  onSort,
  onWidth,
  isAllMarked,
  onMarkAll,
}: {
  columns: readonly ShownColumn[]
  sort: readonly SortKey[]
  onSort: (field: string, isAdding: boolean) => void
  onWidth: (field: string, width: number) => void
  isAllMarked: boolean
  onMarkAll: () => void
}): ReactElement {
  return (
    <chakra.thead position="sticky" top="0" zIndex="1" bg="paper" shadow="inset 0 -1px 0 {colors.rule}">
      <tr>
        <chakra.th py="2" px="2" textAlign="left">
          <input
            type="checkbox"
            aria-label={isAllMarked ? 'Clear all marks' : 'Mark all rows'}
            checked={isAllMarked}
            onChange={onMarkAll}
          />
        </chakra.th>
        <th>
          <VisuallyHidden>Still</VisuallyHidden>
        </th>
        {columns.map((column) => (
          <HeaderCell key={column.field.id} column={column} sort={sort} onSort={onSort} onWidth={onWidth} />
        ))}
      </tr>
    </chakra.thead>
  )
}

function HeaderCell({
  column: { field, width },
  sort,
  onSort,
  onWidth,
}: {
  column: ShownColumn
  sort: readonly SortKey[]
  onSort: (field: string, isAdding: boolean) => void
  onWidth: (field: string, width: number) => void
}): ReactElement {
  const place = sort.findIndex((key) => key.field === field.id)
  const key = sort[place]
  const Arrow = key?.descending ? ArrowDown : ArrowUp
  return (
    <chakra.th
      position="relative"
      py="2"
      px="2"
      textAlign={isRight(field) ? 'right' : 'left'}
      fontWeight="normal"
      fontSize="0.85rem"
      color="quiet"
      aria-sort={!key ? 'none' : key.descending ? 'descending' : 'ascending'}
    >
      <chakra.button
        type="button"
        cursor="pointer"
        maxWidth="100%"
        overflow="hidden"
        textOverflow="ellipsis"
        whiteSpace="nowrap"
        title={`Sort by ${field.title}; with Shift after the other columns`}
        onClick={(event) => onSort(field.id, event.shiftKey)}
      >
        {field.title}
        {key && <Arrow size={12} aria-hidden style={{ display: 'inline', marginLeft: 3 }} />}
        {key && sort.length > 1 && <sub>{place + 1}</sub>}
      </chakra.button>
      <WidthEdge title={field.title} width={width} onWidth={(next) => onWidth(field.id, next)} />
    </chakra.th>
  )
}

const narrowest = 2.5
const widest = 40

/** The edge of a column: dragged, or moved with the arrow keys. */
function WidthEdge({
  title,
  width,
  onWidth,
}: {
  title: string
  width: number
  onWidth: (width: number) => void
}): ReactElement {
  const start = useRef<{ x: number; width: number } | null>(null)
  const rem = (): number => Number.parseFloat(getComputedStyle(document.documentElement).fontSize)
  const fit = (next: number): number => Math.round(Math.min(widest, Math.max(narrowest, next)) * 10) / 10
  const onPointerMove = (event: PointerEvent): void => {
    if (start.current) onWidth(fit(start.current.width + (event.clientX - start.current.x) / rem()))
  }
  return (
    <Box
      role="separator"
      aria-orientation="vertical"
      aria-label={`Width of ${title}`}
      aria-valuenow={width}
      aria-valuemin={narrowest}
      aria-valuemax={widest}
      tabIndex={-1}
      position="absolute"
      right="0"
      top="1"
      bottom="1"
      width="7px"
      cursor="col-resize"
      borderRightWidth="1px"
      borderColor="transparent"
      _hover={{ borderColor: 'tide.solid' }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        start.current = { x: event.clientX, width }
      }}
      onPointerMove={onPointerMove}
      onPointerUp={() => {
        start.current = null
      }}
      onKeyDown={(event) => {
        if (event.key === 'ArrowLeft') onWidth(fit(width - 0.5))
        if (event.key === 'ArrowRight') onWidth(fit(width + 0.5))
      }}
    />
  )
}
