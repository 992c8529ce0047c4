import { Box, Button, Flex, HStack, Stack, Text } from '@chakra-ui/react'
import type { ProxyOffer } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../app/production.tsx'
import { useChange, useRead } from '../data/queries.ts'
import { BothPictures } from './both-pictures.tsx'
import { FindClip } from './find-clip.tsx'
import { Empty, Loading, Problem } from './notices.tsx'
import { Section } from './sheet.tsx'
import { StateWord } from './state-word.tsx'
import { count } from './words.ts'

/**
 * Proxies that others made: those that fit beyond doubt are paired together, the doubtful ones one by one, and those
 * whose originals are not known wait.
 * @param isFolded whether the evidence is shown when asked for, and nothing where there is none
 */
export function Offers({ isFolded }: { isFolded: boolean }): ReactElement | null {
  const production = useProduction()
  const params = { productionId: production.id }
  const offers = useRead('listOffers', { params })
  const accept = useChange('acceptOffers')
  const [isOpen, setOpen] = useState(!isFolded)
  const list = offers.data ?? []
  const fitting = list.filter((offer) => offer.outcome === 'fits')
  const doubtful = list.filter((offer) => offer.outcome === 'likely' || offer.outcome === 'ambiguous')
  const waiting = list.filter((offer) => offer.outcome === 'waits')
  if (offers.error) return <Problem message={offers.error.message} />
  if (list.length === 0) {
    if (isFolded) return null
    return offers.isPending ? (
      <Loading what="the proxies that others made" />
    ) : (
      <Empty title="No proxy made elsewhere waits">
        Say of a volume or a folder, in its details in Intake, that it holds proxies: each is offered here with the
        original that it fits.
      </Empty>
    )
  }
  const clean = fitting.filter((offer) => offer.agrees)
  const faulty = fitting.length - clean.length
  return (
    <Section
      title={title(fitting.length, doubtful.length)}
      action={
        <Flex gap="2" pb="1">
          {isFolded && (
            <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
              {isOpen ? 'Close' : 'Evidence'}
            </Button>
          )}
          {clean.length > 0 && (
            <Button
              size="xs"
              loading={accept.isPending}
              onClick={() => accept.mutate({ params, body: { fileIds: clean.map((offer) => offer.fileId) } })}
            >
              Pair {count(clean.length, 'proxy', 'proxies')}
            </Button>
          )}
          {faulty > 0 && (
            <Button
              size="xs"
              variant="outline"
              title="They are paired and stay mismatched, until they are restamped or made again."
              loading={accept.isPending}
              onClick={() => accept.mutate({ params, body: { fileIds: fitting.map((offer) => offer.fileId) } })}
            >
              {clean.length ? 'Pair all' : 'Pair'} {formatNumber(fitting.length)}, faults told
            </Button>
          )}
        </Flex>
      }
    >
      <Text color="quiet" mb="1.5">
        {fitting.length > 0 && `The evidence leaves no doubt whose ${fitting.length === 1 ? 'it is' : 'they are'}. `}
        {faulty > 0 && `${count(faulty, 'of them has a fault', 'of them have faults')}: see the evidence. `}
        {doubtful.length > 0 && `${count(doubtful.length, 'proxy', 'proxies')} to be decided one by one. `}
        {waiting.length > 0 &&
          `${count(waiting.length, 'other')} ${waiting.length === 1 ? 'waits' : 'wait'} for originals.`}
      </Text>
      {accept.error && <Problem message={accept.error.message} />}
      {isOpen && (
        <Box maxHeight={isFolded ? '24rem' : undefined} overflowY="auto">
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
  const [isElse, setElse] = useState(false)
  return (
    <Flex gap="4" py="1.5" align="flex-start" borderTopWidth="1px" borderColor="rule" data-testid="offer">
      <Box width="7rem" flexShrink="0">
        <StateWord word={offer.outcome === 'fits' && !offer.agrees ? 'mismatched' : offer.outcome} />
      </Box>
      <BothPictures frames={middleOf(offer.frames)} madeWord="The proxy" width="8rem" />
      <Stack gap="0.5" flex="1" minWidth="0">
        <Text overflowWrap="anywhere">
          {offer.volumeLabel}: {offer.path}
          {offer.raster && ` (${offer.raster})`}
          {offer.clipName && ` → ${offer.clipName}`}
        </Text>
        <Text color="quiet" fontSize="0.9rem">
          {offer.reason} {offer.differences.join('; ')}
        </Text>
        {offer.clipId !== null && !isElse && (
          <HStack>
            <Button size="xs" variant="outline" loading={isPending} onClick={() => onPair(offer.clipId as string)}>
              Pair
            </Button>
            <Button size="xs" variant="ghost" onClick={() => setElse(true)}>
              with another…
            </Button>
          </HStack>
        )}
        {(offer.clipId === null || isElse) && (
          <HStack>
            <FindClip
              label={`Original of ${offer.path}`}
              fieldLabel={`Find the original of ${offer.path}`}
              empty="choose its original"
              offered={offer.rivals}
              chosen={chosen}
              onChoose={choose}
            />
            <Button size="xs" variant="outline" disabled={!chosen} loading={isPending} onClick={() => onPair(chosen)}>
              Pair
            </Button>
          </HStack>
        )}
      </Stack>
    </Flex>
  )
}

/** Of three places the middle one tells most in the least room. */
const middleOf = (frames: ProxyOffer['frames']): ProxyOffer['frames'] => frames.slice(frames.length >> 1).slice(0, 1)
