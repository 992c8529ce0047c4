import { Box, Button, HStack, Text } from '@chakra-ui/react'
import type { Handoff, SinceHandoff } from '@ennick/contract'
import { type ReactElement, type ReactNode, useState } from 'react'
import { useRead } from '../../data/queries.ts'
import { Go } from '../../parts/go.tsx'
import { Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

/** So many changed events are shown before all are asked for. */
const shownAtOnce = 5

/** Whether what was handed off is still what the cut says: who works by it wants to know. */
export function SinceThen({ handoff }: { handoff: Handoff }): ReactElement | null {
  const since = useRead('readSinceHandoff', { params: { handoffId: handoff.id } })
  if (since.error) return <Problem message={since.error.message} />
  if (!since.data) return <Text color="quiet">Looking whether the cut still says this …</Text>
  const { changes, blocking, laterVersion } = since.data
  return (
    <Box py="1" data-testid="since handoff">
      {changes === null && (
        <Text color="quiet">What this list said was not kept: whether the cut says the same now is not known.</Text>
      )}
      {changes?.length === 0 && (
        <HStack gap="3">
          <StateWord word="as handed off" />
          <Text color="quiet">The cut says the same now.</Text>
        </HStack>
      )}
      {changes !== null && changes.length > 0 && <Changes changes={changes} />}
      {blocking > 0 && (
        <Told word="blocks handoff">
          <Go to={`mend/${handoff.cutId}?weight=blocks+handoff`}>{count(blocking, 'finding')}</Go> would block this
          handoff now.
        </Told>
      )}
      {laterVersion && (
        <Told word="needs a look">
          <Go to={`handoff/${laterVersion.cutId}`}>Version {laterVersion.version}</Go> of this cut was read since.
        </Told>
      )}
    </Box>
  )
}

function Changes({ changes }: { changes: NonNullable<SinceHandoff['changes']> }): ReactElement {
  const [isAll, setIsAll] = useState(false)
  const shown = isAll ? changes : changes.slice(0, shownAtOnce)
  return (
    <>
      <Told word="changed since">
        The cut says another thing now of {count(changes.length, 'event')}: hand off again, and say so to whoever works
        by this one.
      </Told>
      <Box as="ul" listStyleType="none" ps="6">
        {shown.map(({ number, track, words }) => (
          <HStack as="li" key={`${track} ${number} ${words}`} gap="3" align="baseline">
            <Text fontFamily="mono" fontSize="0.85rem" width="6rem" flexShrink="0">
              {number} {track}
            </Text>
            <Text overflowWrap="anywhere">{words}</Text>
          </HStack>
        ))}
      </Box>
      {!isAll && changes.length > shown.length && (
        <Button size="xs" variant="outline" mt="1" onClick={() => setIsAll(true)}>
          Show all {changes.length}
        </Button>
      )}
    </>
  )
}

const Told = ({ word, children }: { word: string; children: ReactNode }): ReactElement => (
  <HStack gap="3" align="baseline">
    <StateWord word={word} />
    <Text flex="1" minWidth="0">
      {children}
    </Text>
  </HStack>
)
