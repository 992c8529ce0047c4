import { Box, Text } from '@chakra-ui/react'
import type { Volume } from '@ennick/contract'
import type { ReactElement } from 'react'
import { useRead } from '../../data/queries.ts'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Sheet } from '../../parts/sheet.tsx'
import { bytes } from '../../parts/words.ts'

/** Files that claim to be media and are not, each with its reason. */
export function ProblemsSheet({ volume, onClose }: { volume: Volume | null; onClose: () => void }): ReactElement {
  const problems = useRead('listProblems', volume ? { params: { volumeId: volume.id } } : null)
  return (
    <Sheet title={`On ${volume?.label ?? ''}, and not readable`} isOpen={volume !== null} onClose={onClose}>
      {problems.isPending && <Loading what="the list" />}
      {problems.error && <Problem message={problems.error.message} />}
      {problems.data?.length === 0 && <Text>Every file on it can be read.</Text>}
      {problems.data?.map((file) => (
        <Box key={file.id} borderBottomWidth="1px" borderColor="rule" py="2">
          <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
            {file.path}{' '}
            {file.sizeBytes > 0 && (
              <Box as="span" color="quiet">
                {bytes(file.sizeBytes)}
              </Box>
            )}
          </Text>
          <Text>{file.problem}</Text>
        </Box>
      ))}
    </Sheet>
  )
}
