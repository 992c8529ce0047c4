import { Box, chakra } from '@chakra-ui/react'
import {
  type ColumnDef,
  getCoreRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { type ReactElement, type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { useAddressValue } from '../data/remembered.ts'
import { usePageKeys } from './keys.ts'

export interface Column<T> {
  readonly id: string
  readonly header: string
  /** In rem. */
  readonly width: number
  readonly align?: 'right'
  readonly isMono?: boolean
  readonly cell: (row: T) => ReactNode
  /** What the column sorts by; without it the column does not sort. */
  readonly sortBy?: (row: T) => string | number
}

/** Rows of which only those in sight are read; they come sorted. */
export interface PagedRows<T> {
  readonly count: number
  /** Undefined while its page is on its way. */
  rowAt(index: number): T | undefined
  /** Says which rows are in sight. */
  show(first: number, last: number): void
}

interface Props<T> {
  readonly label: string
  readonly columns: readonly Column<T>[]
  readonly rows: readonly T[] | PagedRows<T>
  readonly rowId: (row: T) => string
  readonly rowHeight?: number
  readonly onOpen?: (row: T) => void
  /** Shows the row's pictures in the viewer. */
  readonly onView?: (row: T) => void
  readonly marks?: ReadonlySet<string>
  readonly onMarks?: (marks: ReadonlySet<string>) => void
  /** A row to go to whenever it changes: what is chosen elsewhere is shown here. */
  readonly goTo?: string | null
  readonly empty: ReactNode
}

/**
 * A table of any length: only the rows in sight are in the page. Sorting is kept in the address. Rows can be marked
 * only where all of them were read.
 * j and k move, Enter opens, v shows its pictures, x marks, Shift+x marks a range, a marks or clears all.
 */
export function DataTable<T>({
  label,
  columns,
  rows,
  rowId,
  rowHeight = 44,
  onOpen,
  onView,
  marks,
  onMarks,
  goTo = null,
  empty,
}: Props<T>): ReactElement {
  const [sortText, setSortText] = useAddressValue('sort')
  const sorting = useMemo<SortingState>(
    () => (sortText ? [{ id: sortText.replace(/^-/, ''), desc: sortText.startsWith('-') }] : []),
    [sortText],
  )
  const definitions = useMemo(
    () =>
      columns.map(
        (column): ColumnDef<T> => ({
          id: column.id,
          accessorFn: column.sortBy ?? (() => ''),
          enableSorting: column.sortBy !== undefined,
          sortDescFirst: false,
          sortingFn: compareCells,
        }),
      ),
    [columns],
  )
  const paged = 'rowAt' in rows ? rows : null
  const data = useMemo(() => ('rowAt' in rows ? [] : [...rows]), [rows])
  const table = useReactTable({
    data,
    columns: definitions,
    state: { sorting },
    getRowId: rowId,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  })
  const sorted = table.getRowModel().rows
  const length = paged?.count ?? sorted.length
  const at = (index: number): T | undefined => (paged ? paged.rowAt(index) : sorted[index]?.original)
  const scroller = useRef<HTMLDivElement>(null)
  const virtual = useVirtualizer({
    count: length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  })
  const [current, setCurrent] = useState(-1)
  const anchor = useRef<number | null>(null)

  useEffect(() => {
    if (current >= length) setCurrent(length - 1)
  }, [current, length])

  // biome-ignore lint/correctness/useExhaustiveDependencies: it is gone to once, however the rows are read again
  useEffect(() => {
    const index = goTo === null ? -1 : sorted.findIndex((row) => row.id === goTo)
    if (index < 0) return
    setCurrent(index)
    virtual.scrollToIndex(index, { align: 'center' })
  }, [goTo])

  const move = (by: number): void => {
    const next = Math.max(0, Math.min(length - 1, current + by))
    setCurrent(next)
    virtual.scrollToIndex(next)
  }
  const mark = (index: number, isRange: boolean): void => {
    const row = sorted[index]
    if (!row || !marks || !onMarks) return
    const next = new Set(marks)
    const add = !marks.has(row.id)
    const from = isRange && anchor.current !== null ? Math.min(anchor.current, index) : index
    const to = isRange && anchor.current !== null ? Math.max(anchor.current, index) : index
    for (const item of sorted.slice(from, to + 1)) if (add || isRange) next.add(item.id)
    if (!add && !isRange) next.delete(row.id)
    anchor.current = index
    onMarks(next)
  }
  const allMarked = marks !== undefined && sorted.length > 0 && sorted.every((row) => marks.has(row.id))
  const markAll = (): void => onMarks?.(allMarked ? new Set() : new Set(sorted.map((row) => row.id)))
  usePageKeys({
    j: () => move(1),
    k: () => move(-1),
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    x: () => mark(current, false),
    X: () => mark(current, true),
    a: markAll,
    Enter: () => {
      const row = at(current)
      if (row) onOpen?.(row)
    },
    v: () => {
      const row = at(current)
      if (row && onView) onView(row)
    },
  })

  const items = virtual.getVirtualItems()
  const [first, last] = [items[0]?.index ?? 0, items.at(-1)?.index ?? 0]
  const show = paged?.show
  useEffect(() => show?.(first, last), [show, first, last])

  if (length === 0) return <>{empty}</>
  const before = items[0]?.start ?? 0
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0)
  const span = columns.length + (marks ? 1 : 0)
  return (
    <Box ref={scroller} flex="1" minHeight="0" overflow="auto" data-testid="table-scroller">
      <chakra.table
        width="100%"
        minWidth={`${columns.reduce((sum, column) => sum + column.width, marks ? 2.5 : 0)}rem`}
        style={{ tableLayout: 'fixed' }}
        aria-label={label}
        aria-rowcount={length}
      >
        <chakra.colgroup>
          {marks && <col style={{ width: '2.5rem' }} />}
          {columns.map((column) => (
            <col key={column.id} style={{ width: `${column.width}rem` }} />
          ))}
        </chakra.colgroup>
        <chakra.thead position="sticky" top="0" zIndex="1" bg="paper" shadow="inset 0 -1px 0 {colors.rule}">
          <tr>
            {marks && (
              <chakra.th py="2" px="2" textAlign="left">
                <input
                  type="checkbox"
                  aria-label={allMarked ? 'Clear all marks' : 'Mark all rows'}
                  checked={allMarked}
                  onChange={markAll}
                />
              </chakra.th>
            )}
            {columns.map((column) => (
              <HeaderCell key={column.id} column={column} sortText={sortText} onSort={setSortText} />
            ))}
          </tr>
        </chakra.thead>
        <tbody>
          {before > 0 && (
            <tr aria-hidden>
              <td colSpan={span} style={{ height: before }} />
            </tr>
          )}
          {items.map((item) => {
            const row = at(item.index)
            if (!row) return <UnreadRow key={item.index} height={rowHeight} span={span} />
            const id = rowId(row)
            const isMarked = marks?.has(id) ?? false
            return (
              <chakra.tr
                key={id}
                height={`${rowHeight}px`}
                borderBottomWidth="1px"
                borderColor="rule"
                cursor={onOpen ? 'pointer' : 'default'}
                bg={item.index === current ? 'tide.subtle' : isMarked ? 'bg.subtle' : 'transparent'}
                _hover={{ bg: 'bg.subtle' }}
                aria-selected={isMarked || undefined}
                aria-current={item.index === current || undefined}
                onClick={() => {
                  setCurrent(item.index)
                  onOpen?.(row)
                }}
              >
                {marks && (
                  <chakra.td px="2" onClick={(event) => event.stopPropagation()}>
                    <input
                      type="checkbox"
                      aria-label="Mark this row"
                      checked={isMarked}
                      onChange={(event) => {
                        setCurrent(item.index)
                        mark(item.index, (event.nativeEvent as MouseEvent).shiftKey)
                      }}
                    />
                  </chakra.td>
                )}
                {columns.map((column) => (
                  <chakra.td
                    key={column.id}
                    px="2"
                    textAlign={column.align ?? 'left'}
                    fontFamily={column.isMono ? 'mono' : 'body'}
                    fontSize={column.isMono ? '0.85rem' : 'inherit'}
                    fontVariantNumeric="tabular-nums"
                    overflow="hidden"
                    textOverflow="ellipsis"
                    whiteSpace="nowrap"
                  >
                    {column.cell(row)}
                  </chakra.td>
                ))}
              </chakra.tr>
            )
          })}
          {after > 0 && (
            <tr aria-hidden>
              <td colSpan={span} style={{ height: after }} />
            </tr>
          )}
        </tbody>
      </chakra.table>
    </Box>
  )
}

/** Holds the place of a row that is on its way. */
function UnreadRow({ height, span }: { height: number; span: number }): ReactElement {
  return (
    <chakra.tr height={`${height}px`} borderBottomWidth="1px" borderColor="rule">
      <chakra.td colSpan={span} px="2" color="quiet">
        …
      </chakra.td>
    </chakra.tr>
  )
}

function HeaderCell<T>({
  column,
  sortText,
  onSort,
}: {
  column: Column<T>
  sortText: string
  onSort: (value: string | null) => void
}): ReactElement {
  const sorted = sortText === column.id ? 'ascending' : sortText === `-${column.id}` ? 'descending' : 'none'
  const next = sorted === 'none' ? column.id : sorted === 'ascending' ? `-${column.id}` : null
  return (
    <chakra.th
      py="2"
      px="2"
      textAlign={column.align ?? 'left'}
      fontWeight="normal"
      fontSize="0.85rem"
      color="quiet"
      aria-sort={column.sortBy ? sorted : undefined}
    >
      {column.sortBy ? (
        <chakra.button type="button" cursor="pointer" onClick={() => onSort(next)} whiteSpace="nowrap">
          {column.header}
          {sorted === 'ascending' && <ArrowUp size={12} aria-hidden style={{ display: 'inline', marginLeft: 3 }} />}
          {sorted === 'descending' && <ArrowDown size={12} aria-hidden style={{ display: 'inline', marginLeft: 3 }} />}
        </chakra.button>
      ) : (
        column.header
      )}
    </chakra.th>
  )
}

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })

/** Numbers by size, names as people read them: C2 before C10. */
function compareCells(
  a: { getValue: (id: string) => unknown },
  b: { getValue: (id: string) => unknown },
  id: string,
): number {
  const left = a.getValue(id)
  const right = b.getValue(id)
  return typeof left === 'number' && typeof right === 'number'
    ? left - right
    : collator.compare(String(left), String(right))
}
