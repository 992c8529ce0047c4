import { Box, Text } from '@chakra-ui/react'
import type { ClipView, ViewSide } from '@ennick/contract'
import { type ReactElement, useCallback, useEffect, useRef, useState } from 'react'
import { addressOf } from '../data/api.ts'
import { ExactFrame } from './exact-frame.tsx'
import { FileStrip } from './file-strip.tsx'
import { clipFrameOf, frameOf, nameOf, pictureAddress, whichFile, whyNoPicture } from './frames.ts'
import { LevelMeter } from './level-meter.tsx'
import type { Playing } from './playing.ts'
import { notPlayedHere, playRendered } from './rendered.ts'
import type { Heard } from './track-choice.tsx'

/** How playing went: frames that were shown, of those that should have been. */
export interface Pace {
  readonly framesPerSecond: number
  readonly wantedPerSecond: number
}

/** One side of a clip: the exact frame while it stands, the moving picture while it plays. */
export function Stage(props: {
  view: ClipView
  side: ViewSide
  frame: number
  playing: Playing | null
  heard: Heard
  onFrame: (frame: number) => void
  onEnd: () => void
  onPace: (pace: Pace) => void
}): ReactElement {
  const { view, side, frame, playing, onFrame, onEnd } = props
  const isMoving = playing !== null && playing.direction === 1
  const { word, facts } = whichFile(side)
  const at = frameOf(view, side, frame)
  const isPicture = side.raster !== ''
  const isAsItIs = side.playsAsItIs && props.heard.isAsFile
  const backwards = useBackwards(view, playing, frame, onFrame, onEnd)
  const absent = whyNoPicture(view, side, frame)
  return (
    <Box flex="1" minHeight="0" position="relative" bg="#191817" overflow="hidden" data-testid="stage">
      {isMoving ? (
        <Moving key={`${side.id} ${playing.id}`} {...props} playing={playing} />
      ) : isPicture ? (
        // Of another file nothing stays: its picture would stand under this one’s name.
        <ExactFrame
          key={side.id}
          address={side.presence === 'here' ? pictureAddress(side, at, 'screen') : null}
          what={`${word}, ${nameOf(view, frame)}`}
          absent={absent}
          onShown={backwards}
        />
      ) : (
        <Box position="absolute" inset="0" display="flex" alignItems="center" justifyContent="center">
          <Text color="#d8d2c6">{side.presence === 'here' ? 'Sound alone. Play it with L.' : absent}</Text>
        </Box>
      )}
      <FileStrip>
        <Text as="span" fontWeight="bold">
          {word}
        </Text>{' '}
        · {facts}
        {isMoving && !isAsItIs && isPicture && ' · rendered for this screen, no wider than 960 pixels'}
        {isMoving && isAsItIs && ' · plays as it is'}
        {side.hasViewingLut && ' · seen through the viewing LUT'}
      </FileStrip>
    </Box>
  )
}

/** Steps back one frame after another, no faster than the clip's rate and no faster than frames can be read. */
function useBackwards(
  view: ClipView,
  playing: Playing | null,
  frame: number,
  onFrame: (frame: number) => void,
  onEnd: () => void,
): () => void {
  const last = useRef(0)
  const isBack = playing?.direction === -1
  const wait = (1000 * view.rate.denominator) / (view.rate.numerator * (playing?.speed ?? 1))
  const step = useCallback(() => {
    if (frame <= 0) onEnd()
    else {
      last.current = performance.now()
      onFrame(frame - 1)
    }
  }, [frame, onFrame, onEnd])
  const [arrived, setArrived] = useState(0)
  // biome-ignore lint/correctness/useExhaustiveDependencies: a step follows on the frame before being shown, alone
  useEffect(() => {
    if (!isBack) return
    const timer = window.setTimeout(step, Math.max(0, wait - (performance.now() - last.current)))
    return () => window.clearTimeout(timer)
  }, [isBack, arrived])
  return useCallback(() => setArrived((count) => count + 1), [])
}

