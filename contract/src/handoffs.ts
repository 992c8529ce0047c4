import { chosenNameTrouble, hashKinds } from '@ennick/core'
import { z } from 'zod'
import { evidenceRow, id, rate } from './common.ts'
import { job } from './make.ts'
import { finding } from './mend.ts'

export const preflight = z.object({
  ready: z.boolean(),
  checks: z.array(
    z.object({
      id: z.string(),
      question: z.string(),
      result: z.enum(['passes', 'decided', 'needs a look', 'blocks']),
      answer: z.string(),
      kinds: z.array(z.string()).describe('The kinds of what was found'),
    }),
  ),
  tried: z
    .object({ of: z.int(), done: z.int() })
    .describe('Originals of the cut, and those of them that were decoded at head, quarters and tail'),
  open: z.array(finding),
  decided: z.array(finding),
})

export const writeOptions = z.object({
  edlReels: z
    .enum(['whole', 'eight characters'])
    .optional()
    .describe('Reels in the field of an EDL: whole, or cut to the eight characters that CMX 3600 has'),
  xmemlVersion: z.coerce
    .number()
    .pipe(z.union([z.literal(4), z.literal(5)]))
    .optional()
    .describe('The version of timeline XML'),
})

export const writtenFormat = z.object({
  format: z.enum(['edl', 'otio', 'xmeml']),
  name: z.string(),
  fileName: z.string(),
  reason: z.string().nullable().describe('Why it is not written; null where it is'),
  losses: z
    .array(
      z.object({
        name: z.string(),
        carried: z.enum(['as a remark', 'no']),
        becomes: z.string(),
        events: z.array(z.string()).describe('The numbers of the events concerned; none where it is the whole cut'),
      }),
    )
    .describe('What the format does not say as it is'),
  replaced: z.array(z.object({ what: z.enum(['reel', 'event number']), from: z.string(), to: z.string() })),
})

export const decision = z.object({
  findingKey: z.string(),
  reason: z.string().trim().min(3, 'Say why the handoff may go on with this open.').max(2000),
})

export const handoff = z.object({
  id,
  cutId: id,
  name: z.string(),
  folder: z.string(),
  files: z.array(z.object({ name: z.string(), bytes: z.number(), xxh64: z.string() })),
  leftOut: z.array(z.object({ name: z.string(), reason: z.string() })),
  decisions: z.array(z.object({ findingKey: z.string(), reason: z.string(), decidedAt: z.string() })),
  createdAt: z.string(),
})

export const sinceHandoff = z.object({
  changes: z
    .array(z.object({ number: z.string(), track: z.string(), words: z.string() }))
    .nullable()
    .describe('Events of which the cut says another thing now; null where it was not kept what was handed off'),
  blocking: z.int().describe('Findings that would block this handoff now'),
  laterVersion: z
    .object({ cutId: id, version: z.int() })
    .nullable()
    .describe('The newest version of the cut, where that is a later one'),
})

export const pullTarget = z.object({
  of: z.enum(['originals', 'proxies']).describe('Originals for finishing, or what it is watched and cut with'),
  folder: z.string().min(1).describe('A folder that is there'),
  name: z
    .string()
    .trim()
    .min(1, 'Give the folder a name.')
    .max(100)
    .refine((name) => chosenNameTrouble(name) === null, {
      error: ({ input }) => `No folder is called “${input}” on every system: ${chosenNameTrouble(String(input))}.`,
    })
    .describe('Of a folder in it, which is made, or goes on being filled'),
  handles: z
    .int()
    .min(0)
    .max(10_000)
    .nullable()
    .default(null)
    .describe('Frames more at either end of what is used, where no more than that is copied; null for whole files'),
})

export const newPull = pullTarget.extend({ hash: z.enum(hashKinds).default('xxh64') })

/** Every original of a production goes, whole. */
export const archiveTarget = pullTarget.pick({ folder: true, name: true })
export const newArchive = newPull.pick({ folder: true, name: true, hash: true })

const outstandingItem = z.object({ name: z.string(), reason: z.string() })

export const pullPlan = z.object({
  clips: z.int().describe('What the cut uses, recordings among it'),
  files: z.int().describe('Files that are written: whole ones, and stretches'),
  pieces: z.int().describe('Those of them that are stretches'),
  wholeBytes: z.number().describe('Of all of it as whole files'),
  bytes: z.number().describe('Of those that are not in the folder yet'),
  already: z.int(),
  target: z.string(),
  freeBytes: z.number(),
  outstanding: z.array(outstandingItem.extend({ volumeLabel: z.string().nullable() })),
  damaged: z.array(outstandingItem).describe('Originals that go along as they are, and what is wrong with each'),
  blocked: z.string().nullable().describe('Why nothing may be copied there'),
})

