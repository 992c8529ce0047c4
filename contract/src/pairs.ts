import { z } from 'zod'
import { evidenceRow, framePair, id, presence, spanStrip, verdict } from './common.ts'
import { historyLine } from './productions.ts'

export const ledgerPair = z.object({
  id,
  name: z.string(),
  kind: z.enum(['proxy', 'optimized', 'review', 'deliverable']),
  origin: z.enum(['made', 'adopted']),
  recipe: z.string().nullable(),
  raster: z.string().nullable(),
  verdict,
  why: z.string().describe('The verdict in a sentence'),
  isDecodedWhole: z.boolean().describe('Whether every frame of it was decoded, and not only some'),
})

export const ledgerRow = z.object({
  clipId: id,
  name: z.string(),
  reel: z.string().nullable(),
  volumeLabel: z.string(),
  presence,
  needsProxy: z.boolean(),
  pairs: z.array(ledgerPair),
  strip: spanStrip.nullable(),
})

export const pairDetail = z.object({
  pair: ledgerPair,
  clipId: id,
  clipName: z.string(),
  recipeId: z.string().nullable(),
  viewingLut: z.string().nullable(),
  originalFiles: z.array(z.object({ path: z.string(), presence })),
  madeFiles: z.array(z.object({ path: z.string(), presence, part: z.string() })),
  comparison: z.array(evidenceRow).nullable(),
  frames: z.array(framePair).describe('Pictures of both beside each other: at head, middle and tail'),
  strip: spanStrip.nullable(),
  checkedAt: z.string().nullable(),
  createdAt: z.string(),
  history: z.array(historyLine),
})

export const release = z.object({
  released: z.int(),
  bytes: z.number().describe('What that frees'),
  kept: z.array(z.object({ pairId: id, name: z.string(), reason: z.string() })),
})

export type Release = z.infer<typeof release>
export type LedgerRow = z.infer<typeof ledgerRow>
export type LedgerPair = z.infer<typeof ledgerPair>
export type PairDetail = z.infer<typeof pairDetail>
