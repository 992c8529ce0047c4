import { Box, Button, HStack, Text } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useNavigate } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue } from '../../data/remembered.ts'
import { CutChoice, useChosenCut } from '../../parts/cut-choice.tsx'
import { Dialog } from '../../parts/dialog.tsx'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { Section } from '../../parts/sheet.tsx'
import { LargeStrip } from '../../parts/span-strip.tsx'
import { count, formatRate } from '../../parts/words.ts'
import { EventSheet } from './event-sheet.tsx'
import { EventTable } from './event-table.tsx'
import { PathMap } from './path-map.tsx'
import { ReadCut } from './read-cut.tsx'
import { TrackPicture } from './track-picture.tsx'

/** A cut with its tracks and events, and where each event lands. */
export function CutsStop(): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  const { cuts, cut, isPending, error } = useChosenCut()
  const [isReading, setReading] = useState(false)
  const [isLeaving, setLeaving] = useState(false)
  const remove = useChange('removeCut', () => {
    setLeaving(false)
    navigate(`/p/${production.id}/cuts`)
  })
  if (isPending) return <Loading what="the cuts" />
  if (error) return <Problem message={error} />
  const read = (
    <Button size="sm" variant={cut ? 'outline' : 'solid'} onClick={() => setReading(true)}>
      Read a cut
    </Button>
  )
  return (
    <Page
      title={cut ? answer(cut) : 'No cut yet'}
      answer={
        cut
          ? `${cut.format}, ${count(cut.events, 'event')} on ${count(cut.tracks.length, 'track')} at ${formatRate(cut.rate)}${cut.dropFrame ? ' drop-frame' : ''}, from ${cut.fileName}`
          : undefined
      }
      actions={
        <>
          {cut && <CutChoice stop="cuts" cuts={cuts} chosen={cut} />}
          {cut && (
            <Button size="sm" variant="ghost" onClick={() => setLeaving(true)}>
              Take out
            </Button>
          )}
          {read}
        </>
      }
    >
      {cut ? (
        <CutView key={cut.id} cut={cut} />
      ) : (
        <Empty title="Read the first cut">
          Ennick reads CMX 3600 EDL and OTIO, finds the original of every event, and says where it cannot.
        </Empty>
      )}
      <ReadCut isOpen={isReading} onClose={() => setReading(false)} />
      <Dialog
        title={`Take “${cut?.name ?? ''}” out of the production?`}
        isOpen={isLeaving}
        onClose={() => setLeaving(false)}
        footer={
          <Button loading={remove.isPending} onClick={() => cut && remove.mutate({ params: { cutId: cut.id } })}>
            Take the cut out
          </Button>
        }
      >
        <Text>
          Its decisions and the choices made for its events go with it, and its handoffs leave the list. Originals,
          proxies and files that were handed off stay where they are.
        </Text>
        {remove.error && <Problem message={remove.error.message} />}
      </Dialog>
    </Page>
  )
}

function answer(cut: Cut): string {
  const { onOriginal, onProxy, originalMissing, short, unresolved } = cut.states
  if (onOriginal === cut.events)
    return cut.events === 1 ? 'The one event is on its original' : `All ${cut.events} events are on their original`
  const parts = [
    onProxy ? `${onProxy} on proxy` : '',
    originalMissing ? `${originalMissing} with their original missing` : '',
    short ? `${short} short` : '',
    unresolved ? `${unresolved} unresolved` : '',
  ].filter(Boolean)
  return `${onOriginal} of ${cut.events} events on their original: ${parts.join(', ')}`
}

function CutView({ cut }: { cut: Cut }): ReactElement {
  const detail = useRead('readCut', { params: { cutId: cut.id } })
  const [position, setPosition] = useAddressValue('event')
  if (detail.isPending) return <Loading what="the cut" />
  if (detail.error) return <Problem message={detail.error.message} />
  const { data } = detail
  const open = (at: number): void => setPosition(String(at))
  const event = position === '' ? null : (data.events[Number(position)] ?? null)
  return (
    <Box>
      <TrackPicture cut={data.cut} events={data.events} onOpen={open} />
      <Section title="Events">
        <EventTable events={data.events} onOpen={open} />
      </Section>
      <PathMap suggestions={data.suggestedMappings} />
      <Section title="Spans and uses">
        {data.strips.length === 0 && <Text color="quiet">No event has found a clip yet.</Text>}
        <HStack wrap="wrap" gap="8" align="start">
          {data.strips.map((entry) => (
            <Box key={entry.clipId}>
              <Text fontWeight="semibold">{entry.name}</Text>
              <LargeStrip strip={entry.strip} width={460} />
            </Box>
          ))}
        </HStack>
      </Section>
      <EventSheet
        cutId={cut.id}
        event={event}
        strip={data.strips.find((entry) => entry.clipId === event?.clipId)?.strip ?? null}
        onClose={() => setPosition(null)}
      />
    </Box>
  )
}
