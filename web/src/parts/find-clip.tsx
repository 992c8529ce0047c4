import { HStack, Input, NativeSelect } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../app/production.tsx'
import { useSteadyRead } from '../data/queries.ts'

/** A clip is found by words and chosen from what they find; before any are typed, from what is offered. */
export function FindClip({
  label,
  fieldLabel,
  empty,
  offered = [],
  chosen,
  onChoose,
}: {
  /** What the list of clips is called. */
  label: string
  /** What the field for words is called. */
  fieldLabel: string
  /** What stands in the list while nothing is chosen. */
  empty: string
  offered?: readonly { readonly clipId: string; readonly path: string }[]
  chosen: string
  onChoose: (clipId: string) => void
}): ReactElement {
  const production = useProduction()
  const [words, setWords] = useState('')
  const isAsking = words.trim().length > 1
  const found = useSteadyRead(
    'searchClips',
    isAsking ? { params: { productionId: production.id }, body: { words, limit: 20 } } : null,
  )
  const clips = isAsking ? (found.data?.rows ?? []).map(({ id, path }) => ({ clipId: id, path })) : offered
  return (
    <HStack>
      <Input
        size="xs"
        width="11rem"
        aria-label={fieldLabel}
        placeholder="another clip’s name"
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      <NativeSelect.Root size="xs" width="26rem" maxWidth="100%">
        <NativeSelect.Field aria-label={label} value={chosen} onChange={(event) => onChoose(event.target.value)}>
          <option value="">{empty}</option>
          {clips.map(({ clipId, path }) => (
            <option key={clipId} value={clipId}>
              {path}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </HStack>
  )
}
