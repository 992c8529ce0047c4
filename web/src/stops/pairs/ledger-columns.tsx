import { Box, Text } from '@chakra-ui/react'
import type { LedgerLine } from '@ennick/contract'
import type { ReactElement } from 'react'
import { useUnderWay } from '../../data/under-way.ts'
import type { Column } from '../../parts/data-table.tsx'
import { TinyStrip } from '../../parts/span-strip.tsx'
import { StateWord } from '../../parts/state-word.tsx'

const verdictOf = ({ pair, needsProxy }: LedgerLine): string => pair?.verdict ?? (needsProxy ? 'no proxy' : '')

/** What a line comes to; of a clip without a proxy, whether one is on its way. */
function Verdict({ line }: { line: LedgerLine }): ReactElement {
  const underWay = useUnderWay().get(line.clipId)
  const word = line.pair ? verdictOf(line) : (underWay ?? verdictOf(line))
  return word ? <StateWord word={word} /> : <Text color="quiet">travels as it is</Text>
}

export const ledgerColumns: readonly Column<LedgerLine>[] = [
  {
    id: 'name',
    header: 'Original',
    width: 12,
    cell: (line) => (
      <>
        <Text truncate fontWeight="semibold" title={line.name}>
          {line.name}
        </Text>
        <Text truncate color="quiet" fontSize="0.82rem">
          {line.volumeLabel}
          {line.presence !== 'here' && `, ${line.presence}`}
        </Text>
      </>
    ),
    sortBy: ({ name }) => name,
  },
  {
    id: 'reel',
    header: 'Reel',
    width: 4.8,
    isMono: true,
    cell: ({ reel }) => reel ?? '',
    sortBy: ({ reel }) => reel ?? '',
  },
  {
    id: 'span',
    header: 'Span',
    width: 10.5,
    cell: ({ strip }) => (strip ? <TinyStrip strip={strip} /> : null),
  },
  {
    id: 'verdict',
    header: 'Verdict',
    width: 8.6,
    cell: (line) => <Verdict line={line} />,
    sortBy: verdictOf,
  },
  {
    id: 'made',
    header: 'Made item',
    width: 13,
    cell: ({ pair }) =>
      pair && (
        <>
          <Text truncate title={pair.name}>
            {pair.name}
          </Text>
          <Text truncate color="quiet" fontSize="0.82rem">
            {pair.recipe ?? 'made elsewhere, adopted'}
          </Text>
        </>
      ),
    sortBy: ({ pair }) => pair?.name ?? '',
  },
  {
    id: 'raster',
    header: 'Raster',
    width: 7.4,
    align: 'right',
    isMono: true,
    cell: ({ pair }) => pair?.raster ?? '',
    sortBy: ({ pair }) => Number(pair?.raster?.split(' ')[0] ?? 0),
  },
  {
    id: 'why',
    header: 'Why',
    width: 18,
    cell: ({ pair }) => (
      <Box whiteSpace="normal" fontSize="0.9rem" lineClamp={2} title={pair?.why}>
        {pair?.why}
      </Box>
    ),
  },
]
