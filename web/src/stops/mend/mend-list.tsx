import { Box, Button, Flex, Text } from '@chakra-ui/react'
import type { Mend } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { when } from '../../parts/words.ts'
import { MendProof } from './mend-proof.tsx'
import type { ShownMends } from './use-mends.ts'

/** What was mended, newest first; each can be taken back. */
export function MendList({ mends, shown, hasEarlier, showEarlier }: ShownMends): ReactElement {
  const undo = useChange('undoMend')
  if (mends.length === 0)
    return <Text color="quiet">Nothing was mended yet. Every mend is listed here, and can be taken back.</Text>
  return (
    <Box>
      {undo.error && <Problem message={undo.error.message} />}
      {shown.map((mend) => (
        <MendLine
          key={mend.id}
          mend={mend}
          isUndoing={undo.isPending && undo.variables?.params?.mendId === mend.id}
          onUndo={() => undo.mutate({ params: { mendId: mend.id } })}
        />
      ))}
      {(mends.length > shown.length || hasEarlier) && (
        <Button mt="3" size="sm" variant="outline" onClick={showEarlier}>
          Show earlier ones
        </Button>
      )}
    </Box>
  )
}

function MendLine(props: { mend: Mend; isUndoing: boolean; onUndo: () => void }): ReactElement {
  const { mend } = props
  const [isProven, setProven] = useState(false)
  return (
    <Flex
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
        {mend.changeCount > 4 && <Text color="quiet">and {formatNumber(mend.changeCount - 4)} more</Text>}
        {isProven && <MendProof mendId={mend.id} />}
      </Box>
      {mend.state === 'done' && (
        <Flex gap="2">
          <Button size="xs" variant="ghost" aria-expanded={isProven} onClick={() => setProven(!isProven)}>
            {isProven ? 'Close' : 'What came of it'}
          </Button>
          <Button size="xs" variant="outline" loading={props.isUndoing} onClick={props.onUndo}>
            Take back
          </Button>
        </Flex>
      )}
    </Flex>
  )
}
