import { Box, Button, CloseButton, Dialog, Flex, HStack, NativeSelect, Portal, Text } from '@chakra-ui/react'
import type { ClipView, ViewSide } from '@ennick/contract'
import { type ShownChoice, shownChoices } from '@ennick/core'
import { type KeyboardEvent, type ReactElement, useCallback, useEffect, useRef, useState } from 'react'
import { useChange, useRead } from '../data/queries.ts'
import { isTyping, useEscape } from '../parts/keys.ts'
import { Loading, Problem } from '../parts/notices.tsx'
import { Section } from '../parts/sheet.tsx'
import { useViewer, useViewerAddress, type ViewerAddress } from './address.ts'
import { Compare, chosenMode, compareKeys, compareModes, type Laid, laidAtFirst, zooms } from './compare.tsx'
import { nameOf } from './frames.ts'
import { driven, type Playing } from './playing.ts'
import { shownWords } from './shown-switch.tsx'
import { SideList } from './side-list.tsx'
import { type Pace, Stage } from './stage.tsx'
import { heardTracks, TrackChoice } from './track-choice.tsx'
import { Transport } from './transport.tsx'
import { ViewNotes } from './view-notes.tsx'
import { useWatch, type Watch, WatchBar } from './watch.tsx'

const absentMilliseconds = 2000

/** The viewer, over whatever page it was opened from. */
export function Viewer(): ReactElement {
  const address = useViewerAddress()
  const { close } = useViewer()
  const watch = useWatch(address)
  const clipId = watch?.event?.clipId ?? address.clipId
  const read = useRead('readView', clipId === null ? null : { params: { clipId } })
  const view = read.data
  useEscape(true, close)
  return (
    <Dialog.Root open onOpenChange={({ open }) => !open && close()} size="full" motionPreset="none">
      <Portal>
        <Dialog.Positioner>
          <Dialog.Content
            bg="paper"
            display="flex"
            flexDirection="column"
            height="100vh"
            data-testid="viewer"
            aria-label="Viewer"
          >
            {!view && (
              <Flex p="6" gap="4">
                <Box flex="1">
                  {read.isPending && clipId !== null && <Loading what="the clip" />}
                  {read.error && <Problem message={read.error.message} />}
                  {watch?.problem && <Problem message={watch.problem} />}
                </Box>
                <CloseButton size="sm" aria-label="Close the viewer" onClick={close} />
              </Flex>
            )}
            {view && <Shown key={view.clipId} view={view} address={address} watch={watch} />}
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  )
}

