import { Box, Button, Grid, HStack, Input, Text } from '@chakra-ui/react'
import type { CutDetail } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'

type Mapping = { from: string; to: string }

/** What other systems' paths mean here. One line serves every event below that root, in every cut of the production. */
export function PathMap({ suggestions }: { suggestions: CutDetail['suggestedMappings'] }): ReactElement {
  const production = useProduction()
  const [from, setFrom] = useState('')
  const [to, setTo] = useState('')
  const save = useChange('setPathMappings')
  const mappings = production.pathMappings
  const set = (next: Mapping[]): void =>
    save.mutate({ params: { productionId: production.id }, body: { mappings: next } })
  const fresh = suggestions.filter(
    (suggestion) => !mappings.some((mapping) => mapping.from === suggestion.from && mapping.to === suggestion.to),
  )
  return (
    <Section title="Path map">
      {mappings.length === 0 && fresh.length === 0 && (
        <Text color="quiet">Every path that the list names is understood, or it names none.</Text>
      )}
      {mappings.map((mapping) => (
        <MappingLine key={`${mapping.from}>${mapping.to}`} mapping={mapping}>
          <Button size="xs" variant="ghost" onClick={() => set(mappings.filter((other) => other !== mapping))}>
            Remove
          </Button>
        </MappingLine>
      ))}
      {fresh.map((suggestion) => (
        <MappingLine
          key={`${suggestion.from}>${suggestion.to}`}
          mapping={suggestion}
          note={`brings ${count(suggestion.matches, 'source')} to a known file`}
        >
          <Button
            size="xs"
            variant="outline"
            loading={save.isPending}
            onClick={() => set([...mappings, { from: suggestion.from, to: suggestion.to }])}
          >
            Add to the map
          </Button>
        </MappingLine>
      ))}
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
            set([...mappings, { from: from.trim(), to: to.trim() }])
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
