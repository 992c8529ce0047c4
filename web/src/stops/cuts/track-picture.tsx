import { Box, Button, chakra, HStack, Text } from '@chakra-ui/react'
import type { Cut, CutEventRow } from '@ennick/contract'
import { formatNumber, nominalFramesPerSecond } from '@ennick/core'
import { type PointerEvent, type ReactElement, useEffect, useId, useMemo, useRef, useState } from 'react'
import { StateWord } from '../../parts/state-word.tsx'
import { frameLabel } from '../../parts/words.ts'
import { type Block, blocksOf, panned, rulerStep, type Window, zoomed } from './track-scale.ts'

const width = 1180
const labelWidth = 34
const trackHeight = 34
const rulerHeight = 22
const room = width - labelWidth

interface Props {
  readonly cut: Cut
  readonly events: readonly CutEventRow[]
  /** The event that is chosen, here or in the table. */
  readonly chosen: number | null
  readonly onChoose: (position: number) => void
  readonly onOpen: (position: number) => void
}

/**
 * The cut on its record time, a row for each track, the uppermost layer on top: events on their original are plain, the
 * others hatched and named below. It is zoomed and moved; what is chosen here is chosen in the table too.
 */
export function TrackPicture({ cut, events, chosen, onChoose, onOpen }: Props): ReactElement | null {
  const whole = useMemo(() => wholeOf(events), [events])
  const [window, setWindow] = useState<Window>(whole)
  const [playhead, setPlayhead] = useState<number | null>(null)
  useEffect(() => setWindow(whole), [whole])
  const chosenEvent = chosen === null ? null : (events[chosen] ?? null)
  // What is chosen in the table comes in sight, and the playhead goes to where it begins.
  useEffect(() => {
    if (!chosenEvent) return
    const { recordStartFrame: from, recordEndFrame: to } = chosenEvent
    setPlayhead(from)
    setWindow((now) => (to > now.from && from < now.to ? now : panned(now, whole, (from + to - now.from - now.to) / 2)))
  }, [chosenEvent, whole])
  const frame = useRef<HTMLDivElement>(null)
  useWheel(frame, (event, share) => {
    const span = window.to - window.from
    if (event.ctrlKey || event.metaKey)
      setWindow(zoomed(window, whole, event.deltaY > 0 ? 1.25 : 0.8, window.from + share * span))
    else if (Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey)
      setWindow(panned(window, whole, ((event.deltaX || event.deltaY) / room) * span))
    else return false
    return true
  })
  if (events.length === 0) return null
  const span = window.to - window.from
  const middle =
    playhead !== null && playhead >= window.from && playhead <= window.to ? playhead : window.from + span / 2
  const isWhole = span >= whole.to - whole.from
  return (
    <Box mb="5">
      <HStack gap="2" mb="1" wrap="wrap">
        <Button size="xs" variant="outline" onClick={() => setWindow(zoomed(window, whole, 0.5, middle))}>
          Zoom in
        </Button>
        <Button
          size="xs"
          variant="outline"
          disabled={isWhole}
          onClick={() => setWindow(zoomed(window, whole, 2, middle))}
        >
          Zoom out
        </Button>
        <Button size="xs" variant="outline" disabled={isWhole} onClick={() => setWindow(whole)}>
          Whole cut
        </Button>
        <Button
          size="xs"
          variant="ghost"
          disabled={window.from <= whole.from}
          onClick={() => setWindow(panned(window, whole, -span / 2))}
        >
          Earlier
        </Button>
        <Button
          size="xs"
          variant="ghost"
          disabled={window.to >= whole.to}
          onClick={() => setWindow(panned(window, whole, span / 2))}
        >
          Later
        </Button>
        <Text color="quiet" fontSize="0.9rem">
          {playhead === null ? (
            'Ctrl and wheel zoom, drag moves'
          ) : (
            <>
              Playhead at{' '}
              <Box as="span" fontFamily="mono" data-testid="playhead">
                {frameLabel(playhead, cut.rate, cut.dropFrame)}
              </Box>
            </>
          )}
        </Text>
      </HStack>
      <Box ref={frame} overflow="hidden">
        <Tracks
          {...{ cut, events, chosen, window, playhead, onChoose, onOpen }}
          onPlayhead={setPlayhead}
          onPan={(frames) => setWindow((now) => panned(now, whole, frames))}
        />
      </Box>
      <Legend events={events} />
    </Box>
  )
}

