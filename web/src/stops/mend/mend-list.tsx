import { Box, Button, Flex, Text } from '@chakra-ui/react'
import type { Mend } from '@ennick/contract'
import type { ReactElement } from 'react'
import { useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { when } from '../../parts/words.ts'

/** What was mended, newest first; each can be taken back. */
export function MendList({ mends }: { mends: readonly Mend[] }): ReactElement {
  const undo = useChange('undoMend')
  if (mends.length === 0)
    return <Text color="quiet">Nothing was mended yet. Every mend is listed here, and can be taken back.</Text>
  return (
    <Box>
      {undo.error && <Problem message={undo.error.message} />}
      {mends.map((mend) => (
        <Flex
          key={mend.id}
          gap="5"
          py="2"
          borderBottomWidth="1px"
          borderColor="rule"
          align="start"
          data-testid="mend"
          data-state={mend.state}
        >
          <Box width="9.5rem" flexShrink="0">
            <StateWord word={mend.state} />
            <Text color="quiet" fontSize="0.85rem">
              {when(mend.undoneAt ?? mend.createdAt)}
            </Text>
          </Box>
          <Box flex="1" minWidth="0">
            <Text>{mend.title}</Text>
            {mend.changes.slice(0, 4).map((change) => (
              <Text key={change.label} color="quiet" fontSize="0.85rem" overflowWrap="anywhere">
                {change.label}
              </Text>
            ))}
            {mend.changes.length > 4 && <Text color="quiet">and {mend.changes.length - 4} more</Text>}
          </Box>
          {mend.state === 'done' && (
            <Button
              size="xs"
              variant="outline"
              loading={undo.isPending && undo.variables?.params?.mendId === mend.id}
              onClick={() => undo.mutate({ params: { mendId: mend.id } })}
            >
              Take back
            </Button>
          )}
        </Flex>
      ))}
    </Box>
  )
}
