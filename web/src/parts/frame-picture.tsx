import { Box, Flex, Text } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'

/** A small picture of one frame, and a word where there is none. */
export function FramePicture({ source, what }: { source: string; what: string }): ReactElement {
  const [isBroken, setBroken] = useState(false)
  return (
    <Flex aspectRatio="16/9" bg="raised" mb="0.5" align="center" justify="center" overflow="hidden">
      {isBroken ? (
        <Text color="quiet" fontSize="0.8rem" textAlign="center">
          no picture
        </Text>
      ) : (
        <img
          src={source}
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

/** The same with its words below. */
export function CaptionedPicture({
  source,
  what,
  caption = what,
}: {
  source: string
  what: string
  caption?: string
}): ReactElement {
  return (
    <Box width="10rem">
      <FramePicture source={source} what={what} />
      <Text fontSize="0.8rem" color="quiet">
        {caption}
      </Text>
    </Box>
  )
}
