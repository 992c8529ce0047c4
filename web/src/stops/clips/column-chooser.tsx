import { Box, Button, Flex, HStack, Input, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { FieldInfo, SavedView, SortKey, ViewColumn } from '@ennick/contract'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { Tick } from '../../parts/tick.tsx'
import { usualWidth } from './clip-cells.tsx'

/** Which columns are shown and in which order; views that keep that under a name; columns that people make. */
export function ColumnChooser({
  fields,
  columns,
  sort,
  views,
  isCompact,
  isOpen,
  onCompact,
  onClose,
  onColumns,
  onSort,
}: {
  fields: readonly FieldInfo[]
  columns: readonly ViewColumn[]
  sort: readonly SortKey[]
  views: readonly SavedView[]
  isCompact: boolean
  isOpen: boolean
  onCompact: (isCompact: boolean) => void
  onClose: () => void
  onColumns: (columns: readonly ViewColumn[]) => void
  onSort: (sort: readonly SortKey[]) => void
}): ReactElement {
  const shown = new Set(columns.map((column) => column.field))
  const toggle = (field: FieldInfo): void =>
    onColumns(
      shown.has(field.id)
        ? columns.filter((column) => column.field !== field.id)
        : [...columns, { field: field.id, width: usualWidth(field) }],
    )
  const move = (index: number, by: number): void => {
    const next = [...columns]
    const [moved] = next.splice(index, 1)
    if (moved) next.splice(index + by, 0, moved)
    onColumns(next)
  }
  const titleOf = (id: string): string => fields.find((field) => field.id === id)?.title ?? id
  return (
    <Dialog
      title="Columns and views"
      size="xl"
      isOpen={isOpen}
      onClose={onClose}
      footer={<Button onClick={onClose}>Done</Button>}
    >
      <Flex gap="8" align="start">
        <Box flex="1">
          <Section title={`Shown, in order (${columns.length})`}>
            <Box maxHeight="21rem" overflowY="auto">
              {columns.map((column, index) => (
                <HStack key={column.field} py="0.5" gap="1">
                  <Text flex="1">{titleOf(column.field)}</Text>
                  <Button
                    size="2xs"
                    variant="ghost"
                    aria-label={`${titleOf(column.field)} up`}
                    disabled={index === 0}
                    onClick={() => move(index, -1)}
                  >
                    <ArrowUp size={14} aria-hidden />
                  </Button>
                  <Button
                    size="2xs"
                    variant="ghost"
                    aria-label={`${titleOf(column.field)} down`}
                    disabled={index === columns.length - 1}
                    onClick={() => move(index, 1)}
                  >
                    <ArrowDown size={14} aria-hidden />
                  </Button>
                </HStack>
              ))}
            </Box>
          </Section>
          <Section title="Rows">
            <Tick label="compact: one line each" isOn={isCompact} onChange={onCompact} />
          </Section>
          <Views views={views} columns={columns} sort={sort} onColumns={onColumns} onSort={onSort} />
        </Box>
        <Box flex="1">
          {(['described', 'file', 'state'] as const).map((from) => (
            <Section key={from} title={{ described: 'Described', file: 'Facts of the file', state: 'State' }[from]}>
              <Box columnCount={2}>
                {fields
                  .filter((field) => field.from === from)
                  .map((field) => (
                    <HStack key={field.id} as="label" gap="2" py="0.5" cursor="pointer" breakInside="avoid">
                      <input
                        type="checkbox"
                        checked={shown.has(field.id)}
                        disabled={shown.has(field.id) && shown.size === 1}
                        onChange={() => toggle(field)}
                      />
                      <Text as="span">{field.title}</Text>
                    </HStack>
                  ))}
              </Box>
              {from === 'described' && <NewColumn />}
            </Section>
          ))}
        </Box>
      </Flex>
    </Dialog>
  )
}

function Views({
  views,
  columns,
  sort,
  onColumns,
  onSort,
}: {
  views: readonly SavedView[]
  columns: readonly ViewColumn[]
  sort: readonly SortKey[]
  onColumns: (columns: readonly ViewColumn[]) => void
  onSort: (sort: readonly SortKey[]) => void
}): ReactElement {
  const production = useProduction()
  const [name, setName] = useState('')
  const save = useChange('saveView', () => setName(''))
  const remove = useChange('removeView')
  const error = save.error ?? remove.error
  return (
    <Section title="Views">
      {views.map((view) => (
        <HStack key={view.id} py="0.5">
          <Text flex="1">
            {view.name}{' '}
            <Box as="span" color="quiet">
              {view.columns.length} columns
            </Box>
          </Text>
          <Button
            size="2xs"
            variant="outline"
            onClick={() => {
              onColumns(view.columns)
              onSort(view.sort)
            }}
          >
            Show {view.name}
          </Button>
          <Button size="2xs" variant="ghost" onClick={() => remove.mutate({ params: { viewId: view.id } })}>
            Remove {view.name}
          </Button>
        </HStack>
      ))}
      <HStack mt="2">
        <Input
          size="sm"
          placeholder="Name of this view"
          aria-label="Name of this view"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button
          size="sm"
          variant="outline"
          disabled={name.trim() === ''}
          loading={save.isPending}
          onClick={() =>
            save.mutate({
              params: { productionId: production.id },
              body: { name, columns: [...columns], sort: [...sort] },
            })
          }
        >
          Save the view
        </Button>
      </HStack>
      {error && <Problem message={error.message} />}
    </Section>
  )
}

const kinds = {
  text: 'text',
  number: 'number',
  timecode: 'timecode',
  date: 'date',
  flag: 'yes or no',
  choice: 'one of a list',
} as const

function NewColumn(): ReactElement {
  const production = useProduction()
  const [title, setTitle] = useState('')
  const [kind, setKind] = useState<keyof typeof kinds>('text')
  const [choices, setChoices] = useState('')
  const add = useChange('addColumn', () => {
    setTitle('')
    setChoices('')
  })
  const list = choices.split(',').flatMap((choice) => choice.trim() || [])
  return (
    <Stack gap="2" mt="2">
      <HStack>
        <Input
          size="sm"
          placeholder="A column of your own"
          aria-label="A column of your own"
          value={title}
          onChange={(event) => setTitle(event.target.value)}
        />
        <NativeSelect.Root size="sm" width="9rem">
          <NativeSelect.Field
            aria-label="Kind of column"
            value={kind}
            onChange={(event) => setKind(event.target.value as keyof typeof kinds)}
          >
            {Object.entries(kinds).map(([value, word]) => (
              <option key={value} value={value}>
                {word}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Button
          size="sm"
          variant="outline"
          disabled={title.trim() === '' || (kind === 'choice' && list.length === 0)}
          loading={add.isPending}
          onClick={() =>
            add.mutate({
              params: { productionId: production.id },
              body: { title, kind, choices: kind === 'choice' ? list : [] },
            })
          }
        >
          Make it
        </Button>
      </HStack>
      {kind === 'choice' && (
        <Input
          size="sm"
          placeholder="calm, storm, fog"
          aria-label="Choices, parted by commas"
          value={choices}
          onChange={(event) => setChoices(event.target.value)}
        />
      )}
      {add.error && <Problem message={add.error.message} />}
    </Stack>
  )
}
