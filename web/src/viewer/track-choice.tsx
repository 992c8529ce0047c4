import { Box, Text } from '@chakra-ui/react'
import type { ClipView, ViewSide } from '@ennick/contract'
import type { ReactElement } from 'react'
import { Section } from '../parts/sheet.tsx'
import { Tick } from '../parts/tick.tsx'

/** The channels that are heard while a side plays: its own, and after them those of the synced recording. */
export interface Heard {
  readonly tracks: readonly number[]
  readonly withRecording: boolean
  /** Whether that is just what the file itself has. */
  readonly isAsFile: boolean
}

/**
 * What is heard: what was ticked; else the recording as it was synced, and the side's own sound where that was kept or
 * where there is no recording.
 */
export function heardTracks(view: ClipView, side: ViewSide | null, chosen: readonly number[] | null): Heard {
  const own = side?.tracks.map((_, index) => index) ?? []
  const recording = view.recording?.presence === 'here' ? view.recording : null
  const synced = recording?.used.map((track) => own.length + track) ?? []
  const usual = recording ? [...(recording.isCameraHeard ? own : []), ...synced] : own
  const tracks = chosen?.filter((track) => track < own.length + (recording?.tracks.length ?? 0)) ?? usual
  const isAsFile = tracks.length === own.length && own.every((track) => tracks.includes(track))
  return { tracks, withRecording: tracks.some((track) => track >= own.length), isAsFile }
}

/** Every channel that can be heard, to be ticked. */
export function TrackChoice({
  view,
  side,
  heard,
  onHeard,
}: {
  view: ClipView
  side: ViewSide
  heard: Heard
  onHeard: (tracks: readonly number[]) => void
}): ReactElement | null {
  const { recording } = view
  if (side.tracks.length === 0 && !recording) return null
  const tick = (track: number, name: string, number: number): ReactElement => (
    <Tick
      key={track}
      label={name || `Track ${number}`}
      isOn={heard.tracks.includes(track)}
      onChange={(isOn) =>
        onHeard(isOn ? [...heard.tracks, track].sort((a, b) => a - b) : heard.tracks.filter((each) => each !== track))
      }
    />
  )
  return (
    <Section title="What is heard">
      {side.tracks.length > 0 && recording && <Text color="quiet">Of the {side.kind} itself</Text>}
      {side.tracks.map((name, index) => tick(index, name, index + 1))}
      {recording && (
        <Box mt={side.tracks.length ? '2' : '0'} data-testid="recording">
          <Text color="quiet">
            Of {recording.name}
            {recording.presence === 'here' ? ', as it was synced' : `, which is ${recording.presence}`}
          </Text>
          {recording.presence === 'here' &&
            recording.tracks.map((name, index) => tick(side.tracks.length + index, name, index + 1))}
        </Box>
      )}
    </Section>
  )
}
