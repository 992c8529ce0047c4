import { z } from 'zod'

export const baySlot = z.object({ name: z.string(), isIn: z.boolean(), path: z.string() })
export const readyCut = z.object({ fileName: z.string(), about: z.string() })

export const uploadingCamera = z.object({ clips: z.int(), uploaded: z.int(), folder: z.string() })

export type BaySlot = z.infer<typeof baySlot>
export type ReadyCut = z.infer<typeof readyCut>
