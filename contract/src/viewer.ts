import { pairKinds, shownChoices } from '@ennick/core'
import { z } from 'zod'
import { evidenceRow, id, presence, rate, verdict } from './common.ts'

export const shownChoice = z.enum(shownChoices).describe('Which file of a clip is looked at')

export const shownState = z.object({
  choice: shownChoice,
  apart: z
    .array(z.object({ clipId: id, title: z.string(), choice: shownChoice }))
    .describe('The clips that are set apart from it'),
})

/** One file, or set of files, that a clip can be looked at in. */
export const viewSide = z.object({
  id: z.string().describe('"original", or the id of a pair'),
  kind: z.enum(['original', ...pairKinds]),
  name: z.string(),
  recipe: z.string().nullable(),
  raster: z.string(),
  codec: z.string(),
  volumeLabel: z.string(),
  path: z.string().describe('Of its first file, below the root of its volume'),
  presence,
  sizeBytes: z.number(),
  bitsPerSecond: z.number().nullable().describe('Over its whole length'),
  verdict: verdict.nullable(),
  parts: z
    .array(z.object({ fileId: id, startFrame: z.int(), frames: z.int() }))
    .describe('Its picture files, by the first of the side’s frames that is in each'),
  frames: z.int().describe('Its own length, in frames of its own rate'),
  rate,
  basis: z.enum(['timecode', 'first frame', 'time']).describe('What puts its frames beside the original’s'),
  shiftFrames: z.int().describe('Its frame beside the first of the original'),
  playsAsItIs: z.boolean().describe('Streamed from its file; everything else is rendered for the screen'),
  hasViewingLut: z.boolean().describe('Whether its pictures pass through a viewing LUT to be shown'),
  tracks: z.array(z.string()).describe('Its sound channels, by the names that a recorder gave them'),
  comparison: z.array(evidenceRow).nullable(),
})

export const viewNote = z.object({
  id,
  frame: z.int(),
  timecode: z.string(),
  text: z.string(),
  kind: z.enum(['note', 'approved']),
  seenOn: z.string().describe('What was shown when it was written'),
  isOnOriginal: z.boolean(),
  isOfAnother: z.boolean().describe('Whether the original holds something else by now'),
  at: z.string(),
})

export const clipView = z.object({
  clipId: id,
  title: z.string(),
  kind: z.enum(['picture', 'sound', 'still']),
  rate: rate.describe('At which its frames are counted: its own, or the production’s for sound'),
  dropFrame: z.boolean(),
  startFrame: z.int().nullable().describe('Its first timecode; null where it has none'),
  frames: z.int(),
  sides: z.array(viewSide),
  shown: z.object({
    choice: shownChoice,
    isOwn: z.boolean().describe('Whether the clip is set apart from the production’s choice'),
    sideId: z.string().nullable(),
    reason: z.string(),
  }),
  uses: z.array(z.object({ label: z.string(), startFrame: z.int(), endFrame: z.int(), note: z.string().nullable() })),
  recording: z
    .object({
      name: z.string(),
      presence,
      tracks: z.array(z.string()).describe('Its channels, by the names that a recorder gave them'),
      used: z.array(z.int()).describe('Those that the sync uses'),
      isCameraHeard: z.boolean().describe('Whether the camera’s own sound is kept beside it'),
    })
    .nullable()
    .describe('The recording that it was synced with'),
  marks: z.object({ inFrame: z.int().nullable(), outFrame: z.int().nullable() }),
  notes: z.array(viewNote),
})

export const frameSize = z
  .enum(['small', 'screen', 'full'])
  .describe('320 pixels wide, as large as a screen shows, or every pixel')

export const playQuery = z.object({
  from: z.coerce.number().int().min(0).default(0).describe('The first frame, counted from the side’s first'),
  frames: z.coerce.number().int().min(1).max(1_000_000).optional().describe('How many; to the end unless given'),
  tracks: z
    .string()
    .regex(/^(\d{1,2}(,\d{1,2}){0,31})?$/, 'Tracks are numbers with commas between, the first is 0.')
    .optional()
    .describe('The sound channels that are heard; two are left and right, any other number is heard on both sides'),
  recording: z
    .enum(['yes', 'no'])
    .default('no')
    .describe('Whether the synced recording lies beside it; its channels come after the side’s own'),
})

/** The pictures of a cut in their order, to be watched one after another. */
export const cutWatch = z.object({
  cutId: id,
  name: z.string(),
  events: z.array(
    z.object({
      position: z.int(),
      number: z.string(),
      track: z.string(),
      record: z.string(),
      clipId: id,
      clipName: z.string(),
      startFrame: z.int().describe('Of the clip, counted from its first'),
      endFrame: z.int(),
      state: z.string(),
    }),
  ),
  without: z.int().describe('Pictures that land on no clip, and so cannot be watched'),
})

export type ClipView = z.infer<typeof clipView>
export type ViewSide = z.infer<typeof viewSide>
export type ViewNote = z.infer<typeof viewNote>
export type CutWatch = z.infer<typeof cutWatch>
