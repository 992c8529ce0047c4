import { OneTimer } from './one-timer.ts'

/** What is heard of a server: a change as its text, that it is heard (again) or is not, is still there, or nothing yet. */
export type Heard =
  | { readonly kind: 'change'; readonly text: string }
  | { readonly kind: 'heard' | 'unheard' | 'here' | 'waits' }

/** The server says something every 15 seconds. A line that was cut while a laptop slept would stay silent for ever. */
export const silentMilliseconds = 40_000
const againMilliseconds = 1000

/**
 * Hears a server by its event stream for as long as it is not stopped, whatever happens to the line. `heard` is told
 * whenever something may have been missed.
 * @param address of the stream of events
 * @returns stops it
 */
export function hearServer(address: string, hear: (heard: Heard) => void): () => void {
  let source: EventSource
  const timer = new OneTimer()
  const unheard = (): void => {
    source.close()
    hear({ kind: 'unheard' })
    timer.within(againMilliseconds, begin)
  }
  const spoke = (): void => timer.within(silentMilliseconds, unheard)
  const isHeard = (): void => {
    spoke()
    hear({ kind: 'heard' })
  }
  function begin(): void {
    source = new EventSource(address)
    spoke()
    source.onopen = isHeard
    source.onerror = unheard
    source.onmessage = ({ data }: MessageEvent<string>) => {
      spoke()
      hear({ kind: 'change', text: data })
    }
    source.addEventListener('here', () => {
      spoke()
      hear({ kind: 'here' })
    })
    // The server itself heard nothing of the database for a while.
    source.addEventListener('reconnected', isHeard)
  }
  begin()
  return () => {
    timer.stop()
    source.close()
  }
}
