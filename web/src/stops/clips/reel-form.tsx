import { Field, HStack, NativeSelect } from '@chakra-ui/react'
import type { ReelSource } from '@ennick/contract'
import type { ReactElement } from 'react'
import { Line, NumberLine } from './describe-fields.tsx'

/** Where a reel is taken from. */
export function ReelForm({
  source,
  onSource,
}: {
  source: ReelSource
  onSource: (source: ReelSource) => void
}): ReactElement {
  const change = (kind: ReelSource['kind']): void =>
    onSource(
      kind === 'stem'
        ? { kind }
        : kind === 'folder'
          ? { kind, level: 1 }
          : kind === 'pattern'
            ? { kind, pattern: '^([A-Z]\\d{3})' }
            : { kind, count: 4 },
    )
  return (
    <HStack gap="4" align="end">
      <Field.Root>
        <Field.Label>The reel is</Field.Label>
        <NativeSelect.Root>
          <NativeSelect.Field
            value={source.kind}
            onChange={(event) => change(event.target.value as ReelSource['kind'])}
          >
            <option value="first-characters">the first characters of the name</option>
            <option value="stem">the whole name without its extension</option>
            <option value="folder">a folder above the file</option>
            <option value="pattern">the part of the name that a pattern finds</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Field.Root>
      {source.kind === 'first-characters' && (
        <NumberLine
          label="How many"
          value={source.count}
          max={255}
          onChange={(count) => onSource({ ...source, count })}
        />
      )}
      {source.kind === 'folder' && (
        <NumberLine
          label="How many folders up"
          value={source.level}
          max={32}
          onChange={(level) => onSource({ ...source, level })}
        />
      )}
      {source.kind === 'pattern' && (
        <Line
          label="Regular expression, the reel in ( )"
          value={source.pattern}
          onChange={(pattern) => onSource({ ...source, pattern })}
          isMono
        />
      )}
    </HStack>
  )
}
