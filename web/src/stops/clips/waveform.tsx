import { Box, chakra, Flex, Text } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'
import { addressOf } from '../../data/api.ts'
import { Section } from '../../parts/sheet.tsx'

/** The sound of a clip, one line for each channel with the name that the recorder gave it. */
export function Waveform({
  clipId,
  tracks,
  levels,
}: {
  clipId: string
  tracks: readonly string[]
  /** What each channel was heard to hold; null before that. */
  levels: readonly string[] | null
}): ReactElement {
  const [isBroken, setBroken] = useState(false)
  return (
    <Section title="Sound">
      {isBroken ? (
        <Text color="quiet">The sound cannot be shown while its file is not here.</Text>
      ) : (
        <Flex gap="3">
          <Flex direction="column" width="6rem" flexShrink="0">
            {tracks.map((name, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a channel is its place
              <Text key={index} height="32px" lineHeight="32px" truncate color={name ? 'ink' : 'quiet'} title={name}>
                {index + 1} {name}
              </Text>
            ))}
          </Flex>
          <Box flex="1" bg="bg.subtle">
            <chakra.img
              src={addressOf('clipWaveform', { clipId })}
              alt="Waveform"
              width="100%"
              height={`${tracks.length * 32}px`}
              onError={() => setBroken(true)}
            />
          </Box>
        </Flex>
      )}
      {levels ? (
        levels.map((level, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a channel is its place
          <Text key={index} fontSize="0.85rem">
            {tracks[index] || `Track ${index + 1}`}: {level}
          </Text>
        ))
      ) : (
        <Text fontSize="0.85rem" color="quiet">
          What its tracks hold is measured when it is listened to: Sync sound, By waveform.
        </Text>
      )}
    </Section>
  )
}
