import { z } from 'zod'
import { evidenceRow, framePair, id, pairKind, presence, spanStrip, verdict } from './common.ts'
import { historyLine } from './productions.ts'

export const ledgerPair = z.object({
  id,
  name: z.string(),
  kind: pairKind,
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

export const ledgerQuery = z.object({
  words: z.string().max(500).default(''),
  verdict: z
    .enum([...verdict.options, 'no proxy'])
    .nullable()
    .default(null),
  origin: z.enum(['made', 'adopted']).nullable().default(null).describe('Made by Ennick, or by another hand'),
  sort: z.enum(['name', 'reel', 'verdict', 'made', 'raster']).default('name'),
  isDescending: z.boolean().default(false),
})

export const ledgerLine = z.object({
  id: id.describe('Of the pair, or of the clip where it has none'),
  clipId: id,
  name: z.string(),
  reel: z.string().nullable(),
  volumeLabel: z.string(),
  presence,
  needsProxy: z.boolean(),
  pair: ledgerPair.nullable(),
  strip: spanStrip.nullable(),
})

/** What can be done to many pairs at once. */
export const ledgerPurpose = z.enum(['decode', 'decode again', 'make again', 'release', 'compare'])

export const ledgerPage = z.object({
  lines: z.array(ledgerLine),
  found: z.int().describe('How many lines the query finds'),
  counts: z
    .object({
      lines: z.int(),
      pairs: z.int(),
      proven: z.int(),
      matched: z.int(),
      amiss: z.int(),
      decoded: z.int().describe('Decoded from first frame to last'),
      without: z.int().describe('Pictures without a proxy'),
    })
    .describe('Of the whole ledger'),
  can: z.record(ledgerPurpose, z.int()).describe('To how many of those that the query finds something can be done'),
})

export const pairDetail = z.object({
  pair: ledgerPair,
  clipId: id,
  clipName: z.string(),
  recipeId: z.string().nullable(),
  viewingLut: z.string().nullable(),
  recordings: z.array(z.string()).describe('The recordings whose tracks it has, where it was made with those'),
  originalFiles: z.array(z.object({ path: z.string(), presence })),
  madeFiles: z.array(z.object({ path: z.string(), presence, part: z.string() })),
  comparison: z.array(evidenceRow).nullable(),
  copy: z
    .string()
    .nullable()
    .describe('What a copy would have that sets it right without encoding a picture; null where none does'),
  nameToday: z.string().nullable().describe('What it would be called if it were made now, where that is another name'),
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
export type LedgerQuery = z.output<typeof ledgerQuery>
export type LedgerLine = z.infer<typeof ledgerLine>
export type LedgerPurpose = z.infer<typeof ledgerPurpose>
export type LedgerPage = z.infer<typeof ledgerPage>
export type LedgerRow = z.infer<typeof ledgerRow>
export type LedgerPair = z.infer<typeof ledgerPair>
export type PairDetail = z.infer<typeof pairDetail>
