import { Box, Button, HStack, Text } from '@chakra-ui/react'
import type { CutDetail, CutEventRow } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useMemo, useState } from 'react'
import { useAddressValue, useOpened } from '../../data/remembered.ts'
import { Choice } from '../../parts/choices.tsx'
import { FilterField } from '../../parts/filter-field.tsx'
import { count } from '../../parts/words.ts'
import { useViewer } from '../../viewer/address.ts'
import { EventSheet } from './event-sheet.tsx'
import { EventTable } from './event-table.tsx'
import { FlipTracks } from './flip-tracks.tsx'
import { NewMappings } from './path-map.tsx'
import { TrackPicture } from './track-picture.tsx'

/** The picture of the tracks and the table of events, each showing what is chosen in the other. */
export function EventsView({ detail }: { detail: CutDetail }): ReactElement {
  const { cut, events } = detail
  const [opened, setOpened] = useOpened('event')
  const [chosen, setChosen] = useState<number | null>(null)
  const [words, setWords] = useAddressValue('q', { isTyped: true })
  const [state, setState] = useAddressValue('state')
  const [track, setTrack] = useAddressValue('track')
  const [volume, setVolume] = useAddressValue('volume')
  const shown = useMemo(
    () => events.filter((event) => fits(event, { words, state, track, volume })),
    [events, words, state, track, volume],
  )
  const states = useMemo(() => [...new Set(events.map((event) => event.state))], [events])
  const volumes = useMemo(() => [...new Set(events.flatMap((event) => event.volumeLabel ?? []))].sort(), [events])
  const viewer = useViewer()
  const event = opened === '' ? null : (events[Number(opened)] ?? null)
  const open = (position: number): void => {
    setChosen(position)
    setOpened(String(position))
  }
  return (
    <>
      <TrackPicture cut={cut} events={events} chosen={chosen} onChoose={setChosen} onOpen={open} />
      <NewMappings suggestions={detail.suggestedMappings} />
      <HStack gap="2" mb="2" wrap="wrap">
        <FilterField label="Filter the events" value={words} onChange={setWords} />
        <Choice label="State" value={state} onChange={setState} all="every state" options={states} />
        <Choice
          label="Track"
          value={track}
          onChange={setTrack}
          all="every track"
          options={cut.tracks.map(({ name }) => name)}
        />
        {volumes.length > 1 && (
          <Choice label="Volume" value={volume} onChange={setVolume} all="every volume" options={volumes} />
        )}
        <Text color="quiet">
          {shown.length === events.length
            ? count(events.length, 'event')
            : `${formatNumber(shown.length)} of ${count(events.length, 'event')}`}
        </Text>
        <Box flex="1" />
        {cut.tracks.length > 1 && <FlipTracks cut={cut} />}
        {chosen !== null && (
          <Button size="xs" variant="outline" onClick={() => open(chosen)}>
            Open event {events[chosen]?.number}
          </Button>
        )}
      </HStack>
      {shown.length === 0 ? (
        <Text color="quiet" py="4">
          No event fits the filter.
        </Text>
      ) : (
        <EventTable
          events={shown}
          chosen={chosen}
          onOpen={(position) => {
            open(position)
          }}
          onView={({ clipId, position }) => clipId !== null && viewer.open({ clipId, cutId: cut.id, position })}
        />
      )}
      <EventSheet
        cutId={cut.id}
        event={event}
        strip={detail.strips.find((entry) => entry.clipId === event?.clipId)?.strip ?? null}
        onClose={() => setOpened(null)}
      />
    </>
  )
}

function fits(
  event: CutEventRow,
  { words, state, track, volume }: { words: string; state: string; track: string; volume: string },
): boolean {
  if (state && event.state !== state) return false
  if (track && event.track !== track) return false
  if (volume && event.volumeLabel !== volume) return false
  if (!words.trim()) return true
  const text = [event.number, event.clipName, event.reel, event.path, event.originalName, event.note]
    .filter(Boolean)
    .join(' ')
    .toLowerCase()
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}
