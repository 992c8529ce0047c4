import { Box, Button, Grid, HStack, Input, Text } from '@chakra-ui/react'
import type { CutDetail, CutEventRow } from '@ennick/contract'
import { formatNumber, mapPath } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'

type Mapping = { from: string; to: string }

/** Suggestions that are not in the map yet, and how to put one in. */
function useMap(suggestions: CutDetail['suggestedMappings']) {
  const production = useProduction()
  const save = useChange('setPathMappings')
  const mappings = production.pathMappings
  const set = (next: Mapping[]): void =>
    save.mutate({ params: { productionId: production.id }, body: { mappings: next } })
  const fresh = suggestions.filter(
    (suggestion) => !mappings.some((mapping) => mapping.from === suggestion.from && mapping.to === suggestion.to),
  )
  return { mappings, fresh, set, save, add: (mapping: Mapping) => set([...mappings, mapping]) }
}

/** Paths of another system that one line of the map would bring to known files; nothing where there are none. */
export function NewMappings({ suggestions }: { suggestions: CutDetail['suggestedMappings'] }): ReactElement | null {
  const { fresh, save, add } = useMap(suggestions)
  if (fresh.length === 0) return null
  return (
    <Section title="Paths of another system">
      <Suggestions fresh={fresh} isBusy={save.isPending} onAdd={add} />
      {save.error && <Problem message={save.error.message} />}
    </Section>
  )
}

function Suggestions({
  fresh,
  isBusy,
  onAdd,
}: {
  fresh: CutDetail['suggestedMappings']
  isBusy: boolean
  onAdd: (mapping: Mapping) => void
}): ReactElement {
  return (
    <>
      {fresh.map(({ from, to, matches }) => (
        <MappingLine
          key={`${from}>${to}`}
          mapping={{ from, to }}
          note={`brings ${count(matches, 'source')} to a known file`}
        >
          <Button size="xs" variant="outline" loading={isBusy} onClick={() => onAdd({ from, to })}>
            Add to the map
          </Button>
        </MappingLine>
      ))}
    </>
  )
}

/** What other systems' paths mean here. One line serves every event below that root, in every cut of the production. */
export function PathMap({
  suggestions,
  events,
}: {
  suggestions: CutDetail['suggestedMappings']
  events: readonly CutEventRow[]
}): ReactElement {
  const { mappings, fresh, set, save, add } = useMap(suggestions)
  const [from, setFrom] = useState('')
  const [to, setTo] = useState('')
  return (
    <Section title="Path map">
      {mappings.length === 0 && fresh.length === 0 && (
        <Text color="quiet">Every path that the list names is understood, or it names none.</Text>
      )}
      {mappings.map((mapping) => (
        <MappingLine key={`${mapping.from}>${mapping.to}`} mapping={mapping} note={bringsOf(mapping, events)}>
          <Button size="xs" variant="ghost" onClick={() => set(mappings.filter((other) => other !== mapping))}>
            Remove
          </Button>
        </MappingLine>
      ))}
      <Suggestions fresh={fresh} isBusy={save.isPending} onAdd={add} />
      <HStack mt="2" gap="2">
        <Input
          size="sm"
          bg="page"
          placeholder="Their folder, for example P:/LowWater"
          aria-label="Their folder"
          value={from}
          onChange={(event) => setFrom(event.target.value)}
          fontFamily="mono"
        />
        <Input
          size="sm"
          bg="page"
          placeholder="The same folder here"
          aria-label="The same folder here"
          value={to}
          onChange={(event) => setTo(event.target.value)}
          fontFamily="mono"
        />
        <Button
          size="sm"
          variant="outline"
          disabled={!from.trim() || !to.trim()}
          onClick={() => {
            add({ from: from.trim(), to: to.trim() })
            setFrom('')
            setTo('')
          }}
        >
          Add
        </Button>
      </HStack>
      {save.error && <Problem message={save.error.message} />}
    </Section>
  )
}

/** What a line of the map does for this cut. */
function bringsOf(mapping: Mapping, events: readonly CutEventRow[]): string {
  const here = events.filter(({ path }) => path !== null && mapPath(path, [mapping]) !== undefined)
  if (here.length === 0) return 'no path of this cut begins so'
  const known = here.filter(({ by }) => by === 'path' || by === 'path of its proxy').length
  return `${count(here.length, 'event')} of this cut, ${formatNumber(known)} of them on a known file`
}

function MappingLine({
  mapping,
  note,
  children,
}: {
  mapping: Mapping
  note?: string
  children: ReactElement
}): ReactElement {
  return (
    <Grid templateColumns="minmax(0,1fr) auto" gap="3" alignItems="center" py="1">
      <Box fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
        {mapping.from} → {mapping.to}
        {note && (
          <Text as="span" fontFamily="body" color="quiet" ml="3">
            {note}
          </Text>
        )}
      </Box>
      {children}
    </Grid>
  )
}
