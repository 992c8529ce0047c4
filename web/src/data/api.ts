import { type Answer, errorBody, type Params, type Query, type RouteName, routes, type Sent } from '@ennick/contract'

/** An answer that was no success, with the server's sentence for the person. */
export class ApiError extends Error {
  override readonly name = 'ApiError'
  readonly status: number
  readonly code: string
  /** What the server says besides, which has a shape of its own for each code. */
  readonly details: unknown
  constructor(status: number, code: string, message: string, details?: unknown) {
    super(message)
    this.status = status
    this.code = code
    this.details = details
  }
}

type RouteOf<K extends RouteName> = (typeof routes)[K]

/** What a route is called with; empty parts may be left out. */
export interface CallInput<K extends RouteName> {
  params?: Params<RouteOf<K>>
  query?: Query<RouteOf<K>>
  body?: Sent<RouteOf<K>>
}

/** The address of a route with its parameters filled in. */
export function addressOf<K extends RouteName>(
  name: K,
  params: Record<string, unknown> = {},
  query: Record<string, unknown> = {},
): string {
  const path = routes[name].path.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(String(params[key])))
  const pairs = Object.entries(query).filter(([, value]) => value !== undefined)
  return pairs.length ? `${path}?${new URLSearchParams(pairs.map(([key, value]) => [key, String(value)]))}` : path
}

/**
 * Calls a route. The answer is trusted: it was made from the same schema, by the same build.
 * @throws ApiError with a sentence that can be shown
 */
export async function call<K extends RouteName>(name: K, input: CallInput<K> = {}): Promise<Answer<RouteOf<K>>> {
  const address = addressOf(name, input.params as Record<string, unknown>, input.query as Record<string, unknown>)
  const hasBody = input.body !== undefined
  let response: Response
  try {
    response = await fetch(address, {
      method: routes[name].method,
      ...(hasBody ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(input.body) } : {}),
    })
  } catch {
    throw new ApiError(503, 'no-server', 'Ennick does not answer. Is it still running? It is asked again every second.')
  }
  if (response.ok) return (await response.json()) as Answer<RouteOf<K>>
  throw await refusalOf(response)
}

/** What an answer that is no success says. */
export async function refusalOf(response: Response): Promise<ApiError> {
  const problem = errorBody.safeParse(await response.json().catch(() => null))
  return problem.success
    ? new ApiError(response.status, problem.data.code, problem.data.message, problem.data.details)
    : new ApiError(response.status, 'fault', `Ennick answered with ${response.status}.`)
}
