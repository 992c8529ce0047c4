import { Box, Button, HStack, Input, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { FieldInfo, SavedSearch } from '@ennick/contract'
import { type Condition, type Operator, operatorsOf, type Term } from '@ennick/core'
import { type ReactElement, useEffect, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useSteadyRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'
import {
  addTo,
  childrenOf,
  emptyGroup,
  type Group,
  isGroup,
  removeAt,
  replaceAt,
  withoutBlanks,
} from './condition-tree.ts'

/** Builds a search of terms and groups with the number of clips that it finds beside it, and keeps it under a name. */
export function SearchEditor({
  fields,
  start,
  searches,
  isOpen,
  onClose,
  onUse,
}: {
  fields: readonly FieldInfo[]
  start: Condition | null
  searches: readonly SavedSearch[]
  isOpen: boolean
  onClose: () => void
  /** Called with the condition, and with the id of the saved search when it was saved. */
  onUse: (condition: Condition | null, savedId: string | null) => void
}): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const [root, setRoot] = useState<Group>(emptyGroup)
  const [name, setName] = useState('')
  useEffect(() => {
    if (isOpen) setRoot(start ? (isGroup(start) ? start : { all: [start] }) : emptyGroup())
  }, [isOpen, start])
  const asked = withoutBlanks(root)
  const found = useSteadyRead('outlineClips', isOpen ? { params, body: { condition: asked, every: 500 } } : null)
  const save = useChange('saveSearch', (saved) => {
    setName('')
    onUse(null, saved.id)
    onClose()
  })
  const remove = useChange('removeSearch')
  const error = found.error ?? save.error ?? remove.error
  return (
    <Dialog
      title="Search the clips"
      size="xl"
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <HStack flex="1" gap="3">
          <Text flex="1" fontWeight="semibold" aria-live="polite">
            {found.data && !found.error ? `Finds ${count(found.data.total, 'clip')}` : ''}
          </Text>
          <Input
            size="sm"
            width="13rem"
            placeholder="Name of the search"
            aria-label="Name of the search"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <Button
            size="sm"
            variant="outline"
            disabled={name.trim() === '' || found.error !== null}
            loading={save.isPending}
            onClick={() => save.mutate({ params, body: { name, condition: asked } })}
          >
            Save it
          </Button>
          <Button
            size="sm"
            disabled={found.error !== null}
            onClick={() => {
              onUse(asked, null)
              onClose()
            }}
          >
            Show {found.data && !found.error ? count(found.data.total, 'clip') : 'them'}
          </Button>
        </HStack>
      }
    >
      <Stack gap="4">
        <GroupEditor node={root} path={[]} root={root} fields={fields} onRoot={setRoot} />
        {error && <Problem message={error.message} />}
        {searches.length > 0 && (
          <Box borderTopWidth="1px" borderColor="rule" pt="3">
            {searches.map((search) => (
              <HStack key={search.id} py="0.5">
                <Text flex="1">
                  {search.name}{' '}
                  <Box as="span" color="quiet">
                    {count(search.count, 'clip')}
                  </Box>
                </Text>
                <Button
                  size="2xs"
                  variant="outline"
                  onClick={() => setRoot(isGroup(search.condition) ? search.condition : { all: [search.condition] })}
                >
                  Change {search.name}
                </Button>
                <Button size="2xs" variant="ghost" onClick={() => remove.mutate({ params: { searchId: search.id } })}>
                  Remove {search.name}
                </Button>
              </HStack>
            ))}
          </Box>
        )}
      </Stack>
    </Dialog>
  )
}

interface NodeProps {
  readonly path: readonly number[]
  readonly root: Group
  readonly fields: readonly FieldInfo[]
  readonly onRoot: (root: Group) => void
}

