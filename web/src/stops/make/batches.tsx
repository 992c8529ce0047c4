import { Box, Button, Flex, HStack, Text } from '@chakra-ui/react'
import type { MakeBatch } from '@ennick/contract'
import { nameSome } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { saveText } from '../../parts/save-text.ts'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count, when } from '../../parts/words.ts'
import { batchCounts, batchFile, batchRest, batchSize, batchWord, needsMoreRoom, takenInCounts } from './batch-words.ts'
import { JoinBatch } from './join-batch.tsx'
import { Named } from './named.tsx'
import { TakenIn } from './taken-in.tsx'

/** What was asked for at once and what became of all of it; the newest is shown, earlier ones on request. */
export function Batches(): ReactElement | null {
  const production = useProduction()
  const { data, error } = useRead('listBatches', { params: { productionId: production.id } })
  const [isAll, setAll] = useState(false)
  if (error) return <Problem message={error.message} />
  if (!data?.length) return null
  return (
    <Section title={isAll ? 'Batches' : 'The last batch'}>
      {production.target?.bringIn && (
        <Text mb="1">
          How “{production.target.name}” takes it in: {production.target.bringIn}
        </Text>
      )}
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
              ` · ${count(leftOut.total, 'picture')} of ${nameSome(leftOut.days)} not asked for, and without a proxy`}
          </Text>
          {needsMoreRoom(batch) ? (
            <HStack gap="2" align="center">
              <StateWord word="needs a look" />
              <Text as="span">{batchSize(batch)}: is there room for that?</Text>
            </HStack>
          ) : (
            batch.size && (
              <Text color="quiet" fontSize="0.9rem">
                {batchSize(batch)}
              </Text>
            )
          )}
          {batch.takenIn && (
            <Text fontSize="0.9rem">
              Receiving room, by {batch.takenIn.fileName} read {when(batch.takenIn.readAt)}:{' '}
              {takenInCounts(batch.takenIn)}
            </Text>
          )}
        </Box>
        <HStack flexShrink="0">
          <Button
            size="xs"
            variant="ghost"
            onClick={() =>
              saveText(`batch ${batch.createdAt.slice(0, 16).replace('T', ' ').replace(':', '')}.csv`, batchFile(batch))
            }
          >
            Save the list (CSV)
          </Button>
          <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? 'Close' : 'Details'}
          </Button>
        </HStack>
      </Flex>
      {isOpen && (
        <Box ml="8rem" mt="2">
          <Box maxHeight="16rem" overflowY="auto">
            <Named title="Failed" lines={batch.failed.map(({ title, reason }) => `${title}: ${reason}`)} />
            <Named
              title="Waiting for a volume"
              lines={batch.waiting.map(({ title, reason }) => `${title}: ${reason}`)}
            />
            <Named title="Stopped" lines={batch.stopped} />
            <Named
              title="Skipped"
              lines={batch.skipped.map(({ name, recipe, reason }) => `${name}, ${recipe}: ${reason}`)}
            />
            <Named
              title={`Not asked for, of ${nameSome(leftOut.days)}, and without a proxy`}
              lines={leftOut.names}
              total={leftOut.total}
            />
          </Box>
          <Text color="quiet">{batchRest(batch)}</Text>
          {batch.counts.made > 0 && <TakenIn batch={batch} />}
          <JoinBatch batch={batch} />
        </Box>
      )}
    </Box>
  )
}
