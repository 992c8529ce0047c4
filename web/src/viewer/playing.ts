/** A stretch that is being played. */
export interface Playing {
  /** Another one each time that playing begins anew. */
  readonly id: number
  readonly direction: 1 | -1
  readonly speed: number
  /** The frame of the clip before which it ends; null for the clip's end. */
  readonly until: number | null
}

const fastest = 4

/** What L and J make of what plays now: they begin, turn round, or go faster. */
export function driven(playing: Playing | null, direction: 1 | -1, until: number | null): Playing {
  const isSame = playing?.direction === direction
  return {
    id: (playing?.id ?? 0) + 1,
    direction,
    speed: isSame ? Math.min(fastest, playing.speed * 2) : 1,
    until,
  }
}
