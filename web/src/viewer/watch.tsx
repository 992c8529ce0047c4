import { Button, Flex, Text } from '@chakra-ui/react'
import type { CutWatch } from '@ennick/contract'
import { type ReactElement, useCallback, useMemo, useState } from 'react'
import { useRead } from '../data/queries.ts'
import { StateWord } from '../parts/state-word.tsx'
import { useViewer, type ViewerAddress } from './address.ts'

type WatchedEvent = CutWatch['events'][number]

/** A cut that is watched, event by event. */
export interface Watch {
  readonly name: string
  readonly event: WatchedEvent | null
  readonly number: number
  readonly count: number
  readonly without: number
  readonly isRunning: boolean
  readonly problem: string | null
  go(by: number): void
  setRunning(isRunning: boolean): void
  /** The event that is on has come to its end: the next one follows while the cut runs. */
  onEnd(): void
}

/** The cut of an address, and the event that is on; null when no cut is watched. */
export function useWatch(address: ViewerAddress): Watch | null {
  const { open } = useViewer()
  const read = useRead('readCutWatch', address.cutId === null ? null : { params: { cutId: address.cutId } })
  const [isRunning, setRunning] = useState(false)
  const events = read.data?.events
  // An event that cannot be watched, of sound or on no clip, is none; without one the cut begins with its first.
  const at = address.position === null ? 0 : (events?.findIndex(({ position }) => position === address.position) ?? 0)
  const event = events?.[at] ?? null
  const go = useCallback(
    (by: number) => {
      const next = events?.[at + by]
      if (next) open({ clipId: next.clipId, cutId: address.cutId, position: next.position })
      else setRunning(false)
    },
    [events, at, open, address.cutId],
  )
  return useMemo(() => {
    if (address.cutId === null) return null
    const isEmpty = events?.length === 0 && address.clipId === null
    return {
      ...{ name: read.data?.name ?? '', event, number: at + 1, count: events?.length ?? 0 },
      ...{ without: read.data?.without ?? 0, isRunning, go, setRunning },
      problem:
        read.error?.message ?? (isEmpty ? 'No picture of this cut lands on a clip: there is nothing to watch.' : null),
      onEnd: () => {
        if (isRunning) go(1)
      },
    }
  }, [address.cutId, address.clipId, read.data, read.error, events, event, at, isRunning, go])
}

export function WatchBar({ watch }: { watch: Watch }): ReactElement {
  const { event } = watch
  return (
    <Flex
      align="center"
      gap="3"
      px="4"
      py="1.5"
      bg="bg.subtle"
      borderBottomWidth="1px"
      borderColor="rule"
      data-testid="watch"
    >
      <Text fontWeight="semibold">{watch.name}</Text>
      {event && (
        <>
          <Text fontVariantNumeric="tabular-nums">
            Event {event.number} on {event.track}, {watch.number} of {watch.count}
          </Text>
          <Text fontFamily="mono" fontSize="0.9rem">
            {event.record}
          </Text>
          <StateWord word={event.state} />
        </>
      )}
      <Flex flex="1" />
      {watch.without > 0 && (
        <Text fontSize="0.85rem">
          {watch.without === 1 ? '1 picture lands' : `${watch.without} pictures land`} on no clip and cannot be watched
        </Text>
      )}
      <Button size="xs" variant="ghost" onClick={() => watch.go(-1)} disabled={watch.number <= 1} title=",">
        Event before
      </Button>
      <Button size="xs" onClick={() => watch.setRunning(!watch.isRunning)}>
        {watch.isRunning ? 'Stop the cut' : 'Play the cut from here'}
      </Button>
      <Button size="xs" variant="ghost" onClick={() => watch.go(1)} disabled={watch.number >= watch.count} title=".">
        Next event
      </Button>
    </Flex>
  )
}
