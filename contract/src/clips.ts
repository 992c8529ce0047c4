import { cameraSounds, syncMethods } from '@ennick/core'
import { z } from 'zod'
import { evidenceRow, fileRole, id, presence, rate, spanStrip, verdict } from './common.ts'
import { historyLine } from './productions.ts'

export const clip = z.object({
  id,
  name: z.string().describe('The file name'),
  title: z.string().describe('The name that people gave it, else the one that it came with'),
  described: z.record(z.string(), z.string()).describe('What is said of it, by field'),
  kind: z.enum(['picture', 'sound', 'still']),
  codec: z.string(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  rate: rate.nullable(),
  startTimecode: z.string().nullable(),
  duration: z.string().nullable().describe('The length as a label that counts from nought'),
  frames: z.int().nullable(),
  channels: z.string(),
  reel: z.string().nullable(),
  volumeLabel: z.string(),
  volumeKind: z.string(),
  path: z.string(),
  sizeBytes: z.number(),
  presence,
  proxies: z.array(verdict),
  proxy: z.string().describe('The word for the worst of them; "no proxy", or empty for what needs none'),
  proxyRaster: z.string(),
  uses: z.int(),
  notice: z.string().describe('What is noteworthy about it, in words'),
  facts: z
    .record(z.string(), z.union([z.string(), z.number(), z.null()]))
    .describe('The rest of what its file says, by field'),
})

export const factGroup = z.object({
  title: z.string(),
  facts: z.array(z.object({ label: z.string(), value: z.string() })),
})

export const cellEdit = z.object({
  at: z.string(),
  title: z.string(),
  field: z.string(),
  before: z.string(),
  after: z.string(),
  isUndone: z.boolean(),
})

export const clipDetail = z.object({
  clip,
  pixelShapes: z
    .array(
      z.object({
        aspect: z.string(),
        isTold: z.boolean().describe('What the file says'),
        isNow: z.boolean().describe('What holds'),
        shown: z.object({ width: z.int(), height: z.int() }).describe('As what it is shown, upright'),
      }),
    )
    .describe('Pixel aspects that its picture may have'),
  factGroups: z.array(factGroup),
  described: z.array(
    z.object({
      field: z.string(),
      title: z.string(),
      value: z.string(),
      from: z.enum(['file', 'sidecar', 'rule', 'person']),
    }),
  ),
  role: z.object({
    role: fileRole,
    reason: z.string().nullable().describe('What tells it; null for an original'),
    volumeId: id,
    path: z.string().describe('Of its first file, below the root of its volume'),
    declared: fileRole.nullable().describe('What a person said of this very file'),
  }),
  notices: z.array(z.object({ kind: z.string(), message: z.string() })),
  tracks: z.array(z.string()).describe('The name of each sound channel, where a recorder gave it'),
  levels: z
    .array(z.string())
    .nullable()
    .describe('What each sound channel holds, in words; null until the clip was listened to'),
  copies: z.array(z.object({ path: z.string(), volumeLabel: z.string(), presence, isVerified: z.boolean() })),
  syncedSound: z
    .object({
      recordings: z.array(z.object({ clipId: id, name: z.string(), presence })),
      missing: z.int().describe('Recordings of it that are no clips of the production any more'),
      method: z.enum(syncMethods),
      offset: z.string(),
      tracks: z.array(z.string()).nullable().describe('Those that are used; null for all'),
      cameraSound: z.enum(cameraSounds),
    })
    .nullable()
    .describe('The recording that ran while it was taken'),
  hasSound: z.boolean(),
  files: z.array(z.object({ path: z.string(), sizeBytes: z.number(), presence })),
  strip: spanStrip.nullable(),
  pairs: z.array(z.object({ id, name: z.string(), verdict, comparison: z.array(evidenceRow).nullable() })),
  uses: z.array(z.object({ cutId: id, cutName: z.string(), event: z.string(), track: z.string(), state: z.string() })),
  history: z.array(historyLine),
  edits: z.array(cellEdit),
})

export type Clip = z.infer<typeof clip>
export type ClipDetail = z.infer<typeof clipDetail>
