import { type Heard, hearServer, silentMilliseconds } from './hear-server.ts'
import type { FromWindow } from './hearing-worker.ts'
import { OneTimer } from './one-timer.ts'

/**
 * Hears the server by the one stream of all windows of this browser; where a browser has nothing that they share, by
 * one of its own.
 * @param address of the stream of events
 * @returns stops it
 */
export function hearTogether(address: string, hear: (heard: Heard) => void): () => void {
  let stop = begin(address, hear)
  const leave = (): void => stop()
  const comeBack = ({ persisted }: PageTransitionEvent): void => {
    if (persisted) stop = begin(address, hear)
  }
  addEventListener('pagehide', leave)
  addEventListener('pageshow', comeBack)
  return () => {
    removeEventListener('pagehide', leave)
    removeEventListener('pageshow', comeBack)
    stop()
  }
}

/** What hears for all windows says at once that it does, on a slow machine too. */
const dumbMilliseconds = 15_000
/** It passes on that the server is there, and tells when it is not. */
const endedMilliseconds = 1.5 * silentMilliseconds

function begin(address: string, hear: (heard: Heard) => void): () => void {
  if (typeof SharedWorker === 'undefined') return hearServer(address, hear)
  const worker = new SharedWorker(new URL('./hearing-worker.ts', import.meta.url), { type: 'module' })
  const say = (words: FromWindow): void => worker.port.postMessage(words)
  let stop = (): void => {
    say({ goes: true })
    worker.port.close()
  }
  const timer = new OneTimer()
  const goOnBy = (other: typeof hearServer): void => {
    timer.stop()
    worker.onerror = null
    worker.port.onmessage = null
    stop()
    stop = other(address, hear)
  }
  // Its code could not be had, or the browser forbids it; or cannot hear a stream in there, of which it says nothing.
  const hearAlone = (): void => goOnBy(hearServer)
  // It ended, of which a browser tells nobody: another may be begun, or have been by a later window.
  const beginAnew = (): void => goOnBy(begin)
  timer.within(dumbMilliseconds, hearAlone)
  worker.onerror = hearAlone
  worker.port.onmessage = ({ data }: MessageEvent<Heard>) => {
    timer.within(endedMilliseconds, beginAnew)
    hear(data)
  }
  say({ address })
  return () => {
    timer.stop()
    stop()
  }
}
