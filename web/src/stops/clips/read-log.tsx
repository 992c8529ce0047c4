import { Box, Button, Field, HStack, Input, NativeSelect, Stack, Table, Text } from '@chakra-ui/react'
import type { FieldInfo, LogPreview } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { base64 } from '../../parts/base64.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'

interface ChosenLog {
  readonly fileName: string
  readonly content: string
}

/**
 * Reads an ALE or a table, shows how its rows were matched and every cell that would change, and merges it when told
 * to.
 */
export function ReadLog({
  fields,
  isOpen,
  onClose,
}: {
  fields: readonly FieldInfo[]
  isOpen: boolean
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const [log, setLog] = useState<ChosenLog | null>(null)
  const [mapping, setMapping] = useState<Record<string, string | null> | null>(null)
  const preview = useChange('importLog')
  const merge = useChange('importLog', () => close())
  const close = (): void => {
    setLog(null)
    setMapping(null)
    preview.reset()
    merge.reset()
    onClose()
  }
  const look = (chosen: ChosenLog, mapped: Record<string, string | null> | null): void => {
    setLog(chosen)
    setMapping(mapped)
    preview.mutate({ params, body: { ...chosen, mapping: mapped, apply: false } })
  }
  const choose = async (file: File | undefined): Promise<void> => {
    if (file) look({ fileName: file.name, content: await base64(file) }, null)
  }
  const data = preview.data
  const error = merge.error ?? preview.error
  return (
    <Dialog
      title="Read a log"
      size="xl"
      isOpen={isOpen}
      onClose={close}
      footer={
        <Button
          disabled={!log || !data || preview.error !== null || data.changesTotal === 0}
          loading={merge.isPending}
          onClick={() => log && merge.mutate({ params, body: { ...log, mapping, apply: true } })}
        >
          Merge {data ? count(data.changesTotal, 'cell') : ''}
        </Button>
      }
    >
      <Stack gap="4">
        <Field.Root>
          <Field.Label>Log file: ALE, CSV or TSV</Field.Label>
          <Input
            type="file"
            accept=".ale,.csv,.tsv,.txt"
            py="1"
            aria-label="Log file"
            onChange={(event) => void choose(event.target.files?.[0])}
          />
          <Field.HelperText>Nothing is written before you merge, and a merge can be undone.</Field.HelperText>
        </Field.Root>
        {error && <Problem message={error.message} />}
        {data && !preview.error && log && (
          <Found
            log={log}
            preview={data}
            fields={fields}
            onTarget={(title, target) =>
              look(log, {
                ...(mapping ?? Object.fromEntries(data.columns.map((column) => [column.title, column.target]))),
                [title]: target,
              })
            }
          />
        )}
      </Stack>
    </Dialog>
  )
}

function Found({
  log,
  preview,
  fields,
  onTarget,
}: {
  log: ChosenLog
  preview: LogPreview
  fields: readonly FieldInfo[]
  onTarget: (title: string, target: string | null) => void
}): ReactElement {
  return (
    <>
      <Text fontWeight="semibold">
        {formatNumber(preview.matched)} of {count(preview.rows, 'row')} matched · {count(preview.changesTotal, 'cell')}{' '}
        would change · {count(preview.clipsWithoutRow, 'clip')} without a row
        <Box as="span" color="quiet" fontWeight="normal">
          {' '}
          ({preview.format}, {preview.encoding})
        </Box>
      </Text>
      {preview.problems.map((problem) => (
        <Text key={problem}>{problem}</Text>
      ))}
      <Section title="Columns">
        <Box maxHeight="12rem" overflowY="auto">
          {preview.columns
            .filter((column) => column.title !== '')
            .map((column) => (
              <HStack key={column.title} py="0.5">
                <Text width="10rem" truncate>
                  {column.title}
                </Text>
                <Text flex="1" color="quiet" truncate>
                  {column.sample}
                </Text>
                {column.isIdentity && <Text color="quiet">finds the clip</Text>}
                <NativeSelect.Root size="xs" width="13rem">
                  <NativeSelect.Field
                    aria-label={`Where ${column.title} goes`}
                    value={column.target ?? ''}
                    onChange={(event) => onTarget(column.title, event.target.value || null)}
                  >
                    <option value="">left out</option>
                    <option value="new">a column of its own</option>
                    {fields
                      .filter((field) => field.from === 'described')
                      .map((field) => (
                        <option key={field.id} value={field.id}>
                          {field.title}
                        </option>
                      ))}
                  </NativeSelect.Field>
                  <NativeSelect.Indicator />
                </NativeSelect.Root>
              </HStack>
            ))}
        </Box>
      </Section>
      {preview.changes.length > 0 && (
        <Section title="What would change">
          <Box maxHeight="14rem" overflowY="auto">
            <Table.Root size="sm">
              <Table.Header>
                <Table.Row>
                  {['Line', 'Clip', 'Matched by', 'Column', 'Now', 'Then'].map((title) => (
                    <Table.ColumnHeader key={title}>{title}</Table.ColumnHeader>
                  ))}
                </Table.Row>
              </Table.Header>
              <Table.Body>
                {preview.changes.slice(0, 200).map((change) => (
                  <Table.Row key={`${change.line}-${change.field}`}>
                    <Table.Cell>{change.line}</Table.Cell>
                    <Table.Cell>{change.name}</Table.Cell>
                    <Table.Cell color="quiet">{change.by}</Table.Cell>
                    <Table.Cell>{change.field}</Table.Cell>
                    <Table.Cell color="quiet">{change.before || 'empty'}</Table.Cell>
                    <Table.Cell>{change.after}</Table.Cell>
                  </Table.Row>
                ))}
              </Table.Body>
            </Table.Root>
            {preview.changesTotal > 200 && <Text color="quiet">and {preview.changesTotal - 200} more</Text>}
          </Box>
        </Section>
      )}
      {preview.unmatched.length > 0 && (
        <Section
          title={`Rows without a clip (${preview.unmatchedTotal})`}
          action={preview.nowhereTotal > 0 && <HoldPlaces log={log} count={preview.nowhereTotal} />}
        >
          <Box maxHeight="10rem" overflowY="auto">
            {preview.unmatched.slice(0, 200).map((row) => (
              <Text key={row.line} py="0.5">
                Line {row.line}, {row.label}:{' '}
                <Box as="span" color="quiet">
                  {row.reason}
                </Box>
              </Text>
            ))}
          </Box>
        </Section>
      )}
    </>
  )
}

/** What a log names and nobody has yet is awaited from then on. */
function HoldPlaces({ log, count: places }: { log: ChosenLog; count: number }): ReactElement {
  const production = useProduction()
  const hold = useChange('holdPlaces')
  if (hold.error) return <Problem message={hold.error.message} />
  if (hold.data)
    return (
      <Text fontSize="0.9rem">
        {count(hold.data.awaitedTotal, 'place')} held: Intake lists what is awaited, until it comes.
      </Text>
    )
  return (
    <Button
      size="xs"
      variant="outline"
      mb="1"
      loading={hold.isPending}
      onClick={() => hold.mutate({ params: { productionId: production.id }, body: log })}
    >
      Hold {count(places, 'place')} for what is not here
    </Button>
  )
}
