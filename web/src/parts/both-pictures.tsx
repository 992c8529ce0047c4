import { Box, Flex, Text } from '@chakra-ui/react'
import type { FramePair } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { addressOf } from '../data/api.ts'

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
          <FramePicture {...original} what={`The original at ${label}`} />
          <FramePicture {...made} what={`${madeWord} at ${label}`} />
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

function FramePicture({ fileId, frame, what }: { fileId: string; frame: number; what: string }): ReactElement {
  const [isBroken, setBroken] = useState(false)
  return (
    <Flex aspectRatio="16/9" bg="raised" mb="0.5" align="center" justify="center" overflow="hidden">
      {isBroken ? (
        <Text color="quiet" fontSize="0.8rem" textAlign="center">
          no picture: its file is not here
        </Text>
      ) : (
        <img
          src={addressOf('filePicture', { fileId, frame: String(frame) })}
          alt={what}
          title={what}
          loading="lazy"
          style={{ maxWidth: '100%', maxHeight: '100%' }}
          onError={() => setBroken(true)}
        />
      )}
    </Flex>
  )
}
