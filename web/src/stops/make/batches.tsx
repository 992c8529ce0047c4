import { Box, Button, Flex, HStack, Link, Text } from '@chakra-ui/react'
import type { MakeBatch } from '@ennick/contract'
import { type ReactElement, type ReactNode, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count, when } from '../../parts/words.ts'
import { batchCounts, batchFile, batchRest, batchWord } from './batch-words.ts'

/** What was asked for at once and what became of all of it; the newest is shown, earlier ones on request. */
export function Batches(): ReactElement | null {
  const production = useProduction()
  const { data, error } = useRead('listBatches', { params: { productionId: production.id } })
  const [isAll, setAll] = useState(false)
  if (error) return <Problem message={error.message} />
  if (!data?.length) return null
  return (
    <Section title={isAll ? 'Batches' : 'The last batch'}>
      {data.slice(0, isAll ? data.length : 1).map((batch) => (
        <BatchLine key={batch.id} batch={batch} />
      ))}
      {data.length > 1 && (
        <Button size="xs" variant="ghost" mt="1" onClick={() => setAll(!isAll)}>
          {isAll ? 'Show the last alone' : `Show ${data.length - 1} earlier`}
        </Button>
      )}
    </Section>
  )
}

function BatchLine({ batch }: { batch: MakeBatch }): ReactElement {
  const [isOpen, setOpen] = useState(false)
  const { leftOut } = batch
  return (
    <Box borderBottomWidth="1px" borderColor="rule" py="2" data-testid="batch">
      <Flex gap="4" align="center">
        <Box width="7rem" flexShrink="0">
          <StateWord word={batchWord(batch)} />
        </Box>
        <Box flex="1" minWidth="0">
          <Text>
            {batch.recipes.join(' + ')}: {batchCounts(batch)}
          </Text>
          <Text color="quiet" fontSize="0.9rem">
            asked for {when(batch.createdAt)}, {count(batch.clips, 'clip')}
            {leftOut.total > 0 &&
              ` · ${count(leftOut.total, 'picture')} of ${leftOut.days.join(', ')} not asked for, and without a proxy`}
          </Text>
        </Box>
        <HStack flexShrink="0">
          <Link
            fontSize="0.85rem"
            href={`data:text/csv;charset=utf-8,${encodeURIComponent(batchFile(batch))}`}
            download={`batch ${batch.createdAt.slice(0, 16).replace('T', ' ').replace(':', '')}.csv`}
          >
            Save the list (CSV)
          </Link>
          <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? 'Close' : 'Details'}
          </Button>
        </HStack>
      </Flex>
      {isOpen && (
        <Box ml="8rem" mt="2" maxHeight="22rem" overflowY="auto">
          <Named title="Failed" lines={batch.failed.map(({ title, reason }) => `${title}: ${reason}`)} />
          <Named title="Stopped" lines={batch.stopped} />
          <Named
            title="Skipped"
            lines={batch.skipped.map(({ name, recipe, reason }) => `${name}, ${recipe}: ${reason}`)}
          />
          <Named title={`Not asked for, of ${leftOut.days.join(', ')}, and without a proxy`} lines={leftOut.names}>
            {leftOut.total > leftOut.names.length && <Text>and {leftOut.total - leftOut.names.length} more</Text>}
          </Named>
          <Text color="quiet">{batchRest(batch)}</Text>
        </Box>
      )}
    </Box>
  )
}

function Named({
  title,
  lines,
  children,
}: {
  title: string
  lines: readonly string[]
  children?: ReactNode
}): ReactElement | null {
  if (lines.length === 0) return null
  return (
    <Box mb="2">
      <Text fontWeight="semibold">
        {title}: {lines.length}
      </Text>
      {lines.map((line, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines may be alike, and their order never changes
        <Text key={index} overflowWrap="anywhere">
          {line}
        </Text>
      ))}
      {children}
    </Box>
  )
}
