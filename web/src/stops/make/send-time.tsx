import { HStack, Input, Text } from '@chakra-ui/react'
import type { ReactElement } from 'react'
import { useKept } from '../../data/remembered.ts'
import { span } from '../../parts/words.ts'

/** How long what is made takes over a line to somewhere else; nobody knows what the line carries but who has it. */
export function SendTime({ bytes }: { bytes: number }): ReactElement {
  const [speed, setSpeed] = useKept('ennick.line', '')
  const bitsPerSecond = Number(speed) * 1_000_000
  return (
    <HStack gap="2" color="quiet" my="1">
      <Text>Sent at</Text>
      <Input
        size="xs"
        width="4.5rem"
        bg="page"
        inputMode="decimal"
        aria-label="What the line carries, in Mbit/s"
        value={speed}
        onChange={(event) => setSpeed(event.target.value.trim())}
      />
      <Text data-testid="send-time">
        Mbit/s
        {bitsPerSecond > 0 ? `, it takes ${span((bytes * 8) / bitsPerSecond)}` : ' up: say what your line carries'}
      </Text>
    </HStack>
  )
}
