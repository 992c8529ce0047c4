import type { z } from 'zod'

/**
 * One route of the API: where it is, what goes in and what comes out. Server, browser and description are made from it.
 */
export interface Route<
  P extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
  B extends z.ZodType = z.ZodType,
  R extends z.ZodType = z.ZodType,
> {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE'
  /** Express's way of writing a path: "/api/clips/:clipId". */
  readonly path: string
  readonly summary: string
  readonly params: P
  readonly query: Q
  readonly body: B
  readonly response: R
  /** Set for answers that are not JSON: pictures, pages, event streams. */
  readonly mediaType: string | null
}

export type Params<T> = T extends Route<infer P, z.ZodType, z.ZodType, z.ZodType> ? z.infer<P> : never
export type Query<T> = T extends Route<z.ZodType, infer Q, z.ZodType, z.ZodType> ? z.infer<Q> : never
export type Body<T> = T extends Route<z.ZodType, z.ZodType, infer B, z.ZodType> ? z.infer<B> : never
export type Answer<T> = T extends Route<z.ZodType, z.ZodType, z.ZodType, infer R> ? z.infer<R> : never
/** What a caller sends: what has a default may be left out. */
export type Sent<T> = T extends Route<z.ZodType, z.ZodType, infer B, z.ZodType> ? z.input<B> : never
