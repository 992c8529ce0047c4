import { ApiError, refusalOf } from '../data/api.ts'

/** So much is kept ready before a player, and behind it: a browser has room for some hundred megabytes. */
const secondsAhead = 12
const secondsBehind = 12

export const notPlayedHere = 'This browser does not play it. Step through it with the arrow keys.'

/**
 * Gives a player what the server renders, as it arrives (W3C Media Source Extensions). A player that is given the
 * address itself asks for ranges of it, which what is rendered while it is watched has not, and some play nothing
 * without them.
 * @param onFailure is told why nothing is played
 * @returns ends it, and with the connection the server's encoder
 */
export function playRendered(
  player: HTMLVideoElement,
  address: string,
  onFailure: (sentence: string) => void,
): () => void {
  if (typeof MediaSource === 'undefined') {
    onFailure(notPlayedHere)
    return () => undefined
  }
  const source = new MediaSource()
  const asked = new AbortController()
  const place = URL.createObjectURL(source)
  player.src = place
  feed({ player, source, address, signal: asked.signal }).catch((error: unknown) => {
    if (asked.signal.aborted) return
    asked.abort()
    // What the player cannot decode it tells itself.
    if (player.error) return
    // A line that breaks is a TypeError (Fetch Standard, 5.6); all else is the player's own.
    const isCut = error instanceof TypeError
    const known = error instanceof ApiError ? error.message : notPlayedHere
    onFailure(isCut ? 'Ennick does not answer. Is it still running?' : known)
  })
  return () => {
    asked.abort()
    URL.revokeObjectURL(place)
  }
}

interface Feeding {
  readonly player: HTMLVideoElement
  readonly source: MediaSource
  readonly address: string
  readonly signal: AbortSignal
}

async function feed({ player, source, address, signal }: Feeding): Promise<void> {
  const [response] = await Promise.all([fetch(address, { signal }), until(source, 'sourceopen', signal)])
  if (!response.ok || !response.body) throw await refusalOf(response)
  // A type that is not played here is refused (Media Source Extensions, addSourceBuffer).
  const buffer = source.addSourceBuffer(response.headers.get('content-type') ?? '')
  const change = async (begin: () => void): Promise<void> => {
    begin()
    await until(buffer, 'updateend', signal)
  }
  const reader = response.body.getReader()
  for (let next = await reader.read(); !next.done; next = await reader.read()) {
    const { value } = next
    while (secondsLeft(player, buffer) > secondsAhead) await until(player, 'timeupdate', signal)
    const oldest = buffer.buffered.length ? buffer.buffered.start(0) : player.currentTime
    if (player.currentTime - oldest > 2 * secondsBehind)
      await change(() => buffer.remove(oldest, player.currentTime - secondsBehind))
    await change(() => buffer.appendBuffer(value))
  }
  if (source.readyState === 'open') source.endOfStream()
}

/** How much a player has before it. */
function secondsLeft({ currentTime }: HTMLVideoElement, { buffered }: SourceBuffer): number {
  return buffered.length ? buffered.end(buffered.length - 1) - currentTime : 0
}

/** Waits for an event. @throws when nobody waits any more */
function until(target: EventTarget, event: string, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    signal.throwIfAborted()
    const settled = new AbortController()
    const settle = (how: () => void) => (): void => {
      settled.abort()
      how()
    }
    target.addEventListener(event, settle(resolve), { signal: settled.signal })
    const end = settle(() => reject(signal.reason))
    signal.addEventListener('abort', end, { signal: settled.signal })
  })
}
