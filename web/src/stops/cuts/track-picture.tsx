import { Box, chakra, HStack, Text } from '@chakra-ui/react'
import type { Cut, CutEventRow } from '@ennick/contract'
import { type ReactElement, useId } from 'react'
import { StateWord } from '../../parts/state-word.tsx'
import { frameLabel } from '../../parts/words.ts'

const width = 1180
const labelWidth = 34
const trackHeight = 34

/**
 * The cut on its record time, a row for each track: events on their original are plain, the others hatched and named
 * below.
 */
export function TrackPicture({
  cut,
  events,
  onOpen,
}: {
  cut: Cut
  events: readonly CutEventRow[]
  onOpen: (position: number) => void
}): ReactElement | null {
  const hatch = useId()
  if (events.length === 0) return null
  const start = Math.min(...events.map((event) => event.recordStartFrame))
  const end = Math.max(...events.map((event) => event.recordEndFrame))
  const x = (frame: number): number => labelWidth + ((frame - start) / Math.max(1, end - start)) * (width - labelWidth)
  const states = [...new Set(events.map((event) => event.state))].filter((state) => state !== 'on original')
  return (
    <Box mb="6" overflowX="auto">
      <chakra.svg
        viewBox={`0 0 ${width} ${cut.tracks.length * trackHeight + 20}`}
        width="100%"
        fill="ink"
        fontSize="12px"
        fontFamily="mono"
        role="group"
        aria-label="The cut on its record time"
      >
        <defs>
          <pattern id={hatch} width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <chakra.rect width="7" height="7" fill="page" />
            <chakra.rect width="2.5" height="7" fill="hatch" />
          </pattern>
        </defs>
        <text x={labelWidth} y={11}>
          {frameLabel(start, cut.rate, cut.dropFrame)}
        </text>
        <text x={width} y={11} textAnchor="end">
          {frameLabel(end, cut.rate, cut.dropFrame)}
        </text>
        {cut.tracks.map((track, index) => (
          <text key={track.name} x={0} y={20 + index * trackHeight + 20}>
            {track.name}
          </text>
        ))}
        {events.map((event) => {
          const row = cut.tracks.findIndex((track) => track.name === event.track)
          const isWell = event.state === 'on original'
          const left = x(event.recordStartFrame)
          const wide = Math.max(2, x(event.recordEndFrame) - left - 1.5)
          return (
            <chakra.g key={event.position} cursor="pointer" onClick={() => onOpen(event.position)}>
              <title>{`${event.number} ${event.clipName ?? ''}: ${event.state}`}</title>
              <chakra.rect
                x={left}
                y={20 + row * trackHeight}
                width={wide}
                height={trackHeight - 6}
                fill={isWell ? 'tide.muted' : `url(#${hatch})`}
                stroke={isWell ? 'tide.solid' : 'hatch'}
                strokeWidth="1"
              />
              {wide > 30 && (
                <chakra.text
                  x={left + 5}
                  y={20 + row * trackHeight + 18}
                  fontSize="11.5px"
                  stroke={isWell ? 'none' : 'page'}
                  strokeWidth={isWell ? 0 : 4}
                  paintOrder="stroke"
                >
                  {event.number}
                </chakra.text>
              )}
            </chakra.g>
          )
        })}
      </chakra.svg>
      <HStack gap="5" fontSize="0.9rem" mt="1" wrap="wrap">
        <Text color="quiet">plain: on original</Text>
        {states.length > 0 && <Text color="quiet">hatched:</Text>}
        {states.map((state) => (
          <HStack key={state} gap="2">
            <StateWord word={state} />
            <Text color="quiet" fontFamily="mono" fontSize="0.85rem">
              {events
                .filter((event) => event.state === state)
                .slice(0, 8)
                .map((event) => event.number)
                .join(', ')}
            </Text>
          </HStack>
        ))}
      </HStack>
    </Box>
  )
}
