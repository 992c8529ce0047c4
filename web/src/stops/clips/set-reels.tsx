import { Box, Button, Field, HStack, Input, NativeSelect, Stack, Table, Text } from '@chakra-ui/react'
import type { Clip, ReelRuleInput } from '@ennick/contract'
import { type ReactElement, useEffect, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'

/** Sets the reel of many clips from their file names; the preview shows every change before anything is written. */
export function SetReels({ clips, isOpen, onClose }: { clips: readonly Clip[]; isOpen: boolean; onClose: () => void }): ReactElement {
  const production = useProduction()
  const [kind, setKind] = useState<ReelRuleInput['kind']>('first-characters')
  const [characters, setCharacters] = useState(4)
  const [pattern, setPattern] = useState('^([A-Z]\\d{3})')
  const rule: ReelRuleInput = kind === 'stem' ? { kind } : kind === 'pattern' ? { kind, pattern } : { kind, count: characters }
  const preview = useChange('setReels')
  const apply = useChange('setReels', onClose)
  const ruleText = JSON.stringify(rule)
  const ids = clips.map((clip) => clip.id).join(' ')
  const { mutate } = preview
  useEffect(() => {
    if (isOpen && ids)
      mutate({ params: { productionId: production.id }, body: { clipIds: ids.split(' '), rule: JSON.parse(ruleText), apply: false } })
  }, [isOpen, ids, ruleText, production.id, mutate])
  const changes = preview.data?.changes ?? []
  const error = apply.error ?? preview.error
  return (
    <Dialog
      title={`Set the reel of ${count(clips.length, 'clip')} from the file name`}
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={changes.length === 0 || preview.isPending}
          loading={apply.isPending}
          onClick={() =>
            apply.mutate({ params: { productionId: production.id }, body: { clipIds: clips.map((clip) => clip.id), rule, apply: true } })
          }
        >
          Set {count(changes.length, 'reel')}
        </Button>
      }
    >
      <Stack gap="4">
        <HStack gap="4" align="start">
          <Field.Root>
            <Field.Label>The reel is</Field.Label>
            <NativeSelect.Root>
              <NativeSelect.Field value={kind} onChange={(event) => setKind(event.target.value as ReelRuleInput['kind'])}>
                <option value="first-characters">the first characters of the name</option>
                <option value="stem">the whole name without its extension</option>
                <option value="pattern">the part of the name that a pattern finds</option>
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Field.Root>
          {kind === 'first-characters' && (
            <Field.Root width="8rem">
              <Field.Label>How many</Field.Label>
              <Input
                type="number"
                min={1}
                max={255}
                value={characters}
                onChange={(event) => setCharacters(Math.max(1, Number(event.target.value) || 1))}
              />
            </Field.Root>
          )}
          {kind === 'pattern' && (
            <Field.Root>
              <Field.Label>Regular expression, the reel in ( )</Field.Label>
              <Input fontFamily="mono" value={pattern} onChange={(event) => setPattern(event.target.value)} />
            </Field.Root>
          )}
        </HStack>
        {error && <Problem message={error.message} />}
        {!error && preview.data && (
          <Text color="quiet">
            {changes.length === 0 ? 'Nothing would change.' : `${count(changes.length, 'reel')} would change.`}
            {preview.data.unfit.length > 0 &&
              ` The rule does not fit ${preview.data.unfit.slice(0, 3).join(', ')}${preview.data.unfit.length > 3 ? ` and ${preview.data.unfit.length - 3} more` : ''}.`}
          </Text>
        )}
        {!error && changes.length > 0 && (
          <Box maxHeight="16rem" overflowY="auto">
            <Table.Root size="sm">
              <Table.Header>
                <Table.Row>
                  <Table.ColumnHeader>Clip</Table.ColumnHeader>
                  <Table.ColumnHeader>Reel now</Table.ColumnHeader>
                  <Table.ColumnHeader>Reel then</Table.ColumnHeader>
                </Table.Row>
              </Table.Header>
              <Table.Body>
                {changes.slice(0, 200).map((change) => (
                  <Table.Row key={change.clipId}>
                    <Table.Cell>{change.name}</Table.Cell>
                    <Table.Cell fontFamily="mono">{change.before ?? 'none'}</Table.Cell>
                    <Table.Cell fontFamily="mono">{change.after}</Table.Cell>
                  </Table.Row>
                ))}
              </Table.Body>
            </Table.Root>
            {changes.length > 200 && <Text color="quiet">and {changes.length - 200} more</Text>}
          </Box>
        )}
      </Stack>
    </Dialog>
  )
}
