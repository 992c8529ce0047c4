import { Box, Button, HStack, Stack, Table, Text } from '@chakra-ui/react'
import type { EditAction, EditPreview, FieldInfo, ReelSource } from '@ennick/contract'
import { type ReactElement, useEffect, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { usePlanned } from '../../data/planned.ts'
import { orderOfEdits, useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { Tab, TabList } from '../../parts/tab-list.tsx'
import { Tick } from '../../parts/tick.tsx'
import { count } from '../../parts/words.ts'
import { FieldChoice, Line, ValueField } from './describe-fields.tsx'
import { ReelForm } from './reel-form.tsx'

export type DescribeKind = EditAction['kind']

const kinds: Record<DescribeKind, string> = {
  set: 'Set a value',
  copy: 'Copy a column',
  replace: 'Find and replace',
  fill: 'Fill from a pattern',
  'take apart': 'Take a name apart',
  reel: 'Take the reel',
}

/** Without the clips, which are added when it is asked. */
type Draft = EditAction extends infer A ? (A extends EditAction ? Omit<A, 'clipIds'> : never) : never

/** Changes what is said of many clips at once; every change is shown before anything is written, and can be undone. */
export function DescribeDialog({
  clipIds,
  fields,
  kind,
  onKind,
  onClose,
}: {
  clipIds: readonly string[]
  fields: readonly FieldInfo[]
  kind: DescribeKind | null
  onKind: (kind: DescribeKind) => void
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const [draft, setDraft] = useState<Draft | null>(null)
  const asked = (draft: Draft, apply: boolean) => ({
    params: { productionId: production.id },
    body: { action: { ...draft, clipIds: [...clipIds] } as EditAction, apply },
  })
  const preview = usePlanned('editClips', kind !== null && clipIds.length > 0 && draft ? asked(draft, false) : null)
  const apply = useChange('editClips', onClose, orderOfEdits)
  const error = apply.error ?? preview.error
  const total = preview.ready?.total ?? 0
  const isReel = kind === 'reel'
  return (
    <Dialog
      title={`Describe ${count(clipIds.length, 'clip')}`}
      size="xl"
      isOpen={kind !== null}
      onClose={onClose}
      footer={
        <Button
          disabled={total === 0}
          loading={apply.isPending}
          onClick={() => draft && apply.mutate(asked(draft, true))}
        >
          {isReel ? `Set ${count(total, 'reel')}` : `Change ${count(total, 'cell')}`}
        </Button>
      }
    >
      <Stack gap="4">
        <TabList label="Ways to describe">
          {(Object.keys(kinds) as DescribeKind[]).map((each) => (
            <Tab
              key={each}
              isChosen={each === kind}
              onChoose={() => {
                setDraft(null)
                onKind(each)
              }}
            >
              {kinds[each]}
            </Tab>
          ))}
        </TabList>
        {kind && <Form key={kind} kind={kind} fields={fields} onDraft={setDraft} />}
        {error && <Problem message={error.message} />}
        {!error && preview.shown && <Preview preview={preview.shown} />}
      </Stack>
    </Dialog>
  )
}

function Form({
  kind,
  fields,
  onDraft,
}: {
  kind: DescribeKind
  fields: readonly FieldInfo[]
  onDraft: (draft: Draft | null) => void
}): ReactElement {
  const described = fields.filter((field) => field.from === 'described')
  const [field, setField] = useState(kind === 'fill' ? 'name' : 'scene')
  const [value, setValue] = useState('')
  const [from, setFrom] = useState('fileName')
  const [onlyEmpty, setOnlyEmpty] = useState(true)
  const [blanksToo, setBlanksToo] = useState(false)
  const [ofAllKinds, setOfAllKinds] = useState(false)
  const [find, setFind] = useState('')
  const [isPattern, setPattern] = useState(false)
  const [isCaseSensitive, setCaseSensitive] = useState(false)
  const [source, setSource] = useState<ReelSource>({ kind: 'first-characters', count: 4 })
  const draft: Draft | null =
    kind === 'set'
      ? { kind, field, value }
      : kind === 'copy'
        ? { kind, field, from, onlyEmpty, blanksToo }
        : kind === 'replace'
          ? find === ''
            ? null
            : { kind, field, find, replace: value, isPattern, isCaseSensitive }
          : kind === 'fill'
            ? value === ''
              ? null
              : { kind, field, pattern: value, onlyEmpty }
            : kind === 'take apart'
              ? value === ''
                ? null
                : { kind, from, pattern: value, onlyEmpty }
              : { kind, source, onlyEmpty, ofAllKinds }
  const text = JSON.stringify(draft)
  useEffect(() => onDraft(JSON.parse(text) as Draft | null), [text, onDraft])
  const chosen = described.find((candidate) => candidate.id === field)
  if (kind === 'reel')
    return (
      <Stack gap="3">
        <ReelForm source={source} onSource={setSource} />
        <HStack gap="6">
          <Tick label="only where there is no reel" isOn={onlyEmpty} onChange={setOnlyEmpty} />
          <Tick label="sound and stills too" isOn={ofAllKinds} onChange={setOfAllKinds} />
        </HStack>
      </Stack>
    )
  return (
    <Stack gap="3">
      <HStack gap="4" align="end">
        {kind === 'copy' && <FieldChoice label="Copy" fields={fields} value={from} onChange={setFrom} />}
        {kind === 'take apart' && <FieldChoice label="Read" fields={fields} value={from} onChange={setFrom} />}
        {kind === 'take apart' && (
          <Line label="Pattern" value={value} onChange={setValue} placeholder="{scene}_T{take}" isMono />
        )}
        {kind !== 'take apart' && (
          <FieldChoice
            label={kind === 'copy' ? 'into' : 'Column'}
            fields={described}
            value={field}
            onChange={setField}
          />
        )}
        {kind === 'set' && <ValueField field={chosen} value={value} onChange={setValue} />}
        {kind === 'replace' && <Line label="Find" value={find} onChange={setFind} isMono={isPattern} />}
        {kind === 'replace' && <Line label="and put" value={value} onChange={setValue} isMono={isPattern} />}
        {kind === 'fill' && <Line label="Pattern" value={value} onChange={setValue} isMono />}
      </HStack>
      {kind === 'fill' && (
        <Text color="quiet" fontSize="0.9rem">
          Fields in {'{ }'}: {described.map((each) => each.id).join(', ')}, fileName, start, and {'{counter:3}'}. What
          stands in [ ] is left out when its field is empty: {'{scene}[-{take}]'}.
        </Text>
      )}
      {kind === 'take apart' && (
        <Text color="quiet" fontSize="0.9rem">
          Fields in {'{ }'}: scene, take,{' '}
          {described
            .filter(({ id }) => id !== 'scene' && id !== 'take')
            .map((each) => each.id)
            .join(', ')}
          ; {'{skip}'} for what is not kept. What stands in [ ] may be missing: {'{scene}[_T{take}]'}. Capitals do not
          matter.
        </Text>
      )}
      <HStack gap="6">
        {(kind === 'copy' || kind === 'fill' || kind === 'take apart') && (
          <Tick label="only where it is empty" isOn={onlyEmpty} onChange={setOnlyEmpty} />
        )}
        {kind === 'copy' && <Tick label="what is empty too" isOn={blanksToo} onChange={setBlanksToo} />}
        {kind === 'replace' && (
          <Tick label="regular expression, $1 for its first group" isOn={isPattern} onChange={setPattern} />
        )}
        {kind === 'replace' && <Tick label="tell capitals apart" isOn={isCaseSensitive} onChange={setCaseSensitive} />}
      </HStack>
    </Stack>
  )
}

const shownRows = 100

function Preview({ preview }: { preview: EditPreview }): ReactElement {
  const isOfSeveral = new Set(preview.changes.map(({ field }) => field)).size > 1
  return (
    <Stack gap="3">
      <Text color="quiet">
        {preview.total === 0 ? 'Nothing would change.' : `${count(preview.total, 'cell')} would change.`}
      </Text>
      {preview.warnings.map((warning) => (
        <Problem key={warning} message={warning} />
      ))}
      {preview.refusedTotal > 0 && (
        <Text>
          {count(preview.refusedTotal, 'clip')} stay as they are:{' '}
          {preview.refused
            .slice(0, 3)
            .map(({ name, reason }) => `${name} (${reason.replace(/\.$/, '')})`)
            .join('; ')}
          {preview.refusedTotal > 3 && ` and ${preview.refusedTotal - 3} more`}.
        </Text>
      )}
      {preview.changes.length > 0 && (
        <Box maxHeight="16rem" overflowY="auto">
          <Table.Root size="sm">
            <Table.Header>
              <Table.Row>
                <Table.ColumnHeader>Clip</Table.ColumnHeader>
                {isOfSeveral && <Table.ColumnHeader>Column</Table.ColumnHeader>}
                <Table.ColumnHeader>Now</Table.ColumnHeader>
                <Table.ColumnHeader>Then</Table.ColumnHeader>
              </Table.Row>
            </Table.Header>
            <Table.Body>
              {preview.changes.slice(0, shownRows).map((change) => (
                <Table.Row key={`${change.clipId} ${change.field}`}>
                  <Table.Cell>{change.name}</Table.Cell>
                  {isOfSeveral && <Table.Cell>{change.field}</Table.Cell>}
                  <Table.Cell color="quiet">{change.before || 'empty'}</Table.Cell>
                  <Table.Cell>{change.after || 'empty'}</Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
          {preview.total > shownRows && <Text color="quiet">and {preview.total - shownRows} more</Text>}
        </Box>
      )}
    </Stack>
  )
}
