import { Box, HStack, Text } from '@chakra-ui/react'
import type { JobDetails } from '@ennick/contract'
import type { ReactElement } from 'react'
import { StateWord } from './state-word.tsx'
import { bytes } from './words.ts'

/** "1.2 MB of 4.8 MB", of what is there already or has not begun its size alone. */
function sizeOf({ done, of }: NonNullable<JobDetails['lines'][number]['bytes']>): string {
  if (done === 0 || done === of) return of === null ? '' : bytes(of)
  return of === null ? `${bytes(done)} so far` : `${bytes(done)} of ${bytes(of)}`
}

/** Files, or clips, that need a word, each with what became of it and why. */
export function DetailLines({ details }: { details: Pick<JobDetails, 'lines' | 'total'> }): ReactElement {
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
              {line.bytes && line.state !== 'refused' && sizeOf(line.bytes)}
            </Box>
          </Text>
        </HStack>
      ))}
      {more > 0 && <Text color="quiet">And {more} more.</Text>}
    </>
  )
}
