import { z } from 'zod'
import { id } from './common.ts'

export const lut = z.object({
  id: z.string(),
  name: z.string(),
  group: z.string(),
  kind: z.enum(['1D', '3D']),
  size: z.int(),
  isBuiltIn: z.boolean(),
})

const text = z.string().max(20_000_000, 'A .cube file of more than 20 MB is not read.')

export const newLut = z.object({
  name: z.string().trim().min(1, 'Give it a name.').max(80),
  group: z.string().trim().min(1, 'Give its group a name.').max(60),
  text: text.describe('The .cube file'),
})

export const lutPreview = z.object({
  title: z.string().nullable(),
  kind: z.enum(['1D', '3D']),
  size: z.int(),
  before: z.string().nullable().describe('A frame as a data address; null where no clip was given'),
  after: z.string().nullable(),
})

export const lutTrial = z.object({ text, clipId: id.nullable() })

/** What clips pass through instead of a recipe's own LUT; null is none. */
export const lutChoice = z.object({ lutId: z.string().nullable() })

export const cameraLut = lutChoice.extend({ camera: z.string() })

export const lutAssignments = z.object({
  cameras: z.array(cameraLut.extend({ clips: z.int() })).describe('Those that were given one'),
  open: z.array(z.object({ camera: z.string(), clips: z.int() })).describe('Cameras that were given none'),
  clips: z.array(lutChoice.extend({ clipId: id, name: z.string() })),
})

/** For cameras and clips; "remove" lets the recipe's own count again. */
export const assignLut = z.object({
  cameras: z.array(z.string()).default([]),
  clipIds: z.array(id).max(50_000).default([]),
  choice: z.union([lutChoice, z.literal('remove')]),
})

export type Lut = z.infer<typeof lut>
export type LutAssignments = z.infer<typeof lutAssignments>
