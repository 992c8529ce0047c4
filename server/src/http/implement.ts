import type { Answer, Body, Params, Query, Route, RouteName } from '@ennick/contract'
import { routes } from '@ennick/contract'
import { isWellFormed } from '@ennick/core'
import type { Express, Request, Response } from 'express'
import type { z } from 'zod'
import { PlainError } from '../errors.ts'

export interface Call<R extends Route> {
  readonly params: Params<R>
  readonly query: Query<R>
  readonly body: Body<R>
}

type Handler<R extends Route> = (call: Call<R>) => Promise<Answer<R>> | Answer<R>
type RawHandler<R extends Route> = (call: Call<R>, response: Response, request: Request) => Promise<void> | void

const implemented = new WeakMap<Express, Set<RouteName>>()

/** Serves a route whose answer is JSON: the request is checked on the way in, the handler gets trusted values. */
export function implement<K extends RouteName>(app: Express, name: K, handler: Handler<(typeof routes)[K]>): void {
  implementRaw(app, name, async (call, response) => {
    response.json(await handler(call))
  })
}

/** Serves a route that writes its own answer: pictures, pages, event streams. */
export function implementRaw<K extends RouteName>(
  app: Express,
  name: K,
  handler: RawHandler<(typeof routes)[K]>,
): void {
  const route: Route = routes[name]
  const names = implemented.get(app) ?? new Set()
  implemented.set(app, names.add(name))
  const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete'
  app[method](route.path, async (request: Request, response: Response) => {
    const call = {
      params: parse(route.params, request.params, 'The address'),
      query: parse(route.query, request.query, 'The query'),
      body: parse(route.body, request.body ?? {}, 'The request'),
    } as Call<(typeof routes)[K]>
    await handler(call, response, request)
  })
}

function parse(schema: z.ZodType, value: unknown, what: string): unknown {
  assertPlainText(value, what, '')
  const result = schema.safeParse(value)
  if (result.success) return result.data
  const first = result.error.issues[0]
  const at = first?.path.length ? ` (${first.path.join('.')})` : ''
  throw new PlainError('bad-request', `${what} cannot be used${at}: ${first?.message ?? 'it has another shape'}`, {
    details: result.error.issues,
  })
}

/**
 * Text from people is looked at once, here: the zero character and half of a character pair can neither be kept nor
 * shown. The text of a list is left to its reader, which knows its lines.
 */
function assertPlainText(value: unknown, what: string, at: string): void {
  if (typeof value === 'string') {
    if (at !== 'text' && (value.includes('\0') || !isWellFormed(value)))
      throw new PlainError(
        'bad-request',
        `${what} cannot be used${at ? ` (${at})` : ''}: it holds characters that are no text.`,
      )
  } else if (typeof value === 'object' && value !== null)
    for (const [key, item] of Object.entries(value)) {
      assertPlainText(key, what, at)
      assertPlainText(item, what, at ? `${at}.${key}` : key)
    }
}

/** @throws Error naming the routes of the contract that nobody serves. */
export function assertAllImplemented(app: Express): void {
  const names = implemented.get(app) ?? new Set()
  const missing = (Object.keys(routes) as RouteName[]).filter((name) => !names.has(name))
  if (missing.length) throw new Error(`These routes are described and not served: ${missing.join(', ')}.`)
}
