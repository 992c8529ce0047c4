import { Box, chakra } from '@chakra-ui/react'
import type { Clip, FieldInfo, SortKey } from '@ennick/contract'
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual'
import { type DragEvent, type ReactElement, type ReactNode, useCallback, useEffect, useRef, useState } from 'react'
import { useUnderWay } from '../../data/under-way.ts'
import { usePageKeys } from '../../parts/keys.ts'
import { useViewer } from '../../viewer/address.ts'
import type { ShownColumn } from './clip-cells.tsx'
import type { ClipPages } from './clip-pages.ts'
import { ClipRow, type RowAction } from './clip-row.tsx'
import { ClipTableHead } from './clip-table-head.tsx'
import { type EditedRow, placeOfEdited } from './edited-row.ts'

interface Props {
  readonly pages: ClipPages
  readonly columns: readonly ShownColumn[]
  /** Rows of one line. */
  readonly isCompact: boolean
  readonly sort: readonly SortKey[]
  readonly onSort: (field: string, isAdding: boolean) => void
  readonly onWidth: (field: string, width: number) => void
  readonly marks: ReadonlySet<string>
  readonly onMarks: (marks: ReadonlySet<string>) => void
  /** All ids of the search in order: marking a range or everything may reach rows that were never in sight. */
  readonly readIds: () => Promise<string[]>
  readonly onOpen: (clipId: string) => void
  readonly onDragClips: (event: DragEvent, clipId: string) => void
  readonly onEdit: (clipId: string, field: FieldInfo, value: string) => void
  readonly empty: ReactNode
}

const rowHeight = 56
const compactHeight = 30

/** How rows look, in one place: styles for each cell would be worked out anew for every cell that scrolls by. */
const rowLooks = {
  '& tr.clip': { height: `${rowHeight}px`, borderBottomWidth: '1px', borderColor: 'rule', cursor: 'pointer' },
  '& tr.clip:hover, & tr.clip[aria-selected=true]': { bg: 'bg.subtle' },
  '& tr.clip[aria-current=true]': { bg: 'tide.subtle' },
  '& tr.clip td': {
    px: '2',
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    whiteSpace: 'nowrap',
    fontVariantNumeric: 'tabular-nums',
  },
  '&.compact tr.clip': { height: `${compactHeight}px` },
  '&.compact .clip-name, &.compact .clip-file': { display: 'inline' },
  '&.compact .clip-file': { marginInlineStart: '2' },
  '&.compact .clip-picture, &.compact .clip-picture img': { width: '43px', height: '24px', fontSize: '0.65rem' },
  '& td.mono': { fontFamily: 'mono', fontSize: '0.85rem' },
  '& td.right': { textAlign: 'right' },
  '& td.editable': { cursor: 'text' },
  '& td.editable:hover': { boxShadow: 'inset 0 0 0 1px {colors.tide.emphasized}' },
  '& .clip-name, & .clip-file': { overflow: 'hidden', textOverflow: 'ellipsis' },
  '& .clip-name': { fontWeight: 'semibold' },
  '& .clip-file': { color: 'quiet', fontSize: '0.82rem' },
  '& .clip-none': { color: 'quiet' },
  '& .clip-picture': {
    display: 'flex',
    alignItems: 'center',
    justifyContent: 'center',
    width: '78px',
    height: '44px',
    bg: 'bg.muted',
    color: 'quiet',
    fontSize: '0.8rem',
  },
  '& .clip-picture img': { width: '78px', height: '44px', objectFit: 'contain' },
} as const

/**
 * The clips of a search, however many: only rows in sight are in the page, and only their pages are read.
 * j and k move, Enter opens, x marks, X marks a range, a marks or clears all, e edits the row's first described cell.
 */
