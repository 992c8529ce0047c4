import { Box, Button, Field, NativeSelect, Text } from '@chakra-ui/react'
import type { Volume } from '@ennick/contract'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { bytes } from '../../parts/words.ts'

/** The volume that takes what comes, with its free space. */
export function DestinationChoice({
  destinations,
  value,
  onChange,
}: {
  destinations: readonly Volume[]
  value: string
  onChange: (id: string) => void
}): ReactElement {
  return (
    <Field.Root required>
      <Field.Label>To</Field.Label>
      <NativeSelect.Root>
        <NativeSelect.Field value={value} onChange={(event) => onChange(event.target.value)}>
          <option value="">choose a volume…</option>
          {destinations.map((each) => (
            <option key={each.id} value={each.id}>
              {each.label}, {each.freeBytes === null ? 'space not known' : `${bytes(each.freeBytes)} free`}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Field.Root>
  )
}

/** Where there is no volume yet that takes anything: the way to one. */
export function NoDestination({ what, onAdd }: { what: 'copy' | 'fetch'; onAdd: () => void }): ReactElement {
  return (
    <Box>
      <Text mb="2">
        {useProduction().name} has no drive, share or folder to {what} to yet.
      </Text>
      <Button size="sm" variant="outline" onClick={onAdd}>
        Add a volume to {what} to
      </Button>
    </Box>
  )
}
