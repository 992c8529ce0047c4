import type { NextFunction, Request, Response } from 'express'
import { PlainError } from '../errors.ts'

const loopback = ['127.0.0.1', 'localhost', '[::1]']
const withoutPort = (host: string): string => host.replace(/:\d+$/, '')

/**
 * Refuses requests that name another host or come from another site: a page elsewhere must not drive this server
 * through the browser of the person who sits at it. At which port it is asked does not count, as a tunnel or a server
 * that hands requests on has one of its own; but a page of another port is another site.
 * @param extraHosts names that it is called by besides, with a port or without
 */
export function guard(port: number, extraHosts: readonly string[]) {
  const extra = extraHosts.map((host) => host.toLowerCase())
  const names = new Set([...loopback, ...extra.map(withoutPort)])
  /** From where its own pages come, also where what hands requests on calls it otherwise than they do. */
  const sites = new Set([
    ...loopback.map((name) => `${name}:${port}`),
    ...extra,
    ...extra.map((host) => `${host}:${port}`),
  ])
  return (request: Request, _response: Response, next: NextFunction): void => {
    const host = request.headers.host?.toLowerCase()
    const origin = request.headers.origin?.toLowerCase()
    if (!host || !names.has(withoutPort(host)))
      throw new PlainError(
        'foreign-host',
        `This server does not answer to “${host ?? ''}”. Add the name under "hosts" in settings.json if it should.`,
        { status: 403 },
      )
    const site = origin?.match(/^https?:\/\/(.*)$/)?.[1]
    if (origin !== undefined && (site === undefined || (site !== host && !sites.has(site))))
      throw new PlainError('foreign-origin', `Requests from ${origin} are refused.`, { status: 403 })
    next()
  }
}