function Tracks({
  cut,
  events,
  chosen,
  window,
  playhead,
  onChoose,
  onOpen,
  onPlayhead,
  onPan,
}: Props & {
  window: Window
  playhead: number | null
  onPlayhead: (frame: number) => void
  onPan: (frames: number) => void
}): ReactElement {
  const hatch = useId()
  const clip = useId()
  const drag = useRef<{ at: number; moved: boolean } | null>(null)
  const lanes = useMemo(() => lanesOf(cut, events), [cut, events])
  const perFrame = room / Math.max(1, window.to - window.from)
  const x = (frame: number): number => labelWidth + (frame - window.from) * perFrame
  const step = rulerStep(window, nominalFramesPerSecond(cut.rate), 9)
  const marks: number[] = []
  for (let frame = Math.ceil(window.from / step) * step; frame <= window.to; frame += step) marks.push(frame)
  const height = lanes.length * trackHeight + rulerHeight
  const frameAt = (event: PointerEvent<SVGElement>): number => {
    const box = (event.currentTarget.ownerSVGElement ?? event.currentTarget).getBoundingClientRect()
    return Math.round(window.from + ((event.clientX - box.left) * (width / box.width) - labelWidth) / perFrame)
  }
  return (
    <chakra.svg
      viewBox={`0 0 ${width} ${height}`}
      width="100%"
      fill="ink"
      fontSize="12px"
      fontFamily="mono"
      role="group"
      aria-label="The cut on its record time"
      touchAction="none"
      onPointerDown={(event) => {
        drag.current = { at: event.clientX, moved: false }
      }}
      onPointerMove={(event) => {
        const held = drag.current
        if (!held || event.buttons === 0) return
        const by = event.clientX - held.at
        if (!held.moved && Math.abs(by) < 4) return
        onPan((-by * (width / event.currentTarget.getBoundingClientRect().width)) / perFrame)
        drag.current = { at: event.clientX, moved: true }
      }}
    >
      <defs>
        <pattern id={hatch} width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <chakra.rect width="7" height="7" fill="page" />
          <chakra.rect width="2.5" height="7" fill="hatch" />
        </pattern>
        <clipPath id={clip}>
          <rect x={labelWidth} y="0" width={room} height={height} />
        </clipPath>
      </defs>
      {lanes.map(({ name }, index) => (
        <text key={name} x={0} y={rulerHeight + index * trackHeight + 20}>
          {name}
        </text>
      ))}
      <g clipPath={`url(#${clip})`}>
        <chakra.rect
          x={labelWidth}
          y="0"
          width={room}
          height={rulerHeight - 4}
          fill="transparent"
          cursor="pointer"
          onPointerUp={(event) => onPlayhead(frameAt(event))}
        />
        {marks.map((frame) => (
          <g key={frame} pointerEvents="none">
            <chakra.line x1={x(frame)} x2={x(frame)} y1="0" y2={height} stroke="rule" strokeWidth="1" />
            <text x={x(frame) + 4} y={12} fontSize="11px">
              {frameLabel(frame, cut.rate, cut.dropFrame)}
            </text>
          </g>
        ))}
        {lanes.map((lane, index) =>
          blocksOf(lane.items, window, 3 / perFrame).map((block) => (
            <BlockOfTrack
              key={block.index}
              block={block}
              event={events[block.index] as CutEventRow}
              left={x(block.from)}
              top={rulerHeight + index * trackHeight}
              perFrame={perFrame}
              hatch={hatch}
              isChosen={chosen !== null && chosen >= block.index && chosen < block.index + block.count}
              onChoose={(position) => !drag.current?.moved && onChoose(position)}
              onOpen={onOpen}
            />
          )),
        )}
        {playhead !== null && (
          <chakra.line
            x1={x(playhead)}
            x2={x(playhead)}
            y1="0"
            y2={height}
            stroke="ink"
            strokeWidth="1.5"
            pointerEvents="none"
          />
        )}
      </g>
    </chakra.svg>
  )
}

const colour = (name: string): string => `var(--chakra-colors-${name})`

