import { stepKinds } from '@ennick/core'
import { z } from 'zod'
import { evidenceRow, framePair, id, verdict } from './common.ts'

export const finding = z.object({
  key: z.string(),
  kind: z.string(),
  severity: z.enum(['blocks handoff', 'needs a look', 'note']),
  message: z.string(),
  clipId: id.nullable(),
  clipName: z.string().nullable(),
  volumeLabel: z.string().nullable(),
  pairIds: z.array(id).describe('The pairs that a mend of it would make again'),
  events: z.array(z.int()),
  eventNumbers: z.array(z.string()),
  evidence: z.array(evidenceRow),
  media: z.array(z.enum(['picture', 'sound'])).describe('Whether it touches pictures, sound, or both'),
  trim: z.string().nullable().describe('What its use would give up to be whole, where it can'),
  padSamples: z
    .int()
    .nullable()
    .describe('How much silence would make its recording long enough, where that is a cure'),
  mends: z.array(
    z.enum([
      ...(['repoint', 'make again', 'offload', 'trim', 'take apart'] as const),
      ...(['replace from the start', 'restamp', 'rename', 'pad', 'accept redelivery'] as const),
    ]),
  ),
  rivals: z
    .array(
      z.object({
        clipId: id,
        path: z.string(),
        against: z.string().nullable().describe('Why it cannot stand there as it is, as far as that is known'),
      }),
    )
    .describe('Originals among which a person chooses: those that fit equally well, or newer versions, newest first'),
  known: z
    .string()
    .nullable()
    .describe('The path by which its first event asks for an original, or no more than a name'),
  decision: z.object({ reason: z.string(), decidedAt: z.string() }).nullable(),
  lapsed: z
    .object({
      ...{ reason: z.string(), decidedAt: z.string() },
      because: z.enum(['more is used', 'it stands otherwise']).describe('Since it was decided'),
    })
    .nullable()
    .describe('A decision on it as it was, that does not hold for what it is now'),
  since: z.string().nullable().describe('When it was first shown; null where that is not asked'),
  isNew: z.boolean().describe('Whether that was within the last day'),
})

/** One step of the work on a cut. */
export const workStep = z.object({
  kind: z.enum(stepKinds),
  volumeLabel: z.string().nullable().describe('The volume to put in, to see to as it does not answer, or to copy from'),
  keys: z.array(z.string()).describe('The findings that it is about'),
  blocking: z.int().describe('How many of those block the handoff'),
  pairIds: z.array(id).describe('The pairs that it makes again, or renames'),
  padKeys: z.array(z.string()).describe('Of its findings those that silence at the end of a recording cures as well'),
  blockingAfter: z.int().describe('How many that block are left when it and all before it have cured theirs'),
})

export const searchScope = z
  .enum(['folder', 'below', 'known'])
  .describe('One folder, a folder and all below it, or every file that Ennick knows and that is here now')

export const searchRequest = z
  .object({
    folder: z.string().min(1, 'Choose a folder to search.').nullable().default(null),
    scopes: z
      .array(searchScope)
      .min(1, 'Choose where to search.')
      .max(3)
      .default(['below'])
      .describe('Searched in this order; what one settles is not looked for in the next'),
    findingKeys: z.array(z.string()).nullable().describe('Null looks for everything that a repoint could mend'),
  })
  .refine(({ folder, scopes }) => folder !== null || scopes.every((scope) => scope === 'known'), {
    path: ['folder'],
    message: 'Choose a folder to search.',
  })

/** A frame by which a person sees what a found file is. */
export const candidatePicture = z.object({
  frame: z.int(),
  label: z.string().describe('Its timecode, or its number'),
  shows: z
    .enum(['the same timecode', 'a third of the way', 'head', 'tail'])
    .describe('The same timecode as the small picture of the clip that is looked for'),
})

export const ratedCandidate = z.object({
  candidateId: z.string(),
  path: z.string(),
  refusal: z.string().nullable(),
  mayBeOpened: z.boolean().describe('Whether a person may take it all the same, with a reason'),
  evidence: z.array(evidenceRow),
  index: z.int().describe('Its number among what the search found'),
  pictures: z.array(candidatePicture).describe('None of sound'),
})

export const repointRow = z.object({
  wantedId: z.string(),
  label: z.string(),
  clipId: id.nullable().describe('The clip whose file is looked for'),
  eventNumbers: z.array(z.string()),
  outcome: z.enum(['fits', 'likely', 'ambiguous', 'refused', 'not found']),
  candidateId: z.string().nullable(),
  rule: z.string().nullable(),
  reason: z.string(),
  before: z.string().nullable(),
  known: z.string().nullable().describe('The path that it had, or no more than its name'),
  rated: z.array(ratedCandidate),
})

