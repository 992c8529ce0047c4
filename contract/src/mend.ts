import { z } from 'zod'
import { evidenceRow, id } from './common.ts'

export const finding = z.object({
  key: z.string(),
  kind: z.string(),
  severity: z.enum(['blocks handoff', 'needs a look', 'note']),
  message: z.string(),
  clipId: id.nullable(),
  clipName: z.string().nullable(),
  volumeLabel: z.string().nullable(),
  pairId: id.nullable(),
  events: z.array(z.int()),
  eventNumbers: z.array(z.string()),
  evidence: z.array(evidenceRow),
  mends: z.array(z.enum(['repoint', 'make again'])),
  rivals: z.array(z.object({ clipId: id, path: z.string() })).describe('Originals that fit equally well'),
  decision: z.object({ reason: z.string(), decidedAt: z.string() }).nullable(),
})

export const searchRequest = z.object({
  folder: z.string().min(1, 'Choose a folder to search.'),
  findingKeys: z.array(z.string()).nullable().describe('Null looks for everything that a repoint could mend'),
})

export const ratedCandidate = z.object({
  candidateId: z.string(),
  path: z.string(),
  refusal: z.string().nullable(),
  mayBeOpened: z.boolean().describe('Whether a person may take it all the same, with a reason'),
  evidence: z.array(evidenceRow),
})

export const repointRow = z.object({
  wantedId: z.string(),
  label: z.string(),
  eventNumbers: z.array(z.string()),
  outcome: z.enum(['fits', 'likely', 'ambiguous', 'refused', 'not found']),
  candidateId: z.string().nullable(),
  rule: z.string().nullable(),
  reason: z.string(),
  before: z.string().nullable(),
  rated: z.array(ratedCandidate),
})

export const searchResult = z.object({
  jobId: id,
  looked: z.int(),
  unreadable: z.array(z.string()).describe('Folders in which nothing could be searched'),
  counts: z.object({
    ...{ asked: z.int(), fits: z.int(), likely: z.int(), ambiguous: z.int(), refused: z.int(), notFound: z.int() },
  }),
  rows: z.array(repointRow),
})

export const repointRequest = z.object({
  searchJobId: id,
  choices: z
    .array(
      z.object({
        wantedId: z.string(),
        candidateId: z.string(),
        reason: z.string().max(500).optional().describe('Why a refused file is taken all the same'),
      }),
    )
    .min(1, 'Choose at least one file.'),
})

export const mend = z.object({
  id,
  cutId: id.nullable(),
  kind: z.enum(['repoint', 'make again', 'restamp']),
  title: z.string(),
  changes: z.array(z.object({ label: z.string(), before: id.nullable().describe('What the link pointed at') })),
  state: z.enum(['waiting', 'done', 'failed', 'undone']),
  createdAt: z.string(),
  undoneAt: z.string().nullable(),
})

export type FindingRow = z.infer<typeof finding>
export type RepointPlanRow = z.infer<typeof repointRow>
export type SearchResult = z.infer<typeof searchResult>
export type Mend = z.infer<typeof mend>
