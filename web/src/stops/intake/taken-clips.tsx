import { Box, Button, Flex, Text } from '@chakra-ui/react'
import type { VolumeClip } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactElement, useRef } from 'react'
import { bytes, count } from '../../parts/words.ts'

/** Which clips of a volume are taken: all, unless some are left. What is no clip always goes along. */
export function TakenClips({
  clips,
  left,
  onChange,
}: {
  clips: readonly VolumeClip[]
  left: ReadonlySet<string>
  onChange: (left: ReadonlySet<string>) => void
}): ReactElement {
  const scroll = useRef<HTMLDivElement>(null)
  const virtual = useVirtualizer({
    count: clips.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => 30,
    overscan: 8,
  })
  const fresh = clips.filter(({ isSafe }) => !isSafe)
  const toggle = (clipId: string): void => {
    const next = new Set(left)
    if (!next.delete(clipId)) next.add(clipId)
    onChange(next)
  }
  return (
    <Box borderWidth="1px" borderColor="rule" data-testid="taken-clips">
      <Flex px="3" py="1.5" gap="3" align="center" borderBottomWidth="1px" borderColor="rule">
        <Text fontWeight="semibold" flex="1">
          {formatNumber(clips.length - left.size)} of {count(clips.length, 'clip')} taken
          {left.size > 0 && `, ${formatNumber(left.size)} left`}
        </Text>
        <Button size="xs" variant="ghost" disabled={left.size === 0} onClick={() => onChange(new Set())}>
          All
        </Button>
        <Button
          size="xs"
          variant="ghost"
          disabled={left.size === clips.length}
          onClick={() => onChange(new Set(clips.map(({ clipId }) => clipId)))}
        >
          None
        </Button>
        {fresh.length > 0 && fresh.length < clips.length && (
          <Button
            size="xs"
            variant="ghost"
            onClick={() => onChange(new Set(clips.filter(({ isSafe }) => isSafe).map(({ clipId }) => clipId)))}
          >
            Only the {formatNumber(fresh.length)} on no other volume
          </Button>
        )}
      </Flex>
      <Box ref={scroll} maxHeight="14rem" overflowY="auto">
        <Box height={`${virtual.getTotalSize()}px`} position="relative">
          {virtual.getVirtualItems().map(({ index, start }) => {
            const clip = clips[index] as VolumeClip
            return (
              <Flex
                as="label"
                key={clip.clipId}
                position="absolute"
                top="0"
                width="100%"
                height="30px"
                transform={`translateY(${start}px)`}
                px="3"
                gap="3"
                align="center"
                cursor="pointer"
                color={left.has(clip.clipId) ? 'quiet' : 'ink'}
              >
                <input
                  type="checkbox"
                  checked={!left.has(clip.clipId)}
                  aria-label={`Take ${clip.name}`}
                  onChange={() => toggle(clip.clipId)}
                />
                <Text flex="1" truncate title={clip.path}>
                  {clip.name}
                </Text>
                <Text color="quiet" fontSize="0.85rem">
                  {clip.isSafe ? 'on another volume too' : ''}
                </Text>
                <Text fontFamily="mono" fontSize="0.85rem" width="6.5rem" textAlign="right">
                  {clip.startTimecode ?? ''}
                </Text>
                <Text fontSize="0.85rem" width="5rem" textAlign="right" fontVariantNumeric="tabular-nums">
                  {bytes(clip.bytes)}
                </Text>
              </Flex>
            )
          })}
        </Box>
      </Box>
    </Box>
  )
}
