import { z } from 'zod'
import { id } from './common.ts'

export const soundSyncRequest = z.object({
  clipIds: z.array(id).max(50_000).describe('Pictures to look at; none for all'),
  choices: z
    .array(z.object({ clipId: id, soundId: id }))
    .max(10_000)
    .default([])
    .describe('What a person chose where several recordings fit'),
  withWords: z.boolean().default(false).describe('Scene and take go over where the picture says none'),
  apply: z.boolean(),
})

const foundSound = z.object({
  soundId: id.describe('Of several files of one recording the first'),
  names: z.array(z.string()),
  timecode: z.string().describe('Of the recording at the first frame of the picture'),
  offset: z.string().describe('The sample of the recording at the first frame of the picture, exact'),
  lacks: z.string().nullable().describe('What of the picture has no sound; null when nothing'),
})

export const soundSync = z.object({
  pictures: z.int().describe('How many were looked at'),
  sounds: z.int().describe('Recordings with a time reference, of the whole production'),
  synced: z
    .array(foundSound.extend({ clipId: id, name: z.string(), startTimecode: z.string() }))
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
  changes: z.int().describe('Cells that change, or did'),
  applied: z.boolean(),
})

export type SoundSyncRequest = z.infer<typeof soundSyncRequest>
export type SoundSync = z.infer<typeof soundSync>
