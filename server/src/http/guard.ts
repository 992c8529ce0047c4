import type { NextFunction, Request, Response } from 'express'
import { PlainError } from '../errors.ts'

/**
 * Refuses requests that name another host or come from another site: a page elsewhere must not drive this server
 * through the browser of the person who sits at it.
 */
export function guard(port: number, extraHosts: readonly string[]) {
  const names = ['127.0.0.1', 'localhost', '[::1]', ...extraHosts]
  const hosts = new Set(names.flatMap((name) => [`${name}:${port}`, ...(port === 80 ? [name] : [])]))
  const origins = new Set([...hosts].flatMap((host) => [`http://${host}`, `https://${host}`]))
  return (request: Request, _response: Response, next: NextFunction): void => {
    const { host, origin } = request.headers
    if (!host || !hosts.has(host.toLowerCase()))
      throw new PlainError(
        'foreign-host',
        `This server does not answer to “${host ?? ''}”. Add the name under "hosts" in settings.json if it should.`,
        { status: 403 },
      )
    if (origin !== undefined && !origins.has(origin.toLowerCase()))
      throw new PlainError('foreign-origin', `Requests from ${origin} are refused.`, { status: 403 })
    next()
  }
}
