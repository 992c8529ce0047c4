import { z } from 'zod'
import { id } from './common.ts'

export const volumeKind = z.enum(['card', 'drive', 'recorder', 'share', 'folder'])

export const volume = z.object({
  id,
  label: z.string(),
  kind: z.string(),
  rootPath: z.string(),
  isHere: z.boolean(),
  lastSeenAt: z.string().nullable(),
  lastScanAt: z.string().nullable(),
  files: z.int(),
  clips: z.int(),
  problems: z.int(),
  goneFiles: z.int(),
  otherFiles: z.int(),
  bytes: z.number(),
  scanJobId: id.nullable().describe('The scan that is waiting or running'),
})

export const newVolume = z.object({
  label: z.string().trim().min(1, 'Write the label that is on the box.').max(80),
  kind: volumeKind,
  rootPath: z.string().min(1, 'Choose a folder.'),
})

export const problemFile = z.object({ id, path: z.string(), sizeBytes: z.number(), problem: z.string() })

export const folderListing = z.object({
  path: z.string().nullable().describe('Null for the list of allowed roots'),
  parent: z.string().nullable(),
  folders: z.array(z.object({ name: z.string(), path: z.string() })),
  mediaFiles: z.int(),
  otherFiles: z.int(),
  freeBytes: z.number().nullable(),
})

export type Volume = z.infer<typeof volume>
export type NewVolume = z.infer<typeof newVolume>
export type VolumeKindName = z.infer<typeof volumeKind>
export type ProblemFile = z.infer<typeof problemFile>
export type FolderListing = z.infer<typeof folderListing>