function GroupEditor({ node, path, root, fields, onRoot }: NodeProps & { node: Group }): ReactElement {
  const isAny = 'any' in node
  const children = childrenOf(node)
  return (
    <Box borderLeftWidth={path.length ? '2px' : '0'} borderColor="tide.emphasized" pl={path.length ? '3' : '0'}>
      <HStack mb="2" gap="2">
        <NativeSelect.Root size="sm" width="13rem">
          <NativeSelect.Field
            aria-label="How the terms count"
            value={isAny ? 'any' : 'all'}
            onChange={(event) =>
              onRoot(replaceAt(root, path, event.target.value === 'any' ? { any: children } : { all: children }))
            }
          >
            <option value="all">all of these must hold</option>
            <option value="any">any of these must hold</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Button
          size="xs"
          variant="outline"
          onClick={() => onRoot(addTo(root, path, { field: 'name', operator: 'contains', value: '' }))}
        >
          Add a term
        </Button>
        {path.length < 4 && (
          <Button
            size="xs"
            variant="ghost"
            onClick={() => onRoot(addTo(root, path, isAny ? { all: [] } : { any: [] }))}
          >
            Add a group
          </Button>
        )}
        {path.length > 0 && (
          <Button size="xs" variant="ghost" onClick={() => onRoot(removeAt(root, path))}>
            Remove the group
          </Button>
        )}
      </HStack>
      <Stack gap="2">
        {children.map((child, index) => {
          const at = [...path, index]
          return isGroup(child) ? (
            <GroupEditor key={at.join('.')} node={child} path={at} root={root} fields={fields} onRoot={onRoot} />
          ) : (
            <TermEditor key={at.join('.')} term={child} path={at} root={root} fields={fields} onRoot={onRoot} />
          )
        })}
      </Stack>
    </Box>
  )
}

function TermEditor({ term, path, root, fields, onRoot }: NodeProps & { term: Term }): ReactElement {
  const field = fields.find((candidate) => candidate.id === term.field)
  const operators = field ? operatorsOf[field.kind] : []
  const change = (next: Partial<Term>): void => onRoot(replaceAt(root, path, { ...term, ...next }))
  const changeField = (id: string): void => {
    const kind = fields.find((candidate) => candidate.id === id)?.kind ?? 'text'
    change({
      field: id,
      operator: operatorsOf[kind].includes(term.operator) ? term.operator : (operatorsOf[kind][0] as Operator),
    })
  }
  const needsValue = term.operator !== 'empty' && term.operator !== 'filled'
  return (
    <HStack gap="2">
      <NativeSelect.Root size="sm" width="12rem" flexShrink="0">
        <NativeSelect.Field aria-label="Field" value={term.field} onChange={(event) => changeField(event.target.value)}>
          {fields.map((each) => (
            <option key={each.id} value={each.id}>
              {each.title}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <NativeSelect.Root size="sm" width="8rem" flexShrink="0">
        <NativeSelect.Field
          aria-label="Question"
          value={term.operator}
          onChange={(event) => change({ operator: event.target.value as Operator })}
        >
          {operators.map((operator) => (
            <option key={operator}>{operator}</option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      {needsValue &&
        (field?.kind === 'choice' ? (
          <NativeSelect.Root size="sm">
            <NativeSelect.Field
              aria-label="Value"
              value={term.value ?? ''}
              onChange={(event) => change({ value: event.target.value })}
            >
              <option value="">choose…</option>
              {(field.choices ?? []).map((choice) => (
                <option key={choice}>{choice}</option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        ) : (
          <Input
            size="sm"
            aria-label="Value"
            value={term.value ?? ''}
            onChange={(event) => change({ value: event.target.value })}
          />
        ))}
      {term.operator === 'between' && (
        <Input
          size="sm"
          aria-label="Up to"
          value={term.upTo ?? ''}
          onChange={(event) => change({ upTo: event.target.value })}
        />
      )}
      {!needsValue && <Box flex="1" />}
      <Button size="xs" variant="ghost" onClick={() => onRoot(removeAt(root, path))}>
        Remove
      </Button>
    </HStack>
  )
}
