import { Box, Text } from '@chakra-ui/react'
import type { FolderSurvey } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { bytes, count } from '../../parts/words.ts'

/** What lies in a folder, folder by folder, before anything of it is read. */
export function FolderMap({ survey }: { survey: FolderSurvey }): ReactElement {
  const { mediaFiles, otherFiles, folders, isWhole } = survey
  return (
    <Box as="details" data-testid="folder-map">
      <Box as="summary" cursor="pointer">
        <Text as="span" fontWeight="semibold">
          {count(mediaFiles, 'media file')}, {bytes(survey.bytes)}
        </Text>{' '}
        <Text as="span" color="quiet">
          in {count(folders.length, 'folder')}; {count(otherFiles, 'other file')}
          {isWhole ? '' : '. There is more, or a folder could not be read: the scan tells all'}
        </Text>
      </Box>
      <Box maxHeight="11rem" overflowY="auto" mt="1">
        <Box as="table" width="100%" fontSize="0.85rem" fontVariantNumeric="tabular-nums">
          <Box as="thead" color="quiet" textAlign="left">
            <tr>
              <th>Folder</th>
              <Box as="th" textAlign="right">
                Media
              </Box>
              <Box as="th" textAlign="right">
                Other
              </Box>
              <Box as="th" textAlign="right">
                Size
              </Box>
            </tr>
          </Box>
          <tbody>
            {folders.map((folder) => (
              <tr key={folder.path}>
                <Box as="td" fontFamily="mono" overflowWrap="anywhere">
                  {folder.path || 'right here'}
                </Box>
                <Box as="td" textAlign="right">
                  {formatNumber(folder.mediaFiles)}
                </Box>
                <Box as="td" textAlign="right">
                  {formatNumber(folder.otherFiles)}
                </Box>
                <Box as="td" textAlign="right" whiteSpace="nowrap">
                  {folder.mediaFiles ? bytes(folder.bytes) : ''}
                </Box>
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
    </Box>
  )
}
