import { Box, Flex, Text } from '@chakra-ui/react'
import type { ClipView, ViewSide } from '@ennick/contract'
import { type CSSProperties, type PointerEvent, type ReactElement, type ReactNode, useEffect, useState } from 'react'
import { Slider } from '../parts/slider.tsx'
import { Choice, times } from './choice.tsx'
import { useLoadedPicture } from './exact-frame.tsx'
import { FileStrip } from './file-strip.tsx'
import { frameOf, nameOf, pictureAddress, whichFile, whyNoPicture } from './frames.ts'
import { useMeasured } from './measured.ts'

export const compareModes = ['wipe', 'flip', 'side by side', 'difference'] as const
type CompareMode = (typeof compareModes)[number]
export const compareKeys: Readonly<Record<CompareMode, string>> = {
  wipe: 'w',
  flip: 'f',
  'side by side': 'b',
  difference: 'd',
}

/** How two pictures are laid against each other. */
export interface Laid {
  readonly mode: CompareMode
  /** Which of the two is up while they are flipped. */
  readonly isFlipped: boolean
  readonly zoom: number
  /** Stretches what is nearly alike apart, on both. */
  readonly contrast: number
  readonly gain: number
}

export const laidAtFirst: Laid = { mode: 'wipe', isFlipped: false, zoom: 1, contrast: 1, gain: 8 }
/** A way of comparing that is chosen: flip, chosen again, turns the other picture up. */
export const chosenMode = (laid: Laid, mode: CompareMode): Laid => ({
  ...laid,
  mode,
  isFlipped: mode === 'flip' && laid.mode === 'flip' && !laid.isFlipped,
})
export const zooms = [1, 2, 4, 8, 16] as const

