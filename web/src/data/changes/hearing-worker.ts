import { type Heard, hearServer } from './hear-server.ts'

// Hears the server once for all windows of this browser. It keeps six connections to one address at most, those of all
// windows together: with a stream for each, the seventh window would never be answered, nor any of the others.

/** What a window says: that it is there, with the address of the stream; and that it goes. */
export type FromWindow = { readonly address: string } | { readonly goes: true }

const windows = new Set<MessagePort>()
let stop: (() => void) | null = null
/** The last that was told of whether the server is heard: a window that comes later is told too. */
let last: Heard | null = null

function hear(heard: Heard): void {
  if (heard.kind === 'heard' || heard.kind === 'unheard') last = heard
  for (const window of windows) window.postMessage(heard)
}

function takeLeave(window: MessagePort): void {
  windows.delete(window)
  if (windows.size) return
  stop?.()
  stop = null
  last = null
}

addEventListener('connect', (event) => {
  const [window] = (event as MessageEvent).ports
  if (!window) return
  window.onmessage = ({ data }: MessageEvent<FromWindow>) => {
    if ('goes' in data) return takeLeave(window)
    windows.add(window)
    stop ??= hearServer(data.address, hear)
    window.postMessage(last ?? ({ kind: 'waits' } satisfies Heard))
  }
})
