import { Button, HStack, Text } from '@chakra-ui/react'
import type { ReactElement } from 'react'

/** A row of buttons of which one is pressed. */
export function Choice<T extends string | number>({
  label,
  isLabelShown = false,
  of,
  value,
  word,
  onChange,
}: {
  label: string
  isLabelShown?: boolean
  of: readonly T[]
  value: T
  word: (each: T) => string
  onChange: (value: T) => void
}): ReactElement {
  return (
    <HStack gap="1" role="group" aria-label={label}>
      {isLabelShown && <Text fontSize="0.85rem">{label}</Text>}
      {of.map((each) => (
        <Button
          key={each}
          size="xs"
          variant={value === each ? 'subtle' : 'ghost'}
          aria-pressed={value === each}
          onClick={() => onChange(each)}
        >
          {word(each)}
        </Button>
      ))}
    </HStack>
  )
}

/** Twice, four times: how many. */
export const times = (count: number): string => `${count} ×`
