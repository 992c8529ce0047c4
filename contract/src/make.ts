import { z } from 'zod'
import { evidenceRow, id } from './common.ts'

export const recipe = z.object({
  id: z.string(),
  name: z.string(),
  version: z.int(),
  purpose: z.string(),
  pairKind: z.enum(['proxy', 'optimized']),
  codec: z.string(),
  container: z.string(),
  suffix: z.string(),
  viewingLut: z.string().nullable(),
})

export const makeRequest = z.object({ clipIds: z.array(id).min(1, 'Choose at least one clip.').max(50_000), recipeId: z.string() })

export const makePlan = z.object({
  items: z.array(
    z.object({
      clipId: id,
      name: z.string(),
      outputs: z.array(z.string()),
      raster: z.string().nullable(),
      viewingLut: z.string().nullable(),
      bytes: z.number().nullable(),
      exact: z.boolean(),
      frames: z.int(),
      skipped: z.string().nullable().describe('Why nothing is made of it'),
    }),
  ),
  destination: z.string(),
  freeBytes: z.number(),
  bytes: z.number(),
  exact: z.boolean(),
  blocked: z.string().nullable().describe('Why nothing may start'),
  comparison: z.array(z.object({ recipeId: z.string(), name: z.string(), bytes: z.number(), exact: z.boolean() })),
})

export const job = z.object({
  id,
  title: z.string(),
  kind: z.enum(['scan', 'make', 'check', 'search']),
  state: z.enum(['waiting', 'running', 'done', 'failed', 'cancelled']),
  progress: z
    .object({
      done: z.number(),
      total: z.number(),
      unit: z.enum(['frames', 'files']),
      unitsPerSecond: z.number().nullable(),
      secondsLeft: z.number().nullable(),
    })
    .nullable(),
  summary: z.string().nullable(),
  checks: z.array(evidenceRow),
  error: z.string().nullable(),
  log: z.string().nullable(),
  attempts: z.int(),
  cancelRequested: z.boolean(),
  createdAt: z.string(),
  startedAt: z.string().nullable(),
  endedAt: z.string().nullable(),
})

export type RecipeInfo = z.infer<typeof recipe>
export type MakePlan = z.infer<typeof makePlan>
export type Job = z.infer<typeof job>
