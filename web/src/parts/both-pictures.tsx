import { Box, Flex, Text } from '@chakra-ui/react'
import type { FramePair } from '@ennick/contract'
import type { ReactElement } from 'react'
import { addressOf } from '../data/api.ts'
import { FramePicture } from './frame-picture.tsx'

/** The original's pictures above, and those of the made item below, at the same timecodes. */
export function BothPictures({
  frames,
  madeWord,
  width = '11rem',
}: {
  frames: readonly FramePair[]
  madeWord: string
  width?: string
}): ReactElement | null {
  if (frames.length === 0) return null
  return (
    <Flex gap="2" wrap="wrap" data-testid="both-pictures">
      {frames.map(({ label, original, made }) => (
        <Box key={label} width={width}>
          <FramePicture source={pictureOf(original)} what={`The original at ${label}`} />
          <FramePicture source={pictureOf(made)} what={`${madeWord} at ${label}`} />
          <Text fontFamily="mono" fontSize="0.8rem" color="quiet">
            {label}
          </Text>
          <Text fontSize="0.75rem" color="quiet">
            original above
          </Text>
        </Box>
      ))}
    </Flex>
  )
}

const pictureOf = ({ fileId, frame }: FramePair['original']): string =>
  addressOf('filePicture', { fileId, frame: String(frame) })
