import { z } from 'zod'
import { evidenceRow, id, rate, spanStrip } from './common.ts'

export const eventState = z.enum([
  ...([
    'on original',
    'on proxy',
    'original away',
    'original gone',
    'original damaged',
    'short',
    'unresolved',
  ] as const),
])

export const cut = z.object({
  id,
  name: z.string(),
  format: z.string(),
  fileName: z.string(),
  rate,
  dropFrame: z.boolean(),
  tracks: z.array(z.object({ name: z.string(), kind: z.enum(['picture', 'sound']) })),
  events: z.int(),
  states: z.object({
    onOriginal: z.int(),
    onProxy: z.int(),
    originalMissing: z.int(),
    short: z.int(),
    unresolved: z.int(),
  }),
  findings: z.int(),
  blocking: z.int(),
  createdAt: z.string(),
})

export const cutEvent = z.object({
  position: z.int(),
  number: z.string(),
  track: z.string(),
  kind: z.enum(['picture', 'sound']),
  clipName: z.string().nullable(),
  reel: z.string().nullable(),
  path: z.string().nullable(),
  sourceIn: z.string(),
  sourceOut: z.string(),
  recordIn: z.string(),
  recordOut: z.string(),
  recordStartFrame: z.int(),
  recordEndFrame: z.int(),
  state: eventState,
  by: z.string().nullable().describe('How the original was found'),
  clipId: id.nullable(),
  originalName: z.string().nullable(),
  originalPath: z.string().nullable(),
  note: z.string().nullable().describe('What is short, or what transition and speed it has'),
  evidence: z.array(evidenceRow),
})

export const cutDetail = z.object({
  cut,
  events: z.array(cutEvent),
  strips: z.array(z.object({ clipId: id, name: z.string(), strip: spanStrip })),
  suggestedMappings: z.array(z.object({ from: z.string(), to: z.string(), matches: z.int() })),
})

export const newCut = z.object({
  fileName: z.string().min(1).max(255),
  text: z.string().max(30_000_000, 'A list of more than 30 MB is not read.'),
  rate: rate.optional().describe('The rate at which a list counts that states none; the production’s unless given'),
})

export type Cut = z.infer<typeof cut>
export type CutEventRow = z.infer<typeof cutEvent>
export type CutDetail = z.infer<typeof cutDetail>
