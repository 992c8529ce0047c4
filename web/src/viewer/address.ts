import { useCallback } from 'react'
import { useSearchParams } from 'react-router'
import { useAddress } from '../data/remembered.ts'

/** What the viewer is asked to show; it lies over any page, and its address can be shared. */
export interface ViewerAddress {
  readonly clipId: string | null
  /** The frame to begin with, counted from the clip's first. */
  readonly frame: number | null
  /** The side to begin with, in place of the one that the production's choice shows. */
  readonly sideId: string | null
  /** The side to compare with. */
  readonly withId: string | null
  /** The cut that is watched, and the event that is on. */
  readonly cutId: string | null
  readonly position: number | null
}

const keys = { clip: 'look', frame: 'at', side: 'in', with: 'beside', cut: 'watch', position: 'on' } as const

export function useViewerAddress(): ViewerAddress {
  const [params] = useSearchParams()
  const number = (key: string): number | null => {
    const text = params.get(key)
    return text !== null && /^\d{1,9}$/.test(text) ? Number(text) : null
  }
  return {
    clipId: params.get(keys.clip),
    frame: number(keys.frame),
    sideId: params.get(keys.side),
    withId: params.get(keys.with),
    cutId: params.get(keys.cut),
    position: number(keys.position),
  }
}

/** Opens the viewer over the page, and closes it. */
export function useViewer(): { open: (what: Partial<ViewerAddress>) => void; close: () => void } {
  const change = useAddress()
  const open = useCallback(
    (what: Partial<ViewerAddress>) =>
      change({
        [keys.clip]: what.clipId ?? null,
        [keys.frame]: what.frame == null ? null : String(what.frame),
        [keys.side]: what.sideId ?? null,
        [keys.with]: what.withId ?? null,
        [keys.cut]: what.cutId ?? null,
        [keys.position]: what.position == null ? null : String(what.position),
      }),
    [change],
  )
  const close = useCallback(() => open({}), [open])
  return { open, close }
}
