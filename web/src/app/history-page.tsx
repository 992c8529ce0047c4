import { Box, Button, Flex, HStack, Text } from '@chakra-ui/react'
import type { HistoryLine } from '@ennick/contract'
import { groupBy } from '@ennick/core'
import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import type { ReactElement, ReactNode } from 'react'
import { type ApiError, addressOf, call } from '../data/api.ts'
import { useAddressValue } from '../data/remembered.ts'
import { FilterField } from '../parts/filter-field.tsx'
import { Go } from '../parts/go.tsx'
import { Loading, Problem } from '../parts/notices.tsx'
import { Page } from '../parts/page.tsx'
import { Section } from '../parts/sheet.tsx'
import { when } from '../parts/words.ts'
import { useProduction } from './production.tsx'

const atOnce = 200

/** All that was ever done in a production, the newest first, with the words that are sought in it. */
export function HistoryPage(): ReactElement {
  const production = useProduction()
  const [words, setWords] = useAddressValue('q', { isTyped: true })
  const params = { productionId: production.id }
  const pages = useInfiniteQuery<HistoryLine[], ApiError, HistoryLine[], readonly unknown[], number | null>({
    queryKey: ['history', params, words],
    queryFn: ({ pageParam }) =>
      call('history', { params, query: { words, limit: atOnce, ...(pageParam !== null && { before: pageParam }) } }),
    initialPageParam: null,
    getNextPageParam: (last) => (last.length < atOnce ? null : (last.at(-1)?.id ?? null)),
    select: ({ pages }) => pages.flat(),
    placeholderData: keepPreviousData,
  })
  const lines = pages.data ?? []
  return (
    <Page
      title="What was done"
      answer="The newest first. Nothing of it is ever changed or taken out."
      actions={
        <HStack gap="3">
          <FilterField label="Filter history" value={words} onChange={setWords} />
          <Button size="sm" variant="outline" asChild>
            <a href={addressOf('historyTable', params, words ? { words } : {})} download>
              Save as a table (CSV)
            </a>
          </Button>
        </HStack>
      }
    >
      {pages.isPending && <Loading what="the history" />}
      {pages.error && <Problem message={pages.error.message} />}
      {pages.data && lines.length === 0 && (
        <Text color="quiet">{words ? 'No line has all of these words in it.' : 'Nothing was done yet.'}</Text>
      )}
      {[...groupBy(lines, ({ at }) => when(at).slice(0, 10))].map(([day, ofDay]) => (
        <Section key={day} title={day}>
          {ofDay.map((line) => (
            <Flex key={line.id} gap="5" py="1" data-testid="history-line">
              <Text color="quiet" width="3.5rem" flexShrink="0" fontVariantNumeric="tabular-nums">
                {when(line.at).slice(11)}
              </Text>
              <Text width="6rem" flexShrink="0" color="quiet">
                <Subject line={line} />
              </Text>
              <Text flex="1" minWidth="0" overflowWrap="anywhere">
                {line.what}
              </Text>
            </Flex>
          ))}
        </Section>
      ))}
      {pages.hasNextPage && (
        <Box>
          <Button
            size="sm"
            variant="outline"
            loading={pages.isFetchingNextPage}
            onClick={() => void pages.fetchNextPage()}
          >
            Show earlier lines
          </Button>
        </Box>
      )}
    </Page>
  )
}

/** Where what a line speaks of is looked at. */
const places: Readonly<Record<string, (id: string) => string>> = {
  clip: (id) => `clips?clip=${id}`,
  pair: (id) => `pairs?pair=${id}`,
  volume: (id) => `intake?volume=${id}`,
}

function Subject({ line: { subject, subjectId } }: { line: HistoryLine }): ReactNode {
  const { id } = useProduction()
  const place = places[subject]
  return place && subjectId ? <Go to={`/p/${id}/${place(subjectId)}`}>{subject}</Go> : subject
}