/** One of very many: plain elements, whose colours come from the theme by name. */
function BlockOfTrack({
  block,
  event,
  left,
  top,
  perFrame,
  hatch,
  isChosen,
  onChoose,
  onOpen,
}: {
  block: Block
  event: CutEventRow
  left: number
  top: number
  perFrame: number
  hatch: string
  isChosen: boolean
  onChoose: (position: number) => void
  onOpen: (position: number) => void
}): ReactElement {
  const wide = Math.max(2, (block.to - block.from) * perFrame - 1.5)
  const height = trackHeight - 6
  const isOne = block.count === 1
  const label = wide > 150 ? `${event.number} ${event.clipName ?? ''}`.slice(0, wide / 8) : event.number
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the table of events is the way by keys
    <g
      cursor="pointer"
      data-event={event.number}
      onPointerUp={() => onChoose(event.position)}
      onDoubleClick={() => onOpen(event.position)}
    >
      <title>
        {isOne
          ? `${event.number} ${event.clipName ?? ''}: ${event.state}${event.note ? `, ${event.note}` : ''}`
          : `${formatNumber(block.count)} events from ${event.number}: zoom in to tell them apart`}
      </title>
      <rect
        x={left}
        y={top}
        width={wide}
        height={height}
        fill={block.isWell ? colour('tide-muted') : `url(#${hatch})`}
        stroke={isChosen ? colour('ink') : colour(block.isWell ? 'tide-solid' : 'hatch')}
        strokeWidth={isChosen ? 3 : 1}
        strokeDasharray={event.isOff && isOne ? '4 3' : undefined}
      />
      {isOne && event.transitionFrames > 0 && wide > 12 && (
        <line
          x1={left}
          y1={top + height}
          x2={Math.min(left + wide, left + event.transitionFrames * perFrame)}
          y2={top}
          stroke={colour('ink')}
          strokeWidth="1.2"
        />
      )}
      {isOne && event.fadeFrames > 0 && (
        <line
          x1={left + wide}
          y1={top}
          x2={left + wide + event.fadeFrames * perFrame}
          y2={top + height}
          stroke={colour('ink')}
          strokeWidth="1.2"
        />
      )}
      {isOne && wide > 30 && (
        <text
          x={Math.max(left, labelWidth) + 5}
          y={top + 18}
          fontSize="11.5px"
          stroke={block.isWell ? 'none' : colour('page')}
          strokeWidth={block.isWell ? 0 : 4}
          paintOrder="stroke"
        >
          {label}
        </text>
      )}
    </g>
  )
}

interface TrackLane {
  readonly name: string
  readonly items: { readonly from: number; readonly to: number; readonly isWell: boolean; readonly index: number }[]
}

/** Pictures from the uppermost layer down, then sound from the first channel down. */
function lanesOf(cut: Cut, events: readonly CutEventRow[]): TrackLane[] {
  const pictures = cut.tracks.filter(({ kind }) => kind === 'picture').reverse()
  const order = [...pictures, ...cut.tracks.filter(({ kind }) => kind === 'sound')]
  const lanes = new Map(order.map(({ name }): [string, TrackLane] => [name, { name, items: [] }]))
  events.forEach((event, index) => {
    lanes.get(event.track)?.items.push({
      ...{ index, from: event.recordStartFrame, to: event.recordEndFrame, isWell: event.state === 'on original' },
    })
  })
  for (const lane of lanes.values()) lane.items.sort((a, b) => a.from - b.from)
  return [...lanes.values()]
}

function wholeOf(events: readonly CutEventRow[]): Window {
  let [from, to] = [Number.POSITIVE_INFINITY, 0]
  for (const event of events) {
    from = Math.min(from, event.recordStartFrame)
    to = Math.max(to, event.recordEndFrame + event.fadeFrames)
  }
  return to > from ? { from, to } : { from: 0, to: 1 }
}

function Legend({ events }: { events: readonly CutEventRow[] }): ReactElement {
  const byState = useMemo(() => {
    const states = new Map<string, string[]>()
    for (const { state, number } of events)
      if (state !== 'on original') states.set(state, [...(states.get(state) ?? []), number].slice(0, 8))
    return [...states]
  }, [events])
  return (
    <HStack gap="5" fontSize="0.9rem" mt="1" wrap="wrap">
      <Text color="quiet">plain: on original</Text>
      {byState.length > 0 && <Text color="quiet">hatched:</Text>}
      {byState.map(([state, numbers]) => (
        <HStack key={state} gap="2">
          <StateWord word={state} />
          <Text color="quiet" fontFamily="mono" fontSize="0.85rem">
            {numbers.join(', ')}
          </Text>
        </HStack>
      ))}
    </HStack>
  )
}

/** Wheels of a page are passive where React listens: what turns the picture must not turn the page. */
function useWheel(
  frame: React.RefObject<HTMLDivElement | null>,
  onWheel: (event: WheelEvent, share: number) => boolean,
): void {
  const current = useRef(onWheel)
  current.current = onWheel
  useEffect(() => {
    const box = frame.current
    if (!box) return
    const listen = (event: WheelEvent): void => {
      const { left, width: wide } = box.getBoundingClientRect()
      const shareOfAll = ((event.clientX - left) / wide) * width - labelWidth
      if (current.current(event, Math.min(1, Math.max(0, shareOfAll / room)))) event.preventDefault()
    }
    box.addEventListener('wheel', listen, { passive: false })
    return () => box.removeEventListener('wheel', listen)
  }, [frame])
}
