import { Button, Flex, Text } from '@chakra-ui/react'
import type { ReactElement } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'

/** The demo's stand-in for a camera that uploads small proxies while it shoots: its card comes later. */
export function StandInCamera(): ReactElement | null {
  const camera = useRead('readCamera', {})
  const upload = useChange('uploadFromCamera')
  if (!camera.data || camera.data.clips === 0) return null
  return (
    <Section title="Camera B on the water (a stand-in, in the demo)">
      <Flex align="center" gap="4" py="1">
        <Text flex="1" color="quiet">
          {camera.data.uploaded === camera.data.clips
            ? 'All of its small proxies are in the upload folder. Put in B003, add it as a card, and they find their originals.'
            : `It has shot ${camera.data.clips} clips and uploaded ${camera.data.uploaded} small proxies to ${camera.data.folder}.`}
        </Text>
        <Button
          size="xs"
          variant="outline"
          disabled={camera.data.uploaded === camera.data.clips}
          loading={upload.isPending}
          onClick={() => upload.mutate({})}
        >
          Upload the next
        </Button>
      </Flex>
      {upload.error && <Problem message={upload.error.message} />}
    </Section>
  )
}
