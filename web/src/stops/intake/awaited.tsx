import { Box, Button, chakra, Flex, Text } from '@chakra-ui/react'
import type { AwaitedLog } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

/** What logs have named and is not here yet, and what of it has come. */
export function Awaited(): ReactElement | null {
  const production = useProduction()
  const { data, error } = useRead('listAwaited', { params: { productionId: production.id } })
  if (error) return <Problem message={error.message} />
  if (!data?.length) return null
  const total = data.reduce((sum, { awaitedTotal }) => sum + awaitedTotal, 0)
  return (
    <Section title={total ? `Awaited: ${count(total, 'clip')} that logs name` : 'All that logs name has come'}>
      {data.map((log) => (
        <Log key={log.id} log={log} />
      ))}
    </Section>
  )
}

function Log({ log }: { log: AwaitedLog }): ReactElement {
  const production = useProduction()
  const drop = useChange('dropAwaited')
  const [isOpen, setOpen] = useState(false)
  const { awaitedTotal, arrivedTotal } = log
  return (
    <Box borderBottomWidth="1px" borderColor="rule" py="2" data-testid="awaited">
      <Flex gap="4" align="center">
        <Box width="7rem" flexShrink="0">
          <StateWord word={awaitedTotal ? 'waiting' : 'done'} />
        </Box>
        <Text flex="1" minWidth="0">
          {log.fileName}: {formatNumber(arrivedTotal)} of {formatNumber(arrivedTotal + awaitedTotal)} have come
        </Text>
        <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {isOpen ? 'Close' : 'Details'}
        </Button>
        <Button
          size="xs"
          variant="outline"
          loading={drop.isPending}
          onClick={() => drop.mutate({ params: { awaitedId: log.id } })}
        >
          Wait no more
        </Button>
      </Flex>
      {drop.error && <Problem message={drop.error.message} />}
      {isOpen && (
        <Box ml="8rem" mt="2" maxHeight="16rem" overflowY="auto">
          {log.awaited.map(({ line, label, doubt }) => (
            <Text key={line}>
              {label}
              <Box as="span" color="quiet">
                {' '}
                · line {line}
                {doubt && `: ${doubt}`}
              </Box>
            </Text>
          ))}
          {awaitedTotal > log.awaited.length && <Text color="quiet">and {awaitedTotal - log.awaited.length} more</Text>}
          {arrivedTotal > 0 && (
            <Text mt="2" color="quiet">
              Come since, whose rows can be merged by reading the log again:{' '}
              {log.arrived.map(({ clipId, label }, index) => (
                <chakra.span key={clipId}>
                  {index ? ', ' : ''}
                  <chakra.a
                    as={Link}
                    {...{ to: `/p/${production.id}/clips?clip=${clipId}` }}
                    color="tide.fg"
                    textDecoration="underline"
                  >
                    {label}
                  </chakra.a>
                </chakra.span>
              ))}
              {arrivedTotal > log.arrived.length && ` and ${arrivedTotal - log.arrived.length} more`}
            </Text>
          )}
        </Box>
      )}
    </Box>
  )
}
