import { Button, Flex, Text } from '@chakra-ui/react'
import type { ReactElement } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'

/** The demo's stand-in for card readers and docks: what is taken out is really not there. */
export function CardBay(): ReactElement | null {
  const bay = useRead('listBay', {})
  const move = useChange('moveBaySlot')
  if (!bay.data?.length) return null
  return (
    <Section title="Card bay (a stand-in, in the demo)">
      {bay.data.map((slot) => (
        <Flex key={slot.name} align="center" gap="4" py="1" data-testid={`slot-${slot.name}`}>
          <Text width="6rem" fontFamily="mono">
            {slot.name}
          </Text>
          <Flex width="6rem">
            <StateWord word={slot.isIn ? 'here' : 'away'} />
          </Flex>
          <Button
            size="xs"
            variant="outline"
            disabled={move.isPending}
            onClick={() => move.mutate({ params: { slotName: slot.name }, body: { isIn: !slot.isIn } })}
          >
            {slot.isIn ? `Take out ${slot.name}` : `Put in ${slot.name}`}
          </Button>
        </Flex>
      ))}
      {move.error && <Problem message={move.error.message} />}
    </Section>
  )
}
