import { Button, Flex, HStack, Text, VisuallyHidden } from '@chakra-ui/react'
import type { ClipDetail } from '@ennick/contract'
import { pixelAspectField } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { addressOf } from '../../data/api.ts'
import { orderOfEdits, useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'

/** In rem. */
const pictureHeight = 5.5

/**
 * The clip's picture under each pixel aspect that it may have; a click says which is right, where the file is wrong.
 */
export function PixelShape({ detail }: { detail: ClipDetail }): ReactElement | null {
  const production = useProduction()
  const [isOpen, setOpen] = useState(false)
  const edit = useChange('editClips', undefined, orderOfEdits)
  const { clip, pixelShapes } = detail
  const now = pixelShapes.find(({ isNow }) => isNow)
  if (!now) return null
  const choose = (aspect: string, isTold: boolean): void =>
    edit.mutate({
      params: { productionId: production.id },
      body: {
        action: { kind: 'set', clipIds: [clip.id], field: pixelAspectField, value: isTold ? '' : aspect },
        apply: true,
      },
    })
  return (
    <Section title="Pixel aspect">
      <HStack gap="3" align="baseline">
        <Text>
          {now.isTold ? `${inDecimals(now.aspect)}, as the file says` : `${inDecimals(now.aspect)}, set by hand`}
        </Text>
        <Button size="xs" variant="outline" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {isOpen ? 'Close' : 'Compare shapes…'}
        </Button>
      </HStack>
      {isOpen && (
        <>
          <Text color="quiet" fontSize="0.9rem" mt="2">
            Choose the one in which round things are round. The file stays as it is; what is made is made by your
            choice, and what was made by another becomes mismatched.
          </Text>
          <Flex gap="3" wrap="wrap" mt="2" role="group" aria-label="Pixel aspects">
            {pixelShapes.map(({ aspect, isTold, isNow, shown }) => (
              <Button
                key={aspect}
                variant={isNow ? 'subtle' : 'ghost'}
                height="auto"
                p="1.5"
                aria-pressed={isNow}
                disabled={edit.isPending}
                onClick={() => !isNow && choose(aspect, isTold)}
                flexDirection="column"
                gap="1"
              >
                <img
                  src={addressOf('clipPicture', { clipId: clip.id })}
                  alt=""
                  style={{
                    height: `${pictureHeight}rem`,
                    width: `${(pictureHeight * shown.width) / shown.height}rem`,
                    objectFit: 'fill',
                  }}
                />
                <Text as="span" fontSize="0.85rem">
                  {inDecimals(aspect)}
                  {isTold && ', file'}
                  {isNow && <VisuallyHidden>, in use</VisuallyHidden>}
                </Text>
              </Button>
            ))}
          </Flex>
          {edit.error && <Problem message={edit.error.message} />}
        </>
      )}
    </Section>
  )
}

/** As lenses are called: "4:3 (1.33)". */
function inDecimals(aspect: string): string {
  const [wide = 1, high = 1] = aspect.split(':').map(Number)
  return aspect.includes(':') ? `${aspect} (${(wide / high).toFixed(2).replace(/0$/, '')})` : aspect
}
