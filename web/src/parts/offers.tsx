import { Box, Button, Flex, HStack, Input, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { ProxyOffer } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../app/production.tsx'
import { useChange, useRead, useSteadyRead } from '../data/queries.ts'
import { Problem } from './notices.tsx'
import { Section } from './sheet.tsx'
import { StateWord } from './state-word.tsx'
import { count } from './words.ts'

/**
 * Proxies that others made: those that fit beyond doubt are paired together, the doubtful ones one by one, and those
 * whose originals are not known wait.
 */
export function Offers(): ReactElement | null {
  const production = useProduction()
  const params = { productionId: production.id }
  const offers = useRead('listOffers', { params })
  const accept = useChange('acceptOffers')
  const [isOpen, setOpen] = useState(false)
  const list = offers.data ?? []
  const fitting = list.filter((offer) => offer.outcome === 'fits')
  const doubtful = list.filter((offer) => offer.outcome === 'likely' || offer.outcome === 'ambiguous')
  const waiting = list.filter((offer) => offer.outcome === 'waits')
  if (list.length === 0) return null
  const mismatched = fitting.filter((offer) => !offer.agrees).length
  return (
    <Section
      title={title(fitting.length, doubtful.length)}
      action={
        <Flex gap="2" pb="1">
          <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? 'Fold' : 'Evidence'}
          </Button>
          {fitting.length > 0 && (
            <Button
              size="xs"
              loading={accept.isPending}
              onClick={() => accept.mutate({ params, body: { fileIds: fitting.map((offer) => offer.fileId) } })}
            >
              Pair {count(fitting.length, 'proxy', 'proxies')}
            </Button>
          )}
        </Flex>
      }
    >
      <Text color="quiet" mb="1.5">
        {fitting.length > 0 && `Name and facts leave no doubt whose ${fitting.length === 1 ? 'it is' : 'they are'}. `}
        {mismatched > 0 && `${count(mismatched, 'pair')} would still be mismatched: see the evidence. `}
        {doubtful.length > 0 && `${count(doubtful.length, 'proxy', 'proxies')} to be decided one by one. `}
        {waiting.length > 0 &&
          `${count(waiting.length, 'other')} ${waiting.length === 1 ? 'waits' : 'wait'} for originals.`}
      </Text>
      {accept.error && <Problem message={accept.error.message} />}
      {isOpen && (
        <Box maxHeight="24rem" overflowY="auto">
          {[...doubtful, ...fitting, ...waiting].map((offer) => (
            <OfferLine
              key={offer.fileId}
              offer={offer}
              isPending={accept.isPending}
              onPair={(clipId) =>
                accept.mutate({ params, body: { fileIds: [], choices: [{ fileId: offer.fileId, clipId }] } })
              }
            />
          ))}
        </Box>
      )}
    </Section>
  )
}

const title = (fitting: number, doubtful: number): string =>
  fitting > 0
    ? `${count(fitting, 'proxy', 'proxies')} made elsewhere found ${fitting === 1 ? 'its original' : 'their originals'}`
    : doubtful === 0
      ? 'Proxies made elsewhere wait for their originals'
      : `${count(doubtful, 'proxy', 'proxies')} made elsewhere may have found ${doubtful === 1 ? 'its original' : 'their originals'}`

function OfferLine({
  offer,
  isPending,
  onPair,
}: {
  offer: ProxyOffer
  isPending: boolean
  onPair: (clipId: string) => void
}): ReactElement {
  const [chosen, choose] = useState(offer.outcome === 'likely' ? (offer.rivals[0]?.clipId ?? '') : '')
  const [words, setWords] = useState('')
  const production = useProduction()
  const isAsking = words.trim().length > 1
  const found = useSteadyRead(
    'searchClips',
    isAsking ? { params: { productionId: production.id }, body: { words, limit: 20 } } : null,
  )
  const rivals = isAsking ? (found.data?.rows ?? []).map(({ id, path }) => ({ clipId: id, path })) : offer.rivals
  return (
    <Flex gap="4" py="1.5" align="baseline" borderTopWidth="1px" borderColor="rule" data-testid="offer">
      <Box width="7rem" flexShrink="0">
        <StateWord word={offer.outcome === 'fits' && !offer.agrees ? 'mismatched' : offer.outcome} />
      </Box>
      <Stack gap="0.5" flex="1" minWidth="0">
        <Text overflowWrap="anywhere">
          {offer.volumeLabel}: {offer.path}
          {offer.raster && ` (${offer.raster})`}
          {offer.clipName && ` → ${offer.clipName}`}
        </Text>
        <Text color="quiet" fontSize="0.9rem">
          {offer.reason} {offer.differences.join('; ')}
        </Text>
        {offer.outcome !== 'fits' && (
          <HStack>
            <Input
              size="xs"
              width="11rem"
              aria-label={`Find the original of ${offer.path}`}
              placeholder="another clip’s name"
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
            <NativeSelect.Root size="xs" width="26rem" maxWidth="100%">
              <NativeSelect.Field
                aria-label={`Original of ${offer.path}`}
                value={chosen}
                onChange={(event) => choose(event.target.value)}
              >
                <option value="">choose its original</option>
                {rivals.map((rival) => (
                  <option key={rival.clipId} value={rival.clipId}>
                    {rival.path}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
            <Button size="xs" variant="outline" disabled={!chosen} loading={isPending} onClick={() => onPair(chosen)}>
              Pair
            </Button>
          </HStack>
        )}
      </Stack>
    </Flex>
  )
}
