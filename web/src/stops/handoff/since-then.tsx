import { Box, Button, HStack, Text } from '@chakra-ui/react'
import type { SinceHandoff } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, type ReactNode, useState } from 'react'
import { useRead } from '../../data/queries.ts'
import { Go } from '../../parts/go.tsx'
import { Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

/** So many changed events are shown before all are asked for. */
const shownAtOnce = 5

type How = 'handed off' | 'pulled' | 'checked'

/** Whether what was handed off is still what the cut says: who works by it wants to know. */
export function SinceHandoffLines({ handoffId, cutId }: { handoffId: string; cutId: string }): ReactElement {
  const since = useRead('readSinceHandoff', { params: { handoffId } })
  return <SinceThen since={since.data} error={since.error?.message} cutId={cutId} how="handed off" />
}

/**
 * The same of a pull.
 * @param again shown where there is something to pull anew
 */
export function SincePullLines(of: { jobId: string; cutId: string; again: ReactNode }): ReactElement {
  const { jobId, cutId, again } = of
  const since = useRead('readSinceJob', { params: { jobId } })
  return <SinceThen since={since.data} error={since.error?.message} cutId={cutId} how="pulled" again={again} />
}

/** The same of a finished file that was held against it. */
export function SinceCheckLines({ jobId, cutId }: { jobId: string; cutId: string }): ReactElement {
  const since = useRead('readSinceJob', { params: { jobId } })
  return <SinceThen since={since.data} error={since.error?.message} cutId={cutId} how="checked" />
}

/** What is to be done about a cut that says another thing now. */
const whatToDo: Readonly<Record<How, string>> = {
  'handed off': 'hand off again, and say so to whoever works by this',
  pulled: 'pull again, and say so to whoever works by this',
  checked: 'have it finished by what it says now, and check that',
}

function SinceThen({
  since,
  error,
  cutId,
  how,
  again,
}: {
  since: SinceHandoff | undefined
  error: string | undefined
  cutId: string
  how: How
  again?: ReactNode
}): ReactElement {
  if (error) return <Problem message={error} />
  if (!since) return <Text color="quiet">Looking whether the cut still says this …</Text>
  const { changes, blocking, laterVersion } = since
  return (
    <Box py="1" data-testid={`since ${how}`}>
      {changes === null && (
        <Text color="quiet">What the cut said then was not kept: whether it says the same now is not known.</Text>
      )}
      {changes?.length === 0 && <Told word={`as ${how}`}>The cut says the same now.</Told>}
      {changes !== null && changes.length > 0 && <Changes changes={changes} how={how} again={again} />}
      {blocking > 0 && (
        <Told word="blocks handoff">
          <Go to={`mend/${cutId}?weight=blocks+handoff`}>{count(blocking, 'finding')}</Go> would block a handoff now.
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

function Changes({
  changes,
  how,
  again,
}: {
  changes: NonNullable<SinceHandoff['changes']>
  how: How
  again: ReactNode
}): ReactElement {
  const [isAll, setIsAll] = useState(false)
  const shown = isAll ? changes : changes.slice(0, shownAtOnce)
  return (
    <>
      <Told word="changed since" action={again}>
        The cut says another thing now of {count(changes.length, 'event')}: {whatToDo[how]}.
      </Told>
      <Box as="ul" listStyleType="none" ps="9.75rem">
        {shown.map(({ number, track, words }) => (
          <HStack as="li" key={`${track} ${number} ${words}`} gap="3" align="baseline">
            <Text fontFamily="mono" fontSize="0.85rem" width="5rem" flexShrink="0">
              {number} {track}
            </Text>
            <Text overflowWrap="anywhere">{words}</Text>
          </HStack>
        ))}
      </Box>
      {changes.length > shown.length && (
        <Button size="xs" variant="outline" mt="1" ms="9.75rem" onClick={() => setIsAll(true)}>
          Show all {formatNumber(changes.length)}
        </Button>
      )}
    </>
  )
}

interface ToldLine {
  readonly word: string
  readonly action?: ReactNode
  readonly children: ReactNode
}

export const Told = ({ word, action, children }: ToldLine): ReactElement => (
  <HStack gap="3" align="baseline">
    <Box width="9rem" flexShrink="0">
      <StateWord word={word} />
    </Box>
    <Text flex="1" minWidth="0">
      {children}
    </Text>
    {action}
  </HStack>
)
