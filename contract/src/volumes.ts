import { hashKinds } from '@ennick/core'
import { z } from 'zod'
import { fileRole, framePair, id } from './common.ts'

export const volumeKind = z.enum([
  ...(['card', 'recorder', 'disc', 'shuttle'] as const),
  ...(['drive', 'share', 'folder', 'managed', 'upload'] as const),
])

export const manifest = z.object({
  id,
  path: z.string(),
  files: z.int(),
  createdAt: z.string(),
  verifyJobId: id.nullable().describe('The newest verification, running or ended'),
})

/** What the label on a volume's box says of everything on it; what is not said is left out. */
export const boxLabel = z.object({
  day: z.string().trim().max(80).optional(),
  camera: z.string().trim().max(80).optional(),
  reel: z.string().trim().max(80).optional(),
  unit: z.string().trim().max(80).optional(),
})

export const volume = z.object({
  id,
  label: z.string(),
  kind: z.string(),
  rootPath: z.string(),
  notes: z.string(),
  box: boxLabel,
  isRemovable: z.boolean().describe('It leaves again: what is only there should be offloaded'),
  hasMarker: z.boolean(),
  isWatched: z.boolean(),
  isHere: z.boolean(),
  isAllowed: z.boolean().describe('Its folder is among those that Ennick may use; what is not is away'),
  isAnswering: z.boolean().describe('False while its share or disk hangs, and says nothing at all: it is away then'),
  isTaken: z
    .boolean()
    .describe('A box that is away, with something else at its place: another box is in, or it was formatted'),
  lastSeenAt: z.string().nullable(),
  lastScanAt: z.string().nullable(),
  files: z.int(),
  clips: z.int(),
  problems: z.int(),
  goneFiles: z.int(),
  moved: z
    .int()
    .describe('Originals whose content lies at another place: on it, where it is here; elsewhere, where it is away'),
  toReadAgain: z.int().describe('Files of which a version before this one read less: the next scan reads them again'),
  growingFiles: z
    .int()
    .describe(
      'Media files that the last scan left unread, as something was still writing them: they are read after it',
    ),
  otherFiles: z.int(),
  unreadKinds: z
    .array(z.object({ ending: z.string(), files: z.int(), bytes: z.number() }))
    .describe('Other files that by their ending or size may be picture or sound of a kind that is not read here'),
  bytes: z.number(),
  onlyHere: z.int().describe('Clips that are on no volume that stays'),
  usedClips: z.int().describe('Clips that a cut uses'),
  notCompared: z
    .object({ clips: z.int(), bytes: z.number() })
    .describe(
      'Clips with a copy on it, or of a card’s elsewhere, that nobody has compared; what reading both comes to',
    ),
  compareJobId: id.nullable().describe('The newest comparison of its copies'),
  waitingProxies: z.int().describe('Small proxies whose originals have not come'),
  freeBytes: z.number().nullable().describe('Null while it is away'),
  roles: z
    .array(z.object({ path: z.string(), role: fileRole }))
    .describe('What people said that the files in its places are; an empty path is all of it'),
  manifests: z.array(manifest),
  scanJobId: id.nullable().describe('The scan that is waiting or running'),
  offloadJobId: id.nullable().describe('The newest offload of it'),
  fetchJobIds: z.array(id).describe('What is being fetched to it; where nothing is, the newest that was'),
})

export const newVolume = z.object({
  label: z.string().trim().min(1, 'Write the label that is on the box.').max(80),
  kind: volumeKind,
  rootPath: z.string().min(1, 'Choose a folder.'),
  box: boxLabel.default({}),
})

export const changedVolume = z.object({
  label: newVolume.shape.label,
  kind: volumeKind,
  notes: z.string().max(2000),
  isWatched: z.boolean(),
  box: boxLabel
    .optional()
    .describe('Given to its clips in place of what it said before, and where nothing is said; left out, it stays'),
})

export const hashKind = z.enum(hashKinds)

