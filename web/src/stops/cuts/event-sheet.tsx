import { Box, Button, chakra, HStack, Text } from '@chakra-ui/react'
import type { CutEventRow, SpanStrip } from '@ennick/contract'
import type { ReactElement } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { EvidenceList } from '../../parts/evidence-list.tsx'
import { Section, Sheet } from '../../parts/sheet.tsx'
import { LargeStrip } from '../../parts/span-strip.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { useViewer } from '../../viewer/address.ts'

/** One event: what the list says, where it lands, and why. */
export function EventSheet({
  cutId,
  event,
  strip,
  onClose,
}: {
  cutId: string
  event: CutEventRow | null
  strip: SpanStrip | null
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const viewer = useViewer()
  return (
    <Sheet
      title={event ? `Event ${event.number} on ${event.track}` : 'Event'}
      isOpen={event !== null}
      onClose={onClose}
    >
      {event && (
        <>
          <HStack gap="3" mb="4" fontSize="1.1rem">
            <StateWord word={event.state} />
            {event.note && <Text>{event.note}</Text>}
          </HStack>
          {strip && (
            <Section title="Span">
              <LargeStrip strip={strip} />
            </Section>
          )}
          <Section title="What the list says">
            <Said label="Name" value={event.clipName} />
            <Said label="Reel" value={event.reel} />
            <Said label="Path" value={event.path} />
            {event.mappedPath && <Said label="Here" value={event.mappedPath} />}
            {event.scale && <Said label="Scale" value={event.scale} />}
            <Said label="Source" value={`${event.sourceIn} – ${event.sourceOut}`} />
            <Said label="Record" value={`${event.recordIn} – ${event.recordOut}`} />
          </Section>
          <Section title={event.by ? `Where it lands, found by ${event.by}` : 'Why it lands nowhere'}>
            {event.originalPath && (
              <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere" mb="2">
                {event.originalPath}
              </Text>
            )}
            <EvidenceList rows={event.evidence} expected="The list says" found="There is" />
          </Section>
          <HStack gap="3">
            {event.clipId !== null && (
              <Button
                size="sm"
                variant="outline"
                onClick={() => viewer.open({ clipId: event.clipId, cutId, position: event.position })}
              >
                Look at it
              </Button>
            )}
            {event.clipId && (
              <chakra.a
                as={Link}
                {...{ to: `/p/${production.id}/clips?clip=${event.clipId}` }}
                color="tide.fg"
                textDecoration="underline"
              >
                Open the clip
              </chakra.a>
            )}
            {event.state !== 'on original' && (
              <Button size="sm" asChild>
                <Link to={`/p/${production.id}/mend/${cutId}`}>Go to Mend</Link>
              </Button>
            )}
          </HStack>
        </>
      )}
    </Sheet>
  )
}

function Said({ label, value }: { label: string; value: string | null }): ReactElement {
  return (
    <HStack align="baseline" py="0.5">
      <Box width="6rem" flexShrink="0" color="quiet">
        {label}
      </Box>
      <Text
        fontFamily={value ? 'mono' : 'body'}
        fontSize="0.88rem"
        color={value ? 'ink' : 'quiet'}
        overflowWrap="anywhere"
      >
        {value ?? 'not stated'}
      </Text>
    </HStack>
  )
}
