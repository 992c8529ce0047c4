import { Box, Text } from '@chakra-ui/react'
import type { HistoryLine } from '@ennick/contract'
import type { ReactElement } from 'react'
import { when } from './words.ts'

/** What was done, newest first. */
export function HistoryList({ lines }: { lines: readonly HistoryLine[] }): ReactElement {
  if (lines.length === 0) return <Text color="quiet">Nothing was changed yet.</Text>
  return (
    <Box as="ol" listStyleType="none">
      {lines.map((line) => (
        <Box as="li" key={line.id} py="1">
          <Text as="span" color="quiet" fontSize="0.85rem" mr="3" fontVariantNumeric="tabular-nums">
            {when(line.at)}
          </Text>
          <Text as="span" overflowWrap="anywhere">
            {line.what}
          </Text>
        </Box>
      ))}
    </Box>
  )
}