/** Below the volume's root, level by level. */
const folderOfCopy = z
  .string()
  .trim()
  .min(1, 'Name the folder of the copy.')
  .max(400)
  .regex(/^[^\\\0]+$/, 'Write the folder of the copy with / between its levels.')
  .refine((path) => path.split('/').every((name) => name.trim() === name && name !== ''), {
    message: 'A level of the folder of the copy has no name, or a blank at its end.',
  })
  .refine((path) => !path.split('/').some((name) => name.startsWith('.')), {
    message: 'A name that begins with a dot is hidden from scans.',
  })

export const offloadRequest = z.object({
  destinationId: id,
  folder: folderOfCopy,
  hash: hashKind,
  leave: z.array(id).max(100_000).default([]).describe('Clips that are not copied; everything else is'),
  mendsLost: z.boolean().default(false).describe('Whether lost originals are pointed at the copies of their content'),
})

/** A clip on a volume, to be taken or left. */
export const volumeClip = z.object({
  clipId: id,
  name: z.string(),
  path: z.string().describe('Of its first file there'),
  startTimecode: z.string().nullable(),
  bytes: z.number().describe('Of its files there'),
  isSafe: z.boolean().describe('Whether it is on a volume that stays, too'),
})

/** What neither a scan nor a copy goes through, by its kind. */
export const passedOverKind = z.object({
  what: z.enum([
    ...['link', 'hidden or of the system', 'neither file nor folder', 'data folder of an Ennick'],
    ...['manifest history that does not hold', 'manifest history that went on otherwise there'],
  ] as const),
  total: z.int(),
  first: z.array(z.string()).describe('Paths, five at most; of a folder the folder alone'),
})

export const offloadPlan = z.object({
  files: z.int(),
  bytes: z.number(),
  already: z.int().describe('Files that are at the destination'),
  left: z.int().describe('Files that are left by choice'),
  freeBytes: z.number(),
  leftBytes: z.number().describe('What would be free afterwards; below zero it does not fit'),
  target: z.string(),
  unreadable: z
    .array(z.object({ path: z.string(), reason: z.string() }))
    .describe('Folders and files that cannot be read: they, and what is in them, would not be copied'),
  passedOver: z.array(passedOverKind).describe('What no copy goes through'),
  listedBy: z
    .array(hashKind)
    .describe('Checksums of its own manifests: each copy is held against them where the same is chosen'),
  blocked: z.string().nullable(),
})

export const fetchRequest = z.object({
  address: z.string().min(1).max(2000).describe('Of a list of checksums; what it names lies beside it'),
  folder: folderOfCopy,
})

export const fetchPlan = z.object({
  name: z.string().describe('The list’s address, without what gives leave to read it'),
  files: z.int(),
  bytes: z.number().nullable().describe('Null where the list does not say how large each is'),
  already: z.int().describe('Files of these names that are there; each will be compared'),
  passedOver: z.array(z.string()).describe('Named, and not fetched: hidden files, and the store’s own manifests'),
  paths: z.array(z.string()).describe('The first of them'),
  freeBytes: z.number(),
  target: z.string(),
  blocked: z.string().nullable(),
})

export const jobDetails = z.object({
  lines: z
    .array(
      z.object({
        ...{ path: z.string(), state: z.string(), detail: z.string().nullable() },
        bytes: z
          .object({ done: z.number(), of: z.number().nullable() })
          .optional()
          .describe('Of what is fetched: how much has come, and of how much where that is known'),
      }),
    )
    .describe('The first 5000; 200 while it runs'),
  total: z.int(),
  counts: z.array(z.object({ state: z.string(), lines: z.int() })).describe('How many there are of each state'),
})

/** A small proxy that the camera made, with the original that it fits. */
export const proxyOffer = z.object({
  fileId: id,
  path: z.string(),
  volumeLabel: z.string(),
  raster: z.string(),
  outcome: z
    .enum(['fits', 'likely', 'ambiguous', 'waits'])
    .describe('Beyond doubt; best and with doubts; several alike; its original is not known'),
  reason: z.string(),
  clipId: id.nullable().describe('Null while none is chosen'),
  clipName: z.string().nullable(),
  rivals: z.array(z.object({ clipId: id, path: z.string() })).describe('What it may be a proxy of, best first'),
  agrees: z.boolean().describe('Whether everything that must be equal is'),
  differences: z.array(z.string()),
  frames: z.array(framePair).describe('Pictures of both beside each other, of the likeliest original; empty without'),
})

