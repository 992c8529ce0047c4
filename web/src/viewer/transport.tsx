import { Box, Button, Flex, HStack, Text } from '@chakra-ui/react'
import type { ClipView } from '@ennick/contract'
import { formatFrameCount, formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { nameOf } from './frames.ts'
import type { Playing } from './playing.ts'

/** The length of a clip as a line: where it stands, its in and out points, and the uses of it in cuts. */
export function Transport({
  view,
  frame,
  playing,
  mayPlay,
  onFrame,
  onPlay,
  onStop,
  onMark,
}: {
  view: ClipView
  frame: number
  playing: Playing | null
  mayPlay: boolean
  onFrame: (frame: number) => void
  onPlay: () => void
  onStop: () => void
  onMark: (which: 'inFrame' | 'outFrame') => void
}): ReactElement {
  const last = Math.max(0, view.frames - 1)
  const percent = (at: number): number => (100 * Math.max(0, Math.min(view.frames, at))) / Math.max(1, view.frames)
  const { inFrame, outFrame } = view.marks
  return (
    <Box px="4" pt="2" pb="3" borderTopWidth="1px" borderColor="rule">
      <Box position="relative" height="10px" mb="0.5" aria-hidden>
        {view.uses.map((use, index) => (
          <Box
            // biome-ignore lint/suspicious/noArrayIndexKey: two uses may be alike in everything
            key={index}
            position="absolute"
            top="3px"
            height="6px"
            bg="tide.solid"
            opacity="0.55"
            title={use.label}
            style={{
              left: `${percent(use.startFrame)}%`,
              width: `max(2px, ${percent(use.endFrame) - percent(use.startFrame)}%)`,
            }}
          />
        ))}
        {(inFrame !== null || outFrame !== null) && (
          <Box
            position="absolute"
            top="0"
            height="2px"
            bg="ink"
            style={{
              left: `${percent(inFrame ?? 0)}%`,
              width: `max(2px, ${percent(outFrame === null ? view.frames : outFrame + 1) - percent(inFrame ?? 0)}%)`,
            }}
          />
        )}
      </Box>
      <input
        type="range"
        aria-label="Frame"
        aria-valuetext={nameOf(view, frame)}
        min={0}
        max={last}
        value={Math.min(frame, last)}
        onChange={(event) => onFrame(Number(event.target.value))}
        style={{ width: '100%', display: 'block' }}
      />
      <Flex align="center" gap="3" mt="1" wrap="wrap">
        <Text fontFamily="mono" fontSize="1.25rem" fontVariantNumeric="tabular-nums" data-testid="timecode">
          {nameOf(view, frame)}
        </Text>
        <Text color="quiet" fontSize="0.85rem" fontVariantNumeric="tabular-nums" data-testid="frame-number">
          frame {formatNumber(frame)} of {formatFrameCount(view.frames, view.rate)}
        </Text>
        <Box flex="1" />
        <HStack gap="1">
          <Button size="xs" variant="ghost" onClick={() => onFrame(0)} title="Home">
            Head
          </Button>
          <Button size="xs" variant="ghost" onClick={() => onFrame(frame - 1)} disabled={frame <= 0} title="←">
            −1 frame
          </Button>
          {playing ? (
            <Button size="xs" onClick={onStop} title="K" minWidth="5rem">
              Stop
            </Button>
          ) : (
            <Button size="xs" onClick={onPlay} disabled={!mayPlay} title="L, or the space bar" minWidth="5rem">
              Play
            </Button>
          )}
          <Button size="xs" variant="ghost" onClick={() => onFrame(frame + 1)} disabled={frame >= last} title="→">
            +1 frame
          </Button>
          <Button size="xs" variant="ghost" onClick={() => onFrame(Math.floor(last / 2))} title="m">
            Middle
          </Button>
          <Button size="xs" variant="ghost" onClick={() => onFrame(last)} title="End">
            Tail
          </Button>
        </HStack>
        <HStack gap="1">
          <Button
            size="xs"
            variant="outline"
            onClick={() => onMark('inFrame')}
            title="i; again on the same frame clears it"
          >
            {inFrame === null ? 'Set in' : `In ${nameOf(view, inFrame)}`}
          </Button>
          <Button
            size="xs"
            variant="outline"
            onClick={() => onMark('outFrame')}
            title="o; again on the same frame clears it"
          >
            {outFrame === null ? 'Set out' : `Out ${nameOf(view, outFrame)}`}
          </Button>
        </HStack>
      </Flex>
    </Box>
  )
}
