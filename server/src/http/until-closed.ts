import type { Response } from 'express'

/** A signal that whoever asked has gone, or has been answered. */
export function untilClosed(response: Response): AbortSignal {
  const closed = new AbortController()
  if (response.destroyed) closed.abort()
  else response.once('close', () => closed.abort())
  return closed.signal
}
