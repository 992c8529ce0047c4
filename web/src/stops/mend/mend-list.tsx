import { Box, Button, Flex, Text } from '@chakra-ui/react'
import type { Mend } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { when } from '../../parts/words.ts'
import { MendProof } from './mend-proof.tsx'

/** So many mends are asked for at first. */
export const manyMends = 500
const atOnce = 60

/**
 * What was mended, newest first; each can be taken back.
 * @param asked so many were asked for: where all of them came there may be earlier ones
 */
export function MendList({
  mends,
  asked,
  onMore,
}: {
  mends: readonly Mend[]
  asked: number
  onMore: () => void
}): ReactElement {
  const undo = useChange('undoMend')
  const [most, setMost] = useState(atOnce)
  const hasEarlier = mends.length >= asked
  const more = (): void => {
    setMost(most + 2 * atOnce)
    if (hasEarlier && most + 2 * atOnce > mends.length) onMore()
  }
  if (mends.length === 0)
    return <Text color="quiet">Nothing was mended yet. Every mend is listed here, and can be taken back.</Text>
  return (
    <Box>
      {undo.error && <Problem message={undo.error.message} />}
      {mends.slice(0, most).map((mend) => (
        <MendLine
          key={mend.id}
          mend={mend}
          isUndoing={undo.isPending && undo.variables?.params?.mendId === mend.id}
          onUndo={() => undo.mutate({ params: { mendId: mend.id } })}
        />
      ))}
      {(mends.length > most || hasEarlier) && (
        <Button mt="3" size="sm" variant="outline" onClick={more}>
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