/** Two sides of a clip at the same timecode: under one line, one after the other, beside each other, or subtracted. */
export function Compare({
  view,
  side,
  other,
  frame,
  laid,
  onLaid,
}: {
  view: ClipView
  side: ViewSide
  other: ViewSide
  frame: number
  laid: Laid
  onLaid: (laid: Laid) => void
}): ReactElement {
  const size = laid.zoom > 1 ? 'full' : 'screen'
  const addressOfSide = (of: ViewSide): string | null =>
    of.presence === 'here' ? pictureAddress(of, frameOf(view, of, frame), size) : null
  const { pair, isBroken } = useBoth(addressOfSide(side), addressOfSide(other))
  const without = [side, other].find((of) => addressOfSide(of) === null)
  const [line, setLine] = useState(50)
  const [pan, setPan] = useState({ x: 0, y: 0 })
  const measured = useMeasured(pair?.one ?? null, pair?.two ?? null)
  // However the zoom was changed, the pictures cover their place.
  const most = 50 * (laid.zoom - 1)
  const held = (offset: number): number => Math.max(-most, Math.min(most, offset))
  const look: CSSProperties = {
    position: 'absolute',
    inset: 0,
    width: '100%',
    height: '100%',
    objectFit: 'contain',
    filter: laid.contrast > 1 ? `contrast(${laid.contrast})` : undefined,
    transform: `translate(${held(pan.x)}%, ${held(pan.y)}%) scale(${laid.zoom})`,
    imageRendering: laid.zoom >= 4 ? 'pixelated' : undefined,
  }
  const drag = (event: PointerEvent<HTMLElement>): void => {
    if (event.buttons !== 1 || laid.zoom === 1) return
    const { width, height } = event.currentTarget.getBoundingClientRect()
    setPan({
      x: held(held(pan.x) + (100 * event.movementX) / width),
      y: held(held(pan.y) + (100 * event.movementY) / height),
    })
  }
  const picture = (of: ViewSide, address: string, style: CSSProperties = {}): ReactElement => (
    <img
      src={address}
      alt={`${whichFile(of).word}, ${nameOf(view, frame)}`}
      draggable={false}
      style={{ ...look, ...style }}
    />
  )
  return (
    <Flex direction="column" flex="1" minHeight="0">
      <Flex
        flex="1"
        minHeight="0"
        gap="1"
        bg="#191817"
        data-testid="compare"
        data-mode={laid.mode}
        onPointerMove={drag}
      >
        {!pair && (
          <Frame label="">
            <Text color="#d8d2c6" p="6" textAlign="center" role="status">
              {without
                ? whyNoPicture(view, without, frame)
                : isBroken
                  ? 'One of the two pictures cannot be read.'
                  : 'reading both frames…'}
            </Text>
          </Frame>
        )}
        {pair && laid.mode === 'side by side' && (
          <>
            <Frame label={labelOf(side)}>{picture(side, pair.one)}</Frame>
            <Frame label={labelOf(other)}>{picture(other, pair.two)}</Frame>
          </>
        )}
        {pair && laid.mode === 'flip' && (
          <Frame label={labelOf(laid.isFlipped ? other : side)}>
            {picture(side, pair.one, { visibility: laid.isFlipped ? 'hidden' : 'visible' })}
            {picture(other, pair.two, { visibility: laid.isFlipped ? 'visible' : 'hidden' })}
          </Frame>
        )}
        {pair && laid.mode === 'wipe' && (
          <Frame label={labelOf(side)} right={labelOf(other)}>
            {picture(other, pair.two)}
            <Box position="absolute" inset="0" style={{ clipPath: `inset(0 ${100 - line}% 0 0)` }}>
              {picture(side, pair.one)}
            </Box>
            <Box position="absolute" top="0" bottom="0" width="2px" bg="#fdfaf3" style={{ left: `${line}%` }} />
          </Frame>
        )}
        {pair && laid.mode === 'difference' && (
          <Frame label={`${whichFile(side).word} minus ${whichFile(other).word.toLowerCase()}, ${laid.gain} times`}>
            <Box position="absolute" inset="0" style={{ isolation: 'isolate', filter: `brightness(${laid.gain})` }}>
              {picture(other, pair.two)}
              {picture(side, pair.one, { mixBlendMode: 'difference' })}
            </Box>
          </Frame>
        )}
      </Flex>
      <Flex gap="4" px="4" py="2" wrap="wrap" align="center" borderTopWidth="1px" borderColor="rule">
        <Choice
          label="How the two are compared"
          of={compareModes}
          value={laid.mode}
          word={(mode) => `${mode[0]?.toUpperCase()}${mode.slice(1)}`}
          onChange={(mode) => onLaid(chosenMode(laid, mode))}
        />
        <Choice
          label="Zoom"
          of={zooms}
          value={laid.zoom}
          word={(zoom) => (zoom === 1 ? 'Fit' : times(zoom))}
          onChange={(zoom) => onLaid({ ...laid, zoom })}
        />
        {laid.mode === 'wipe' && (
          <Box width="24rem">
            <Slider
              label="Line"
              low={whichFile(other).word.toLowerCase()}
              high={whichFile(side).word.toLowerCase()}
              value={line}
              onChange={setLine}
            />
          </Box>
        )}
        {laid.mode === 'difference' && (
          <Choice
            label="Gain"
            isLabelShown
            of={[1, 4, 8, 16, 32]}
            value={laid.gain}
            word={times}
            onChange={(gain) => onLaid({ ...laid, gain })}
          />
        )}
        {laid.mode !== 'difference' && (
          <Choice
            label="Contrast on both"
            isLabelShown
            of={[1, 2, 4, 8]}
            value={laid.contrast}
            word={times}
            onChange={(contrast) => onLaid({ ...laid, contrast })}
          />
        )}
        {measured && (
          <Text fontSize="0.85rem" color="quiet" data-testid="measured" fontVariantNumeric="tabular-nums">
            {`Pictures differ by ${measured.difference.toFixed(1)} of 255 on the mean, most ${measured.most}; `}
            {`levels ${measured.levels.map((level) => level.toFixed(0)).join(' and ')}`}
          </Text>
        )}
      </Flex>
    </Flex>
  )
}

/**
 * Two pictures that belong to one moment: while either is on its way, the two before stay, so that no frame is ever
 * held against another one's. Null where one cannot be shown.
 */
function useBoth(
  one: string | null,
  two: string | null,
): { readonly pair: { readonly one: string; readonly two: string } | null; readonly isBroken: boolean } {
  const [first, second] = [useLoadedPicture(one), useLoadedPicture(two)]
  const [kept, setKept] = useState<{ readonly one: string; readonly two: string } | null>(null)
  const isThere = first?.address === one && second?.address === two
  const isBroken = [first, second].some((each) => each?.isBroken && (each.address === one || each.address === two))
  useEffect(() => {
    if (isThere && !isBroken && one !== null && two !== null) setKept({ one, two })
  }, [isThere, isBroken, one, two])
  return { pair: one === null || two === null || isBroken ? null : kept, isBroken }
}

const labelOf = (side: ViewSide): string => `${whichFile(side).word} · ${whichFile(side).facts}`

/** One picture's place, with which file it is along its lower edge. */
function Frame({ label, right, children }: { label: string; right?: string; children: ReactNode }): ReactElement {
  return (
    <Box flex="1" position="relative" overflow="hidden" minWidth="0">
      {children}
      <FileStrip>
        <Flex gap="4" justify="space-between">
          <Text>{label}</Text>
          {right && <Text>{right}</Text>}
        </Flex>
      </FileStrip>
    </Box>
  )
}