function Shown({
  view,
  address,
  watch,
}: {
  view: ClipView
  address: ViewerAddress
  watch: Watch | null
}): ReactElement {
  const { close } = useViewer()
  const last = Math.max(0, view.frames - 1)
  const [frame, setFrame] = useState(() => Math.min(last, watch?.event?.startFrame ?? address.frame ?? 0))
  const [chosenId, setChosenId] = useState(address.sideId)
  const [otherId, setOtherId] = useState(address.withId)
  const [playing, setPlaying] = useState<Playing | null>(null)
  const [tracks, setTracks] = useState<readonly number[] | null>(null)
  const [laid, setLaid] = useState<Laid>(laidAtFirst)
  const [paces, setPaces] = useState<ReadonlyMap<string, Pace>>(new Map())
  const note = useRef<HTMLInputElement>(null)
  const marks = useChange('setMarks')
  const apart = useChange('setClipShown')
  const sideOf = (id: string | null): ViewSide | null => view.sides.find((side) => side.id === id) ?? null
  const side = sideOf(chosenId) ?? sideOf(view.shown.sideId)
  const other = otherId === side?.id ? null : sideOf(otherId)
  const heard = heardTracks(view, side, tracks)
  const go = useCallback((to: number) => setFrame(Math.max(0, Math.min(last, to))), [last])
  const step = (to: number): void => {
    setPlaying(null)
    go(to)
  }
  const until = watch?.event?.endFrame ?? (view.marks.outFrame === null ? null : view.marks.outFrame + 1)
  const mayPlay = side?.presence === 'here' && view.kind !== 'still' && other === null
  const drive = (direction: 1 | -1): void => {
    if (!mayPlay) return
    const isPastEnd = direction === 1 && frame >= (until ?? view.frames) - 1
    if (isPastEnd) go(watch?.event?.startFrame ?? view.marks.inFrame ?? 0)
    setPlaying(driven(playing, direction, until))
  }
  // An event that is watched begins to play by itself, once it is here.
  const begins = watch?.isRunning === true && watch.event !== null
  const position = watch?.event?.position ?? null
  // biome-ignore lint/correctness/useExhaustiveDependencies: it begins anew with each event alone
  useEffect(() => {
    if (position === null) return
    setFrame(watch?.event?.startFrame ?? 0)
    setPlaying(begins && mayPlay ? driven(null, 1, watch?.event?.endFrame ?? null) : null)
    if (!begins || mayPlay) return
    // What cannot be shown is said for a moment, and the cut goes on.
    const timer = window.setTimeout(() => watch?.onEnd(), absentMilliseconds)
    return () => window.clearTimeout(timer)
  }, [position, begins])
  const mark = (which: 'inFrame' | 'outFrame'): void => {
    const { inFrame, outFrame } = view.marks
    const value = view.marks[which] === frame ? null : frame
    const next = { inFrame, outFrame, [which]: value }
    // A point beyond the other one takes the other away.
    if (next.inFrame !== null && next.outFrame !== null && next.inFrame > next.outFrame)
      next[which === 'inFrame' ? 'outFrame' : 'inFrame'] = null
    marks.mutate({ params: { clipId: view.clipId }, body: next })
  }
  const end = useCallback(() => {
    setPlaying(null)
    watch?.onEnd()
  }, [watch])
  const sideId = side?.id ?? ''
  const pace = useCallback((value: Pace) => setPaces((known) => new Map(known).set(sideId, value)), [sideId])
  const compareNext = (): void => {
    const next = view.sides.find((each) => each.id !== side?.id && each.presence === 'here' && each.raster !== '')
    setPlaying(null)
    setOtherId(other ? null : (next?.id ?? null))
  }
  const second = Math.round(view.rate.numerator / view.rate.denominator)
  const keys: Record<string, () => void> = {
    ' ': () => (playing ? setPlaying(null) : drive(1)),
    l: () => drive(1),
    k: () => setPlaying(null),
    j: () => drive(-1),
    ArrowLeft: () => step(frame - 1),
    ArrowRight: () => step(frame + 1),
    'Shift ArrowLeft': () => step(frame - second),
    'Shift ArrowRight': () => step(frame + second),
    Home: () => step(0),
    End: () => step(last),
    m: () => step(Math.floor(last / 2)),
    i: () => mark('inFrame'),
    o: () => mark('outFrame'),
    n: () => note.current?.focus(),
    c: compareNext,
    ...Object.fromEntries(view.sides.map((each, index) => [String(index + 1), () => setChosenId(each.id)])),
    ...(other
      ? {
          ...Object.fromEntries(compareModes.map((mode) => [compareKeys[mode], () => setLaid(chosenMode(laid, mode))])),
          z: () => setLaid({ ...laid, zoom: zooms[(zooms.indexOf(laid.zoom as 1) + 1) % zooms.length] ?? 1 }),
        }
      : {}),
    ...(watch ? { '.': () => watch.go(1), ',': () => watch.go(-1) } : {}),
  }
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    // A slider’s own arrow keys do the same as the viewer’s; a field keeps all of its keys.
    const isSlider = event.target instanceof HTMLInputElement && event.target.type === 'range'
    if (isTyping(event.target) && !isSlider) return
    if (event.key === ' ' && event.target instanceof HTMLButtonElement) return
    const action = keys[event.shiftKey && event.key.startsWith('Arrow') ? `Shift ${event.key}` : event.key]
    if (!action) return
    event.preventDefault()
    action()
  }
  const body = useRef<HTMLDivElement>(null)
  useEffect(() => body.current?.focus(), [])
  return (
    <Flex ref={body} tabIndex={-1} direction="column" flex="1" minHeight="0" outline="none" onKeyDown={onKeyDown}>
      <Flex align="center" gap="4" px="4" py="2" borderBottomWidth="1px" borderColor="rule">
        <Dialog.Title fontSize="1.1rem" fontWeight="semibold">
          {view.title}
        </Dialog.Title>
        <Text color="quiet" fontSize="0.9rem" data-testid="shown-reason">
          {side
            ? chosenId === side.id && side.id !== view.shown.sideId
              ? `the ${side.kind} is shown, chosen here`
              : `the ${side.kind} is shown: ${view.shown.reason}`
            : `nothing is shown: ${view.shown.reason}`}
        </Text>
        <Box flex="1" />
        <HStack gap="1">
          <Text fontSize="0.85rem">This clip</Text>
          <NativeSelect.Root size="xs" width="13rem">
            <NativeSelect.Field
              aria-label="What is shown of this clip"
              value={view.shown.isOwn ? view.shown.choice : ''}
              onChange={(event) => {
                setChosenId(null)
                // Its keys are the picture's again: an arrow would choose once more instead of stepping.
                body.current?.focus()
                apart.mutate({
                  params: { clipId: view.clipId },
                  body: { shown: (event.target.value || null) as ShownChoice | null },
                })
              }}
            >
              <option value="">as all the others</option>
              {shownChoices.map((each) => (
                <option key={each} value={each}>
                  apart: {shownWords[each].word}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          <CloseButton size="sm" aria-label="Close the viewer" onClick={close} />
        </HStack>
      </Flex>
      {watch && <WatchBar watch={watch} />}
      <Flex flex="1" minHeight="0">
        <Flex direction="column" flex="1" minWidth="0">
          {side && other ? (
            <Compare
              key={`${side.id} ${other.id}`}
              view={view}
              side={side}
              other={other}
              frame={frame}
              laid={laid}
              onLaid={setLaid}
            />
          ) : side ? (
            <Stage
              view={view}
              side={side}
              frame={frame}
              playing={playing}
              heard={heard}
              onFrame={go}
              onEnd={end}
              onPace={pace}
            />
          ) : (
            <Flex flex="1" bg="#191817" align="center" justify="center" data-testid="stage">
              <Text color="#efe8da">Nothing to show: {view.shown.reason}.</Text>
            </Flex>
          )}
          <Transport
            view={view}
            frame={frame}
            playing={playing}
            mayPlay={mayPlay}
            onFrame={step}
            onPlay={() => drive(1)}
            onStop={() => setPlaying(null)}
            onMark={mark}
          />
          {marks.error && <Problem message={marks.error.message} />}
        </Flex>
        <Box width="21rem" flexShrink="0" overflowY="auto" borderLeftWidth="1px" borderColor="rule" px="4" py="3">
          <Section title="Files of this clip">
            <SideList
              view={view}
              side={side}
              other={other}
              paces={paces}
              onSide={setChosenId}
              onCompare={(id) => {
                setPlaying(null)
                setOtherId(id)
              }}
            />
          </Section>
          {side && (
            <TrackChoice
              view={view}
              side={side}
              heard={heard}
              onHeard={(next) => {
                setPlaying(null)
                setTracks(next)
              }}
            />
          )}
          <Section title="Notes">
            <ViewNotes view={view} side={side} frame={frame} field={note} onFrame={step} />
          </Section>
          {view.uses.length > 0 && (
            <Section title="Used in cuts">
              {view.uses.map((use, index) => (
                <Button
                  // biome-ignore lint/suspicious/noArrayIndexKey: two uses may be alike in everything
                  key={index}
                  size="xs"
                  variant="ghost"
                  display="block"
                  px="0"
                  onClick={() => step(use.startFrame)}
                >
                  {use.label}, from {nameOf(view, Math.max(0, use.startFrame))}
                  {use.note ? `: ${use.note}` : ''}
                </Button>
              ))}
            </Section>
          )}
          <Text color="quiet" fontSize="0.8rem">
            Space, J K L play and stop · arrows step a frame, with Shift a second · i o points · c compare ·{' '}
            {compareModes.map((mode) => compareKeys[mode]).join(' ')} how · z zoom · n note · numbers choose a file
          </Text>
        </Box>
      </Flex>
    </Flex>
  )
}
