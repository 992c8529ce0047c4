import { Box, Button, chakra, Flex, Text } from '@chakra-ui/react'
import type { Handoff } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { addressOf } from '../../data/api.ts'
import { bytes, count, when } from '../../parts/words.ts'
import { SinceHandoffLines } from './since-then.tsx'

const fewShown = 3

/** What was handed off: the files of each, with their checksums. */
export function HandoffList({ handoffs }: { handoffs: readonly Handoff[] }): ReactElement {
  const [isAll, setAll] = useState(false)
  if (handoffs.length === 0) return <Text color="quiet">This cut was not handed off yet.</Text>
  return (
    <Box>
      {handoffs.slice(0, isAll ? handoffs.length : fewShown).map((handoff, index) => (
        <Box key={handoff.id} py="3" borderBottomWidth="1px" borderColor="rule" data-testid="handoff">
          <Text fontWeight="semibold">{when(handoff.createdAt)}</Text>
          {index === 0 ? (
            <SinceHandoffLines handoffId={handoff.id} cutId={handoff.cutId} />
          ) : (
            <Text color="quiet">A later handoff has taken its place.</Text>
          )}
          <Text color="quiet" fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
            {handoff.folder}
          </Text>
          {handoff.files.map((file) => (
            <Flex key={file.name} gap="4" py="0.5" wrap="wrap">
              <chakra.a
                href={addressOf('handoffFile', { handoffId: handoff.id, fileName: file.name })}
                target={file.name.endsWith('.html') ? '_blank' : undefined}
                rel="noreferrer"
                color="tide.fg"
                textDecoration="underline"
                minWidth="22rem"
              >
                {file.name}
              </chakra.a>
              <Text width="5rem" textAlign="right">
                {bytes(file.bytes)}
              </Text>
              <Text fontFamily="mono" fontSize="0.85rem" color="quiet">
                xxHash64 {file.xxh64}
              </Text>
            </Flex>
          ))}
          {handoff.leftOut.map((format) => (
            <Text key={format.name}>
              {format.name} was left out: {format.reason}
            </Text>
          ))}
          {handoff.decisions.length > 0 && (
            <Text color="quiet">{count(handoff.decisions.length, 'finding')} left open by decision</Text>
          )}
        </Box>
      ))}
      {handoffs.length > fewShown && (
        <Button size="xs" variant="ghost" mt="1" onClick={() => setAll(!isAll)}>
          {isAll ? `Show the newest ${fewShown} alone` : `Show ${formatNumber(handoffs.length - fewShown)} earlier`}
        </Button>
      )}
    </Box>
  )
}