/** The moving picture of a side, and the frame that is on. */
function Moving({
  view,
  side,
  frame,
  playing,
  heard,
  onFrame,
  onEnd,
  onPace,
}: Parameters<typeof Stage>[0] & { playing: Playing }): ReactElement {
  const video = useRef<HTMLVideoElement>(null)
  const [first] = useState(() => Math.max(0, frameOf(view, side, frame)))
  const [failure, setFailure] = useState<string | null>(null)
  // A file that a browser will not play after all is rendered.
  const [streams, setStreams] = useState(side.playsAsItIs && heard.isAsFile)
  const address = streams
    ? addressOf('streamSide', { clipId: view.clipId, sideId: side.id })
    : addressOf(
        'playSide',
        { clipId: view.clipId, sideId: side.id },
        {
          from: first,
          ...(playing.until === null ? {} : { frames: Math.max(1, frameOf(view, side, playing.until) - first) }),
          tracks: heard.tracks.join(','),
          ...(heard.withRecording ? { recording: 'yes' } : {}),
        },
      )
  const perSecond = side.rate.numerator / side.rate.denominator
  // What is known of the clip may be read again while it plays: the same stretch goes on.
  const told = useRef({ onFrame, onEnd, onPace, view, side, playing })
  told.current = { onFrame, onEnd, onPace, view, side, playing }
  useEffect(() => {
    const player = video.current
    if (!player) return
    const { playing, side } = told.current
    if (streams) {
      player.src = address
      player.currentTime = (first + 0.25) / perSecond
    }
    const endFeeding = streams ? null : playRendered(player, address, setFailure)
    player.playbackRate = playing.speed
    let handle = 0
    let shown = 0
    let began = 0
    const tell = (seconds: number): void => {
      const at = (streams ? 0 : first) + Math.round(seconds * perSecond)
      const onClip = clipFrameOf(told.current.view, side, at)
      if (playing.until !== null && onClip >= playing.until) {
        told.current.onFrame(playing.until - 1)
        told.current.onEnd()
      } else told.current.onFrame(Math.max(0, onClip))
      shown++
      began ||= performance.now()
      const elapsed = (performance.now() - began) / 1000
      if (elapsed > 0.5)
        told.current.onPace({
          framesPerSecond: (shown - 1) / elapsed,
          wantedPerSecond: perSecond * playing.speed,
        })
    }
    const isPicture = side.raster !== ''
    const next = (): void => {
      if (isPicture)
        handle = player.requestVideoFrameCallback((_now, { mediaTime }) => {
          tell(mediaTime)
          next()
        })
      else
        handle = requestAnimationFrame(() => {
          if (!player.paused) tell(Math.floor(player.currentTime * perSecond) / perSecond)
          next()
        })
    }
    next()
    player.play().catch((error: Error) => {
      if (error.name !== 'AbortError' && !player.error) setFailure(error.message)
    })
    return () => {
      if (isPicture) player.cancelVideoFrameCallback(handle)
      else cancelAnimationFrame(handle)
      // Nobody looks any more: the server's encoder ends with the connection.
      endFeeding?.()
      player.removeAttribute('src')
      player.load()
    }
  }, [streams, address, first, perSecond])
  return (
    <>
      {/* biome-ignore lint/a11y/useMediaCaption: camera rushes have no captions */}
      <video
        ref={video}
        data-testid="moving"
        style={{ width: '100%', height: '100%', objectFit: 'contain', display: 'block' }}
        onEnded={() => told.current.onEnd()}
        onError={() => {
          if (streams) setStreams(false)
          else setFailure(notPlayedHere)
        }}
      />
      {heard.tracks.length > 0 && <LevelMeter media={video} />}
      {failure !== null && (
        <Box position="absolute" inset="0" display="flex" alignItems="center" justifyContent="center" p="6">
          <Text color="#efe8da" role="alert">
            {failure}
          </Text>
        </Box>
      )}
    </>
  )
}