export const pull = z.object({
  job,
  asked: newPull,
  target: z.string(),
  outcome: z
    .object({
      copied: z.int(),
      already: z.int(),
      bytes: z.number(),
      manifest: z.string().nullable().describe('Below the folder'),
      events: z
        .object({ of: z.int(), covered: z.int(), short: z.int(), damaged: z.int() })
        .describe('Events, those of which all is in the copy, and those whose original in it is short or damaged'),
      lists: z.string().describe('The folder in it with a table of what is there, and the lists'),
      withoutLists: z.string().nullable().describe('Why no list is there'),
      opened: z
        .array(
          z.object({
            name: z.string().describe('Of the format'),
            missed: z.array(z.object({ number: z.string(), reason: z.string() })),
            missedCount: z.int(),
          }),
        )
        .nullable()
        .describe('The lists as they were read again with nothing but what is in it: which events do not land there'),
      outstanding: z.array(outstandingItem).readonly(),
      outstandingCount: z.int(),
      refused: z.array(z.object({ path: z.string(), reason: z.string() })).readonly(),
      refusedCount: z.int(),
    })
    .nullable()
    .describe('Null until it has ended'),
})

/** An archive that a production is put together again from. */
export const restorePlan = z.object({
  name: z.string().describe('Of the production'),
  rate,
  width: z.int(),
  height: z.int(),
  madeAt: z.string(),
  volumes: z.array(z.object({ label: z.string(), folder: z.string(), isThere: z.boolean() })),
  clips: z.int(),
  lists: z.int(),
  lacks: z.array(outstandingItem).describe('What it does not hold, and why, when it was made'),
  lacksCount: z.int(),
  blocked: z.string().nullable().describe('Why it cannot be done'),
})

export const newRestore = z.object({
  folder: z.string().min(1),
  name: z.string().trim().min(1, 'A production needs a name.').max(120),
  verifies: z.boolean().describe('Whether every file is read back and compared with the archive’s manifests first'),
})

export const restore = z.object({
  job,
  folder: z.string(),
  outcome: z
    .object({
      verified: z.int().nullable().describe('Files that are what the manifests say; null where that was not asked'),
      clips: z.int(),
      recipes: z.array(z.string()).readonly().describe('Recipes that were not known here'),
      cuts: z.array(z.object({ name: z.string(), version: z.int(), events: z.int(), onOriginal: z.int() })).readonly(),
      trouble: z.array(z.object({ path: z.string(), reason: z.string() })).readonly(),
      troubleCount: z.int(),
      lacks: z.array(outstandingItem).describe('What the archive does not hold'),
      lacksCount: z.int(),
    })
    .nullable()
    .describe('Null until it has ended'),
})

/** A finished file that is to be held against the originals of a cut. */
export const finishedTarget = z.object({
  folder: z.string().min(1, 'Choose the folder of the finished file.'),
  name: z
    .string()
    .min(1, 'Choose the finished file.')
    .max(255)
    .refine((name) => !/[/\p{Cc}]/u.test(name), 'That is no name of a file.'),
  start: z.string().nullable().describe('The timecode of the record at which it begins; by the file itself where null'),
})

export const finishedPlan = z.object({
  path: z.string(),
  start: z.string().describe('The timecode of the record at which it is taken to begin'),
  settings: z.array(evidenceRow).describe('What it is beside what cut and production say'),
  events: z.int().describe('Events of picture that are switched on'),
  comparable: z.int().describe('Of those: seen alone somewhere, and on an original that is here'),
  blocked: z.string().nullable().describe('Why it cannot be checked'),
})

export const finished = z.object({
  job,
  path: z.string(),
  start: z.string(),
  outcome: z
    .object({
      fileNow: z
        .enum(['as checked', 'changed since', 'not found', 'not answering'])
        .describe('What lies there now, by size and time'),
      settings: z.array(evidenceRow),
      frames: z.int().describe('That were decoded'),
      events: z.int(),
      asCut: z.int(),
      wrong: z.int().describe('That show something else, or it at another frame'),
      toTheFrame: z.int().describe('Of those as cut: told from the frames before and behind'),
      ofOriginal: z
        .int()
        .describe('Of those as cut: told to hold the fine detail of the original, where a proxy has less'),
      allOff: z.int().nullable().describe('By so many frames nearly all of it runs early; late where it is negative'),
      rows: z.array(
        z.object({
          number: z.string().describe('Of the event'),
          track: z.string(),
          record: z.string().describe('The timecode at which that is so'),
          clipName: z.string(),
          state: z.enum(['off by frames', 'another picture', 'black', 'soft', 'not compared']),
          detail: z.string(),
          frame: z.int().nullable().describe('Of the finished file, counted from its first'),
          original: z.object({ fileId: id, frame: z.int() }).nullable(),
        }),
      ),
      rowCount: z.int(),
    })
    .nullable()
    .describe('Null until it has ended'),
})

export type FinishedTarget = z.infer<typeof finishedTarget>
export type FinishedPlan = z.infer<typeof finishedPlan>
export type Finished = z.infer<typeof finished>
export type RestorePlanInfo = z.infer<typeof restorePlan>
export type Restore = z.infer<typeof restore>
export type PullTarget = z.infer<typeof pullTarget>
export type ArchiveTarget = z.infer<typeof archiveTarget>
export type PullPlanInfo = z.infer<typeof pullPlan>
export type Pull = z.infer<typeof pull>
export type PreflightInfo = z.infer<typeof preflight>
export type Handoff = z.infer<typeof handoff>
export type SinceHandoff = z.infer<typeof sinceHandoff>
export type WrittenFormat = z.infer<typeof writtenFormat>
