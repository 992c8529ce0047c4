import { Box, Button, Flex, Text } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

/** Small proxies that cameras made: those whose originals are here are offered as pairs, the others wait. */
export function Offers(): ReactElement | null {
  const production = useProduction()
  const params = { productionId: production.id }
  const offers = useRead('listOffers', { params })
  const accept = useChange('acceptOffers')
  const [isOpen, setOpen] = useState(false)
  const fitting = (offers.data ?? []).filter((offer) => offer.clipId !== null)
  if (fitting.length === 0) return null
  const doubtful = fitting.filter((offer) => !offer.agrees).length
  return (
    <Section
      title={`${count(fitting.length, 'camera proxy', 'camera proxies')} found ${fitting.length === 1 ? 'its original' : 'their originals'}`}
      action={
        <Flex gap="2" pb="1">
          <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? 'Fold' : 'Evidence'}
          </Button>
          <Button
            size="xs"
            loading={accept.isPending}
            onClick={() => accept.mutate({ params, body: { fileIds: fitting.map((offer) => offer.fileId) } })}
          >
            Pair {count(fitting.length, 'camera proxy', 'camera proxies')}
          </Button>
        </Flex>
      }
    >
      <Text color="quiet">
        Each has the name, rate, start and length of its original and a smaller raster.
        {doubtful > 0 && ` ${count(doubtful, 'pair')} would still be mismatched: see the evidence.`}
      </Text>
      {accept.error && <Problem message={accept.error.message} />}
      {isOpen &&
        fitting.map((offer) => (
          <Flex key={offer.fileId} gap="4" py="1" align="baseline">
            <Box width="7rem" flexShrink="0">
              <StateWord word={offer.agrees ? 'fits' : 'mismatched'} />
            </Box>
            <Text minWidth="0" overflowWrap="anywhere">
              {offer.volumeLabel}: {offer.path} ({offer.raster}) → {offer.clipName}
              {offer.differences.length > 0 && (
                <Box as="span" color="quiet">
                  {' '}
                  {offer.differences.join('; ')}
                </Box>
              )}
            </Text>
          </Flex>
        ))}
    </Section>
  )
}