export const otherFiles = z.object({
  paths: z.array(z.string()).describe('The first 5000'),
  total: z.int(),
  passedOver: z.array(passedOverKind),
  rule: z.string(),
})

export const problemFile = z.object({ id, path: z.string(), sizeBytes: z.number(), problem: z.string() })

export const folderListing = z.object({
  path: z.string().nullable().describe('Null for the list of allowed roots'),
  parent: z.string().nullable(),
  folders: z.array(z.object({ name: z.string(), path: z.string() })),
  mediaFiles: z.int(),
  media: z.array(z.string()).describe('The names of the first of them'),
  otherFiles: z.int(),
  freeBytes: z.number().nullable(),
  mounts: z
    .array(z.object({ name: z.string(), path: z.string(), sizeBytes: z.number(), freeBytes: z.number() }))
    .describe('With the allowed roots: what is mounted inside them'),
})

/** What lies in a folder and below, before anything of it is read. */
export const folderSurvey = z.object({
  mediaFiles: z.int(),
  otherFiles: z.int(),
  bytes: z.number().describe('Of the media files'),
  isWhole: z.boolean().describe('False when it holds more than was counted'),
  folders: z
    .array(z.object({ path: z.string(), mediaFiles: z.int(), otherFiles: z.int(), bytes: z.number() }))
    .describe('Every folder with files right in it; an empty path is the folder itself'),
  suggested: boxLabel.describe('What the names of its folders and files suggest'),
})

/** What removing a volume comes to. */
export const removeVolumePreview = z.object({
  clips: z.int().describe('Those that go with it'),
  described: z.int().describe('Those of which people, logs or rules have said something, which goes too'),
  copies: z.int().describe('Clips elsewhere of which it holds a copy, which is not known any more'),
  reasons: z.array(z.string()).describe('Why it stays; none when it may go'),
})

export type BoxLabel = z.infer<typeof boxLabel>
export type Volume = z.infer<typeof volume>
export type NewVolume = z.infer<typeof newVolume>
export type VolumeKindName = z.infer<typeof volumeKind>
export type ProblemFile = z.infer<typeof problemFile>
export type FolderListing = z.infer<typeof folderListing>
export type FolderSurvey = z.infer<typeof folderSurvey>
export type Manifest = z.infer<typeof manifest>
export type HashKindName = z.infer<typeof hashKind>
export type RemoveVolumePreview = z.infer<typeof removeVolumePreview>
const namedFile = z.object({ path: z.string(), reason: z.string() })

export const heldElsewhere = z.object({
  files: z.int().describe('Files that are on it now'),
  bytes: z.number(),
  aloneCount: z.int().describe('Of those the ones that are nowhere else, as far as can be told'),
  alone: z.array(namedFile).describe('The first of them'),
  copies: z
    .array(z.object({ label: z.string(), folder: z.string().nullable(), files: z.int() }))
    .describe('Where copies lie that were read back, or compared whole; a folder where an offload made them'),
  notLookedAt: z
    .array(z.object({ label: z.string(), folder: z.string(), reason: z.string() }))
    .describe('Where copies were made that cannot be looked at now'),
  unreadable: z.array(z.string()).describe('What is on it and cannot be read'),
  passedOver: z.array(passedOverKind).describe('What no offload copies'),
})

export type HeldElsewhere = z.infer<typeof heldElsewhere>
export type PassedOverKind = z.infer<typeof passedOverKind>
export type OffloadPlan = z.infer<typeof offloadPlan>
export type ProxyOffer = z.infer<typeof proxyOffer>
export type VolumeClip = z.infer<typeof volumeClip>
export type JobDetails = z.infer<typeof jobDetails>
export type FetchPlan = z.infer<typeof fetchPlan>
