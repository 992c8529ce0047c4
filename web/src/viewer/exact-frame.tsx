import { Box, Text } from '@chakra-ui/react'
import { type CSSProperties, type ReactElement, useCallback, useEffect, useRef, useState } from 'react'

interface Loaded {
  readonly address: string
  readonly isBroken: boolean
}

/**
 * The picture at an address, once it is there; until then the one before stays, so that stepping does not flicker.
 * Only one is asked for at a time, and what is wanted by then comes next: a key that is held down asks no server for
 * hundreds of frames that nobody sees.
 */
export function useLoadedPicture(address: string | null): Loaded | null {
  const [loaded, setLoaded] = useState<Loaded | null>(null)
  const wanted = useRef(address)
  wanted.current = address
  const isAsking = useRef(false)
  const ask = useCallback(() => {
    const next = wanted.current
    if (isAsking.current || next === null) return
    isAsking.current = true
    const picture = new Image()
    const settle = (isBroken: boolean) => () => {
      isAsking.current = false
      const isWanted = wanted.current === next
      if (isWanted || !isBroken) setLoaded({ address: next, isBroken })
      if (!isWanted) ask()
    }
    picture.onload = settle(false)
    picture.onerror = settle(true)
    picture.src = next
  }, [])
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is asked for whenever another one is wanted
  useEffect(ask, [address, ask])
  return loaded
}

/** One exact frame, as large as its place; it says so while another is on its way, and when there is none. */
export function ExactFrame({
  address,
  what,
  absent,
  style,
  onShown,
}: {
  address: string | null
  /** The frame in words, for those who do not see it. */
  what: string
  /** Why there is no picture. */
  absent: string
  style?: CSSProperties
  onShown?: () => void
}): ReactElement {
  const loaded = useLoadedPicture(address)
  const isShown = loaded !== null && !loaded.isBroken && address !== null
  useEffect(() => {
    if (loaded && !loaded.isBroken) onShown?.()
  }, [loaded, onShown])
  return (
    <>
      {isShown && (
        <img
          src={loaded.address}
          alt={what}
          data-testid="exact-frame"
          data-ready={loaded.address === address}
          draggable={false}
          style={{ width: '100%', height: '100%', objectFit: 'contain', display: 'block', ...style }}
        />
      )}
      {(address === null || loaded?.isBroken) && (
        <Box position="absolute" inset="0" display="flex" alignItems="center" justifyContent="center" p="6">
          <Text color="#d8d2c6" textAlign="center">
            {absent}
          </Text>
        </Box>
      )}
      {address !== null && loaded?.address !== address && !loaded?.isBroken && (
        <Text position="absolute" top="2" right="3" color="#d8d2c6" fontSize="0.8rem">
          reading the frame…
        </Text>
      )}
    </>
  )
}
