import { z } from 'zod'
import { id, nothing } from '../common.ts'
import type { Route } from '../route.ts'

type Defaults = { params: typeof nothing; query: typeof nothing; body: typeof nothing; response: typeof nothing }
type Given<T, K extends keyof Defaults> = T extends Record<K, infer S extends z.ZodType> ? S : Defaults[K]

/** Puts a route together; what it does not say it does not take or answer. */
export function route<T extends { params?: z.ZodType; query?: z.ZodType; body?: z.ZodType; response?: z.ZodType }>(
  method: Route['method'],
  path: string,
  summary: string,
  shapes: T & { mediaType?: string },
): Route<Given<T, 'params'>, Given<T, 'query'>, Given<T, 'body'>, Given<T, 'response'>> {
  return {
    method,
    path,
    summary,
    params: (shapes.params ?? nothing) as Given<T, 'params'>,
    query: (shapes.query ?? nothing) as Given<T, 'query'>,
    body: (shapes.body ?? nothing) as Given<T, 'body'>,
    response: (shapes.response ?? nothing) as Given<T, 'response'>,
    mediaType: shapes.mediaType ?? null,
  }
}

export const ofProduction = z.object({ productionId: id })
export const ofRecipe = z.object({ recipeId: z.string() })
export const ofVolume = z.object({ volumeId: id })
export const ofClip = z.object({ clipId: id })
export const ofBatch = z.object({ batchId: id })
export const ofJoined = z.object({ joinedId: id })
export const ofJob = z.object({ jobId: id })
export const ofPair = z.object({ pairId: id })
export const ofCut = z.object({ cutId: id })
export const ofMend = z.object({ mendId: id })