export const searchResult = z.object({
  jobId: id,
  looked: z.int(),
  unreadable: z.array(z.string()).describe('Folders in which nothing could be searched'),
  scopes: z
    .array(
      z.object({
        scope: searchScope,
        looked: z.int().describe('Files that no place before had'),
        settled: z.int().describe('Sources that it found, or found several of'),
      }),
    )
    .describe('Place by place; the search ended with the first that left nothing open'),
  counts: z.object({
    ...{ asked: z.int(), fits: z.int(), likely: z.int(), ambiguous: z.int(), refused: z.int(), notFound: z.int() },
  }),
  rows: z.array(repointRow),
})

/** Whether a folder holds everything. */
export const collectionResult = z.object({
  looked: z.int(),
  needed: z.array(
    z.object({
      clipId: id,
      name: z.string(),
      outcome: z
        .enum(['there', 'another', 'missing'])
        .describe('Its content is there, another content has its name, or neither is there'),
      path: z.string().nullable(),
      sizeBytes: z.number(),
    }),
  ),
  extra: z.array(z.object({ path: z.string(), sizeBytes: z.number() })).describe('The largest that nobody asked for'),
  extraCount: z.int(),
  extraBytes: z.number(),
  unknown: z.int().describe('Events without a known original: what they need cannot be told'),
  stills: z.int().describe('Numbered stills, which are not compared'),
  unreadable: z.array(z.string()).describe('Folders in which nothing could be looked at'),
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

const place = z.object({ path: z.string(), volumeLabel: z.string() })
export const movedOriginal = z.object({ clipId: id, name: z.string(), was: place, is: place })

export const mend = z.object({
  id,
  cutId: id.nullable(),
  kind: z.enum([
    ...(['repoint', 'make again', 'restamp', 'trim', 'take apart', 'untie'] as const),
    ...(['replace from the start', 'rename', 'pad', 'accept redelivery'] as const),
  ]),
  title: z.string(),
  changes: z
    .array(z.object({ label: z.string(), before: z.string().nullable().describe('What the link pointed at') }))
    .describe('The first 50'),
  changeCount: z.int(),
  state: z.enum(['waiting', 'done', 'failed', 'undone']),
  createdAt: z.string(),
  undoneAt: z.string().nullable(),
})

export const redelivered = z.object({
  clips: z
    .array(
      z.object({
        ...{ clipId: id, name: z.string(), path: z.string(), volumeLabel: z.string(), made: z.int() },
        saidPixelAspect: z.string().nullable().describe('Set by hand for what it held before; it stays'),
      }),
    )
    .describe('Those that hold other content than when they were first seen, with what was made of what they were'),
  mend: mend.nullable().describe('Null where it was only asked'),
})
export type Redelivered = z.infer<typeof redelivered>

export const renamed = z.object({
  mends: z.array(mend).describe('One, where nothing was in the way of any of them'),
  left: z.array(z.object({ name: z.string(), reason: z.string() })),
})

export const trimmed = z.object({
  mend: mend,
  cutId: id.describe('The new version of the cut, with its uses trimmed'),
})

/** What a mend of a cut's events came to, or would. */
export const eventsMended = z.object({
  told: z.array(z.string()).describe('What becomes of each event'),
  mend: mend.nullable(),
  cutId: id.nullable().describe('The new version of the cut, where one was made'),
})

/** What a mend came to, looked at anew. */
export const mendProof = z.object({
  clips: z.array(
    z.object({
      clipId: id,
      name: z.string(),
      paths: z.array(z.string()),
      lies: z.boolean().describe('Whether all of its files lie there now, with the size and time that are known'),
      pairs: z.array(z.object({ name: z.string(), verdict })),
      uses: z.array(z.object({ cut: z.string(), number: z.string(), state: z.string() })),
      frames: z.array(framePair).describe('Original and proxy at head, middle and tail of its first uses'),
    }),
  ),
  clipCount: z.int().describe('Clips that it changed; the first of them are in `clips`'),
  uses: z.int().describe('Events of the newest cuts that rest on them'),
  onOriginal: z.int().describe('Of those, on their original'),
})

export type FindingRow = z.infer<typeof finding>
export type WorkStep = z.infer<typeof workStep>
export type RepointPlanRow = z.infer<typeof repointRow>
export type SearchResult = z.infer<typeof searchResult>
export type SearchScope = z.infer<typeof searchScope>
export type CollectionResult = z.infer<typeof collectionResult>
export type MovedOriginal = z.infer<typeof movedOriginal>
export type MendProof = z.infer<typeof mendProof>
export type Mend = z.infer<typeof mend>
export type CandidatePicture = z.infer<typeof candidatePicture>
