import { cameraSounds, syncMethods } from '@ennick/core'
import { z } from 'zod'
import { id } from './common.ts'

export const soundSyncRequest = z.object({
  clipIds: z.array(id).max(50_000).describe('Pictures to look at; none for all'),
  by: z
    .discriminatedUnion('method', [
      z.object({ method: z.literal('timecode') }),
      z.object({ method: z.literal('waveform'), jobId: id.describe('The job that listened to them') }),
      z.object({ method: z.literal('points') }),
    ])
    .default({ method: 'timecode' }),
  clocks: z
    .array(z.string().max(200))
    .max(1000)
    .default([])
    .describe('Cards whose wrong clock is put right: what their sound does not tell, their timecode does then'),
  choices: z
    .array(z.object({ clipId: id, soundId: id }))
    .max(10_000)
    .default([])
    .describe('What a person chose where several recordings fit'),
  nudges: z
    .array(z.object({ clipId: id, samples: z.number().int().min(-100_000_000).max(100_000_000) }))
    .max(10_000)
    .default([])
    .describe('By how many samples of the recording a person moved the place that was found'),
  tracks: z
    .array(z.int().min(0).max(63))
    .max(64)
    .nullable()
    .default(null)
    .describe('The tracks of the recordings that are used, the first is 0; null for all'),
  cameraSound: z.enum(cameraSounds).default('muted').describe('What becomes of the camera’s own sound'),
  withWords: z.boolean().default(false).describe('Scene and take go over where the picture says none'),
  apply: z.boolean(),
})

const foundSound = z.object({
  soundId: id.describe('Of several files of one recording the first'),
  names: z.array(z.string()),
  timecode: z.string().describe('Of the recording at the first frame of the picture; empty where it has none'),
  offset: z.string().describe('The sample of the recording at the first frame of the picture, exact'),
  method: z.enum(syncMethods),
  likeness: z.number().nullable().describe('From 0 to 1: how alike the two sound'),
  drift: z.string().nullable().describe('How the two clocks run apart, where that could be measured'),
  lacks: z.string().nullable().describe('What of the picture has no sound; null when nothing'),
})

export const soundSync = z.object({
  pictures: z.int().describe('How many were looked at'),
  sounds: z.int().describe('Recordings of the whole production that could be used'),
  synced: z
    .array(
      foundSound.extend({
        clipId: id,
        name: z.string(),
        startTimecode: z.string(),
        sampleRate: z.int(),
        samplesPerFrame: z.number().describe('Of the recording, over one frame of the picture'),
        nudged: z.int().describe('Samples by which a person moved it'),
      }),
    )
    .describe('The first 1000'),
  syncedTotal: z.int(),
  several: z
    .array(z.object({ clipId: id, name: z.string(), candidates: z.array(foundSound) }))
    .describe('Left to a person; the first 1000'),
  unsynced: z.array(z.object({ clipId: id, name: z.string(), why: z.string() })).describe('The first 1000'),
  unsyncedTotal: z.int(),
  unusedSounds: z
    .array(z.object({ clipId: id, name: z.string(), why: z.string() }))
    .describe('Recordings that no picture was taken during, when all pictures were looked at; the first 1000'),
  clocks: z
    .array(
      z.object({
        group: z.string(),
        words: z.string(),
        agreeing: z.int().describe('Pictures whose sound says so'),
        others: z.int().describe('Pictures of the card that only its timecode can place'),
      }),
    )
    .describe('Cards whose timecode was wrong all over'),
  tracks: z
    .array(z.object({ track: z.int(), names: z.array(z.string()) }))
    .describe('The tracks of the recordings that were found, with the names that they carry'),
  changes: z.int().describe('Cells that change, or did'),
  applied: z.boolean(),
})

export const syncedListRequest = z.object({
  clipIds: z.array(id).min(1, 'Choose at least one clip.').max(20_000),
  format: z.enum(['otio', 'xmeml']),
})

export const syncedList = z.object({
  fileName: z.string(),
  text: z.string(),
  clips: z.int(),
  leftOut: z.array(z.string()).describe('What of the chosen clips is not in it, and why'),
  notHere: z.array(z.string()).describe('Files that it names and that are not here now'),
  losses: z
    .array(z.object({ feature: z.string(), becomes: z.string(), events: z.int() }))
    .describe('What the format does not say as it is'),
})

export type SyncedList = z.infer<typeof syncedList>
export type SoundSyncRequest = z.infer<typeof soundSyncRequest>
export type SoundSync = z.infer<typeof soundSync>