export function ClipTable(props: Props): ReactElement {
  const { pages, columns, marks, onMarks } = props
  const total = pages.outline?.total ?? 0
  const scroller = useRef<HTMLDivElement>(null)
  const [editing, setEditing] = useState<EditedRow | null>(null)
  const edited = editing && placeOfEdited(editing, total, pages.placeOf, (index) => pages.rowAt(index) !== undefined)
  const editedAt = edited?.at ?? null
  const besideAt = edited?.isBeside ? edited.at : null
  const rows = total + (besideAt === null ? 0 : 1)
  const virtual = useVirtualizer({
    count: rows,
    getScrollElement: () => scroller.current,
    estimateSize: () => (props.isCompact ? compactHeight : rowHeight),
    overscan: 4,
    // The row under the pen stays in the page wherever one scrolls.
    rangeExtractor: (range) => {
      const inSight = defaultRangeExtractor(range)
      return editedAt === null || inSight.includes(editedAt) ? inSight : [...inSight, editedAt].sort((a, b) => a - b)
    },
  })
  const [current, setCurrent] = useState(-1)
  const anchor = useRef<number | null>(null)
  const items = virtual.getVirtualItems()
  // The row under the pen may stand far from the others: what lies between is not in sight.
  const inSight = items.filter(({ index }) => index !== editedAt || isWithin(virtual.range, index))
  const first = inSight[0]?.index ?? 0
  const last = inSight.at(-1)?.index ?? 0
  const { show } = pages
  /** The place in the list of a row that is not beside it. */
  const inList = (index: number): number => (besideAt !== null && index > besideAt ? index - 1 : index)
  const [firstShown, lastShown] = [inList(first), inList(last)]
  useEffect(() => show(firstShown, lastShown), [show, firstShown, lastShown])
  const { scrollToIndex, measure } = virtual
  // biome-ignore lint/correctness/useExhaustiveDependencies: rows are measured anew when their height is another
  useEffect(measure, [measure, props.isCompact])
  useEffect(() => {
    if (editedAt !== null) scrollToIndex(editedAt)
  }, [editedAt, scrollToIndex])
  const rowAt = (index: number): Clip | undefined => {
    const listed = pages.rowAt(inList(index))
    return editing && index === editedAt && listed?.id !== editing.clip.id ? editing.clip : listed
  }

  const move = (by: number): void => {
    const next = Math.max(0, Math.min(rows - 1, current + by))
    setCurrent(next)
    virtual.scrollToIndex(next)
  }
  const marksNow = useRef(marks)
  marksNow.current = marks
  /** The clip of a row, also of one that is still being read: a key that was pressed meanwhile counts. */
  const idAt = async (index: number): Promise<string | undefined> =>
    rowAt(index)?.id ?? (index < 0 ? undefined : (await props.readIds())[inList(index)])
  const mark = async (index: number, clipId: string | undefined, isRange: boolean): Promise<void> => {
    const from = anchor.current
    const ids = isRange && from !== null ? await props.readIds() : null
    const id = clipId ?? (await idAt(index))
    if (id === undefined) return
    anchor.current = index
    // What was marked while this was asked stays marked.
    const next = new Set(marksNow.current)
    if (ids !== null && from !== null)
      for (const each of ids.slice(inList(Math.min(from, index)), inList(Math.max(from, index)) + 1)) next.add(each)
    else if (!next.delete(id)) next.add(id)
    marksNow.current = next
    onMarks(next)
  }
  // Marks may lie outside of the search: what is in sight must be marked too.
  const isAllMarked =
    total > 0 &&
    marks.size >= total &&
    items.every(({ index }) => {
      const row = rowAt(index)
      return row === undefined || marks.has(row.id)
    })
  const markAll = async (): Promise<void> => onMarks(isAllMarked ? new Set() : new Set(await props.readIds()))
  const editable = columns.filter(({ field }) => field.from === 'described')
  const startEdit = (index: number, field: string | undefined): void => {
    const clip = rowAt(index)
    setEditing(clip && field !== undefined ? { clip, field, index } : null)
  }
  const step = (index: number, fieldId: string, by: number): void =>
    startEdit(index, editable[editable.findIndex(({ field }) => field.id === fieldId) + by]?.field.id)
  const viewer = useViewer()
  const underWay = useUnderWay()
  usePageKeys({
    j: () => move(1),
    k: () => move(-1),
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    PageDown: () => move(10),
    PageUp: () => move(-10),
    Home: () => move(-rows),
    End: () => move(rows),
    x: () => void mark(current, rowAt(current)?.id, false),
    X: () => void mark(current, rowAt(current)?.id, true),
    a: () => void markAll(),
    e: () => startEdit(current, editable[0]?.field.id),
    Enter: () => void idAt(current).then((id) => id !== undefined && props.onOpen(id)),
    v: () => void idAt(current).then((id) => id !== undefined && viewer.open({ clipId: id })),
  })

  const act: RowAction = {
    // By its id: a list that is being read again may have another row at the index by now.
    mark: (index, clipId, isRange) => {
      setCurrent(index)
      void mark(index, clipId, isRange)
    },
    open: (index, clipId) => {
      setCurrent(index)
      props.onOpen(clipId)
    },
    startEdit: (index, clip, field) => {
      setCurrent(index)
      setEditing({ clip, field, index })
    },
    endEdit: (index, clipId, field, value, then) => {
      if (value !== null) props.onEdit(clipId, field, value)
      if (then === 'below') startEdit(index + 1, field.id)
      else if (then === 'next' || then === 'before') step(index, field.id, then === 'next' ? 1 : -1)
      else setEditing(null)
    },
    drag: props.onDragClips,
  }
  const latest = useRef(act)
  latest.current = act
  // One function for all rows and all time, so that a row is drawn again only when something of it changed.
  const onAction = useCallback(<K extends keyof RowAction>(name: K, ...args: Parameters<RowAction[K]>): void => {
    ;(latest.current[name] as (...all: Parameters<RowAction[K]>) => void)(...args)
  }, [])

  if (pages.outline && total === 0 && !editing) return <>{props.empty}</>
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0)
  const span = columns.length + 2
  return (
    <Box
      ref={scroller}
      flex="1"
      minHeight="0"
      minWidth="0"
      overflow="auto"
      data-testid="table-scroller"
      className={props.isCompact ? 'compact' : undefined}
      css={rowLooks}
      style={{ contain: 'layout paint' }}
    >
      <chakra.table
        width="100%"
        minWidth={`${columns.reduce((sum, column) => sum + column.width, 7.7)}rem`}
        style={{ tableLayout: 'fixed' }}
        aria-label="Clips"
        aria-rowcount={total}
      >
        <chakra.colgroup>
          <col style={{ width: '2.5rem' }} />
          <col style={{ width: '5.2rem' }} />
          {columns.map(({ field, width }) => (
            <col key={field.id} style={{ width: `${width}rem` }} />
          ))}
        </chakra.colgroup>
        <ClipTableHead
          columns={columns}
          sort={props.sort}
          onSort={props.onSort}
          onWidth={props.onWidth}
          isAllMarked={isAllMarked}
          onMarkAll={() => void markAll()}
        />
        <tbody>
          {items.flatMap((item, at) => {
            const clip = rowAt(item.index)
            const room = item.start - (items[at - 1]?.end ?? 0)
            return [
              room > 0 && <Gap key={`before-${item.index}`} height={room} span={span} />,
              clip ? (
                <ClipRow
                  key={clip.id}
                  clip={clip}
                  index={item.index}
                  columns={columns}
                  isCurrent={item.index === current}
                  isMarked={marks.has(clip.id)}
                  underWay={underWay.get(clip.id) ?? null}
                  editing={editing && item.index === editedAt ? editing.field : null}
                  onAction={onAction}
                />
              ) : (
                <tr key={`waiting-${item.index}`} className="clip">
                  <td colSpan={span}>…</td>
                </tr>
              ),
            ]
          })}
          {after > 0 && <Gap height={after} span={span} />}
        </tbody>
      </chakra.table>
    </Box>
  )
}

/** The room of rows that are not in the page. */
const Gap = ({ height, span }: { height: number; span: number }): ReactElement => (
  <tr aria-hidden>
    <td colSpan={span} style={{ height }} />
  </tr>
)

const isWithin = (range: { startIndex: number; endIndex: number } | null, index: number): boolean =>
  range !== null && index >= range.startIndex && index <= range.endIndex
