import { Button, Flex, Menu, NativeSelect, Portal } from '@chakra-ui/react'
import type { FieldInfo, ViewColumn } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { ChevronDown, type LucideIcon, Redo2, Undo2 } from 'lucide-react'
import { type DragEvent, type ReactElement, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { clipMarksKey, useProduction } from '../../app/production.tsx'
import { call } from '../../data/api.ts'
import { orderOfEdits, useChange, useRead } from '../../data/queries.ts'
import { useKept, useMarks, useOpened } from '../../data/remembered.ts'
import { AcceptRedelivered } from '../../parts/accept-redelivered.tsx'
import { FilterField } from '../../parts/filter-field.tsx'
import { useUndoKeys } from '../../parts/keys.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { bytes, count } from '../../parts/words.ts'
import type { ShownColumn } from './clip-cells.tsx'
import { usualColumns, usualWidth } from './clip-cells.tsx'
import { useClipPages } from './clip-pages.ts'
import { dailySearches, nextSort, useClipQuery } from './clip-query.ts'
import { ClipSheet } from './clip-sheet.tsx'
import { ClipTable } from './clip-table.tsx'
import { ColumnChooser } from './column-chooser.tsx'
import { DescribeDialog, type DescribeKind } from './describe-dialog.tsx'
import { dragType, GroupTree } from './group-tree.tsx'
import { NeedsDialog } from './needs-dialog.tsx'
import { ReadLog } from './read-log.tsx'
import { SearchEditor } from './search-editor.tsx'
import { SyncSound } from './sync-sound.tsx'
import { TakenOut, TakeOut } from './take-out.tsx'
import { WriteLog } from './write-log.tsx'

type OpenDialog =
  | 'columns'
  | 'search'
  | 'read log'
  | 'write log'
  | 'sync'
  | 'needs'
  | 'take out'
  | 'taken out'
  | 'accept'
  | null

/** Every original: what its file says, what people say of it, and how it stands. */
export function ClipsStop(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const navigate = useNavigate()
  const fields = useRead('listFields', { params })
  const searches = useRead('listSearches', { params })
  const views = useRead('listViews', { params })
  const search = useClipQuery(searches.data ?? [])
  const pages = useClipPages(production.id, search.query)
  const [openId, setOpenId] = useOpened('clip')
  const [tree, setTree] = useKept('ennick.groups', false)
  const [columns, setColumns] = useKept<readonly ViewColumn[] | null>(`ennick.columns.${production.id}`, null)
  const [isCompact, setCompact] = useKept('ennick.clips.compact', false)
  const [marks, setMarks] = useMarks(clipMarksKey(production))
  const [dialog, setDialog] = useState<OpenDialog>(null)
  const [describing, setDescribing] = useState<DescribeKind | null>(null)
  const edit = useChange('editClips', undefined, orderOfEdits)
  const stack = useEditStack(production.id)
  const shown = useMemo(() => shownColumns(fields.data ?? [], columns), [fields.data, columns])
  const shownIds = useMemo(() => shown.map(({ field }) => field.id), [shown])
  if (fields.isPending || pages.isPending) return <Loading what="the clips" />
  const error = fields.error ?? pages.error ?? edit.error ?? stack.error
  if (error && !pages.outline) return <Problem message={error.message} />
  const total = pages.outline?.total ?? 0
  const all = pages.outline?.all ?? 0
  const marked = [...marks]
  const readIds = async (): Promise<string[]> => (await call('listClipIds', { params, body: search.query })).ids
  const drag = (event: DragEvent, clipId: string): void => {
    event.dataTransfer.setData(dragType, JSON.stringify(marks.has(clipId) ? marked : [clipId]))
    event.dataTransfer.effectAllowed = 'move'
  }
  return (
    <Page
      isTall
      title={total === all ? count(all, 'clip') : `${formatNumber(total)} of ${count(all, 'clip')}`}
      answer={
        marked.length
          ? `${formatNumber(marked.length)} marked`
          : `${bytes(pages.outline?.bytes ?? 0)} · mark clips with x or their box, edit a cell with a click`
      }
      actions={
        <>
          <FilterField label="Filter clips" value={search.words} onChange={search.setWords} />
          <NativeSelect.Root size="sm" width="11rem">
            <NativeSelect.Field
              aria-label="Show only"
              value={search.only}
              onChange={(event) => search.setOnly(event.target.value)}
              bg="page"
            >
              <option value="">all clips</option>
              {Object.keys(dailySearches).map((name) => (
                <option key={name}>{name}</option>
              ))}
              {(searches.data ?? []).map((saved) => (
                <option key={saved.id} value={saved.id}>
                  {saved.name} ({formatNumber(saved.count)})
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          <Button size="sm" variant={search.find ? 'subtle' : 'outline'} onClick={() => setDialog('search')}>
            {search.find ? 'Search is on' : 'Search…'}
          </Button>
          {search.find && (
            <Button size="sm" variant="ghost" onClick={() => search.setFind(null)}>
              End the search
            </Button>
          )}
        </>
      }
    >
      <Flex gap="2" mb="3" wrap="wrap" align="center">
        <Button size="xs" variant={tree ? 'subtle' : 'outline'} aria-pressed={tree} onClick={() => setTree(!tree)}>
          Groups
        </Button>
        <Button size="xs" variant="outline" onClick={() => setDialog('columns')}>
          Columns…
        </Button>
        <Step word="Undo" title={stack.undo} icon={Undo2} onClick={stack.onUndo} />
        <Step word="Redo" title={stack.redo} icon={Redo2} onClick={stack.onRedo} />
        <Button size="xs" variant="outline" onClick={() => setDialog('read log')}>
          Read a log (ALE, CSV)…
        </Button>
        <Button size="xs" variant="outline" onClick={() => setDialog('sync')}>
          {marked.length ? `Sync sound of ${formatNumber(marked.length)}…` : 'Sync sound…'}
        </Button>
        <Menu.Root>
          <Menu.Trigger asChild>
            <Button size="xs" variant="outline">
              More <ChevronDown size={14} aria-hidden />
            </Button>
          </Menu.Trigger>
          <Portal>
            <Menu.Positioner>
              <Menu.Content bg="page">
                <Menu.Item value="take out" disabled={marked.length === 0} onClick={() => setDialog('take out')}>
                  {marked.length
                    ? `Take ${formatNumber(marked.length)} out of the production…`
                    : 'Take out of the production: mark clips'}
                </Menu.Item>
                <Menu.Item value="taken out" onClick={() => setDialog('taken out')}>
                  What was taken out…
                </Menu.Item>
                <Menu.Item value="accept" disabled={marked.length === 0} onClick={() => setDialog('accept')}>
                  {marked.length
                    ? `Accept ${formatNumber(marked.length)} as delivered again…`
                    : 'Accept what was delivered again: mark clips'}
                </Menu.Item>
              </Menu.Content>
            </Menu.Positioner>
          </Portal>
        </Menu.Root>
        <Flex flex="1" />
        {marked.length > 0 && (
          <>
            <Button size="xs" variant="outline" onClick={() => setDescribing('set')}>
              Describe {formatNumber(marked.length)}
            </Button>
            <Button size="xs" variant="outline" onClick={() => setDescribing('reel')}>
              Set reel of {formatNumber(marked.length)}
            </Button>
            <Button size="xs" variant="outline" onClick={() => setDialog('write log')}>
              Write a log of {formatNumber(marked.length)}
            </Button>
            <Button size="xs" variant="outline" onClick={() => setDialog('needs')}>
              Which of {formatNumber(marked.length)} need a proxy?
            </Button>
            <Button size="xs" onClick={() => navigate(`/p/${production.id}/make`)}>
              Plan proxies of {formatNumber(marked.length)}
            </Button>
          </>
        )}
      </Flex>
      {error && <Problem message={error.message} />}
      <Flex flex="1" minHeight="0" gap="4">
        {tree && <GroupTree chosen={search.group} marked={marked} onChoose={search.setGroup} />}
        <ClipTable
          pages={pages}
          columns={shown}
          isCompact={isCompact}
          sort={search.query.sort}
          onSort={(field, isAdding) => search.setSort(nextSort(search.query.sort, field, isAdding))}
          onWidth={(field, width) =>
            setColumns(
              shown.map((column) => ({
                field: column.field.id,
                width: column.field.id === field ? width : column.width,
              })),
            )
          }
          marks={marks}
          onMarks={setMarks}
          readIds={readIds}
          onOpen={setOpenId}
          onDragClips={drag}
          onEdit={(clipId, field, value) =>
            edit.mutate({
              params,
              body: { action: { kind: 'set', clipIds: [clipId], field: field.id, value }, apply: true },
            })
          }
          empty={
            <Empty title={all ? 'No clip fits the filter' : 'No clip yet'}>
              {all
                ? 'Take a word out of the filter, or show all clips.'
                : 'Add a volume in Intake and scan it: each recording on it becomes a clip here.'}
            </Empty>
          }
        />
      </Flex>
      <ClipSheet clipId={openId || null} onClose={() => setOpenId(null)} />
      <ColumnChooser
        fields={fields.data ?? []}
        columns={shown.map((column) => ({ field: column.field.id, width: column.width }))}
        sort={search.query.sort}
        views={views.data ?? []}
        isCompact={isCompact}
        isOpen={dialog === 'columns'}
        onCompact={setCompact}
        onClose={() => setDialog(null)}
        onColumns={setColumns}
        onSort={search.setSort}
      />
      <TakeOut
        clipIds={marked}
        isOpen={dialog === 'take out'}
        onClose={() => setDialog(null)}
        onDone={() => {
          setMarks(new Set())
          setDialog(null)
        }}
      />
      <AcceptRedelivered
        clipIds={marked}
        isOpen={dialog === 'accept'}
        onClose={() => setDialog(null)}
        onDone={() => {
          setMarks(new Set())
          setDialog(null)
        }}
      />
      <TakenOut isOpen={dialog === 'taken out'} onClose={() => setDialog(null)} />
      <SearchEditor
        fields={fields.data ?? []}
        start={search.find}
        searches={searches.data ?? []}
        isOpen={dialog === 'search'}
        onClose={() => setDialog(null)}
        onUse={(condition, savedId) => (savedId ? search.setOnly(savedId) : search.setFind(condition))}
      />
      <DescribeDialog
        clipIds={marked}
        fields={fields.data ?? []}
        kind={describing}
        onKind={setDescribing}
        onClose={() => setDescribing(null)}
      />
      <ReadLog fields={fields.data ?? []} isOpen={dialog === 'read log'} onClose={() => setDialog(null)} />
      <WriteLog
        clipIds={marked}
        fields={fields.data ?? []}
        shown={shownIds}
        isOpen={dialog === 'write log'}
        onClose={() => setDialog(null)}
      />
      <SyncSound clipIds={marked} isOpen={dialog === 'sync'} onClose={() => setDialog(null)} />
      <NeedsDialog clipIds={marked} isOpen={dialog === 'needs'} onClose={() => setDialog(null)} />
    </Page>
  )
}

/** The columns that somebody chose, or the usual ones; what is no field any more is left out. */
function shownColumns(fields: readonly FieldInfo[], columns: readonly ViewColumn[] | null): ShownColumn[] {
  const byId = new Map(fields.map((field) => [field.id, field]))
  if (columns)
    return columns.flatMap(({ field: id, width }) => {
      const field = byId.get(id)
      return field ? [{ field, width }] : []
    })
  return usualColumns.flatMap((id) => {
    const field = byId.get(id)
    return field ? [{ field, width: usualWidth(field) }] : []
  })
}

/**
 * Undo and redo of everything that is said of clips, also by Ctrl+Z and Ctrl+Shift+Z. The keys ask the server whatever
 * was read last: what was kept a moment ago may not be among it yet.
 */
function useEditStack(productionId: string) {
  const params = { productionId }
  const stack = useRead('readEdits', { params })
  const undo = useChange('undoEdit', undefined, orderOfEdits)
  const redo = useChange('redoEdit', undefined, orderOfEdits)
  const onUndo = (): void => undo.mutate({ params })
  const onRedo = (): void => redo.mutate({ params })
  useUndoKeys({ onUndo, onRedo })
  const refusal = [undo.error, redo.error].find((error) => error && error.code !== 'nothing-to-do')
  return {
    undo: stack.data?.undo ?? null,
    redo: stack.data?.redo ?? null,
    error: refusal ?? null,
    onUndo,
    onRedo,
  }
}

/** One step of the edits, there or back; its title says what that would be. */
function Step(props: { word: string; title: string | null; icon: LucideIcon; onClick: () => void }): ReactElement {
  const { word, title, icon: Icon, onClick } = props
  return (
    <Button
      size="xs"
      variant="outline"
      aria-label={word}
      disabled={!title}
      title={title ? `${word}: ${title}` : word}
      onClick={onClick}
    >
      <Icon size={14} aria-hidden />
    </Button>
  )
}
