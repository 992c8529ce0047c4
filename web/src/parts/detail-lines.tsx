import { Box, HStack, Text } from '@chakra-ui/react'
import type { JobDetails } from '@ennick/contract'
import type { ReactElement } from 'react'
import { StateWord } from './state-word.tsx'

/** Files, or clips, that need a word, each with what became of it and why. */
export function DetailLines({ details }: { details: JobDetails }): ReactElement {
  const more = details.total - details.lines.length
  return (
    <>
      {details.lines.map((line) => (
        <HStack key={`${line.state} ${line.path} ${line.detail}`} align="baseline" gap="3" py="0.5">
          <Box width="8rem" flexShrink="0">
            <StateWord word={line.state} />
          </Box>
          <Text overflowWrap="anywhere">
            <Box as="span" fontFamily="mono" fontSize="0.85rem">
              {line.path}
            </Box>{' '}
            <Box as="span" color="quiet">
              {line.detail}
            </Box>
          </Text>
        </HStack>
      ))}
      {more > 0 && <Text color="quiet">And {more} more.</Text>}
    </>
  )
}
