import { NativeSelect } from '@chakra-ui/react'
import type { ReactElement } from 'react'

/** One of a few words, or all of them. */
export function Choice({
  label,
  value,
  onChange,
  all,
  options,
  words = {},
}: {
  label: string
  value: string
  onChange: (value: string) => void
  all: string
  options: readonly string[]
  words?: Readonly<Record<string, string>>
}): ReactElement {
  return (
    <NativeSelect.Root size="sm" width="10rem">
      <NativeSelect.Field aria-label={label} value={value} onChange={(event) => onChange(event.target.value)} bg="page">
        <option value="">{all}</option>
        {options.map((option) => (
          <option key={option} value={option}>
            {words[option] ?? option}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}
