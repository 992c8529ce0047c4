import { z } from 'zod'
import { evidenceRow, id, presence, rate, spanStrip, verdict } from './common.ts'
import { historyLine } from './productions.ts'

export const clip = z.object({
  id,
  name: z.string(),
  kind: z.enum(['picture', 'sound', 'still']),
  codec: z.string(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  rate: rate.nullable(),
  startTimecode: z.string().nullable(),
  frames: z.int().nullable(),
  channels: z.string(),
  reel: z.string().nullable(),
  reelFrom: z.enum(['file', 'rule', 'person']).nullable(),
  volumeLabel: z.string(),
  path: z.string(),
  sizeBytes: z.number(),
  presence,
  proxies: z.array(verdict),
  uses: z.int(),
})

export const factGroup = z.object({ title: z.string(), facts: z.array(z.object({ label: z.string(), value: z.string() })) })

export const clipDetail = z.object({
  clip,
  factGroups: z.array(factGroup),
  files: z.array(z.object({ path: z.string(), sizeBytes: z.number(), presence })),
  strip: spanStrip.nullable(),
  pairs: z.array(z.object({ id, name: z.string(), verdict, comparison: z.array(evidenceRow).nullable() })),
  uses: z.array(z.object({ cutId: id, cutName: z.string(), event: z.string(), track: z.string(), state: z.string() })),
  history: z.array(historyLine),
})

export const reelRule = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('stem') }),
  z.object({ kind: z.literal('first-characters'), count: z.int().min(1).max(255) }),
  z.object({ kind: z.literal('pattern'), pattern: z.string().min(1).max(500) }),
])

export const setReels = z.object({
  clipIds: z.array(id).min(1, 'Choose at least one clip.').max(50_000),
  rule: reelRule,
  apply: z.boolean().describe('False answers with the preview alone'),
})

export const reelChange = z.object({ clipId: id, name: z.string(), before: z.string().nullable(), after: z.string().nullable() })

export type Clip = z.infer<typeof clip>
export type ClipDetail = z.infer<typeof clipDetail>
export type ReelRuleInput = z.infer<typeof reelRule>
export type ReelChange = z.infer<typeof reelChange>
