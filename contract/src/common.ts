import { pairKinds } from '@ennick/core'
import { z } from 'zod'

export const id = z.uuid()

/** No rate that anything is shot at needs larger ones. */
const rateNumber = z.int().positive().max(1_000_000, 'A rate is a quotient of numbers up to a million.')

export const rate = z
  .object({ numerator: rateNumber, denominator: rateNumber })
  .describe('Frames per second as an exact quotient')

export const evidenceRow = z.object({
  aspect: z.string(),
  expected: z.string(),
  found: z.string(),
  agrees: z.boolean(),
  difference: z.string().nullable(),
})

export const presence = z.enum(['here', 'away', 'gone'])

/** What an item of the ledger is for. */
export const pairKind = z.enum(pairKinds)

/** What a file is for. Only originals are resolved to. */
export const fileRole = z.enum(['original', 'proxy', 'optimized', 'deliverable'])

export const verdict = z.enum([
  'proven',
  'matched',
  'unchecked',
  'stale',
  'mismatched',
  'proxy gone',
  'proxy away',
  'original gone',
  'original away',
  'both gone',
])

/** One bar of a span strip. Positions are frames of the strip's rate; sound may lie between frames. */
export const span = z.object({
  label: z.string(),
  start: z.number(),
  end: z.number(),
  note: z.string().nullable().describe('The exact difference from the original, when there is one'),
  isWhollyOff: z.boolean().describe('Nothing of it lines up, whatever its ends: another rate'),
})

export const spanStrip = z.object({
  rate,
  dropFrame: z.boolean(),
  original: span,
  made: z.array(span),
  uses: z.array(span),
})

export const errorBody = z.object({
  code: z.string().describe('For programs'),
  message: z.string().describe('For a person: what happened, to what, and what to do'),
  details: z.unknown().optional(),
})

export type EvidenceLine = z.infer<typeof evidenceRow>
export type FramePair = z.infer<typeof framePair>
export type SpanStrip = z.infer<typeof spanStrip>
export type Span = z.infer<typeof span>
export type Verdict = z.infer<typeof verdict>
export type ErrorBody = z.infer<typeof errorBody>

export const nothing = z.object({})
export const done = z.object({ done: z.literal(true) })

/** A frame of an original and the frame of a made item that stands beside it. */
export const framePair = z.object({
  label: z.string().describe('The timecode, or the number of the frame'),
  original: z.object({ fileId: id, frame: z.int() }),
  made: z.object({ fileId: id, frame: z.int() }),
})
