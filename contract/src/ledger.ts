import { z } from 'zod'

export const ledgerCopy = z.object({
  name: z.string(),
  madeAt: z.string(),
  bytes: z.number(),
  isHere: z.boolean().describe('It lies in the data folder'),
  isElsewhere: z.boolean().describe('It lies in the second place'),
})

export const ledgerCopies = z.object({
  folder: z.string().describe('Where copies of the ledger lie, in the data folder'),
  copies: z.array(ledgerCopy).describe('The newest first'),
  elsewhere: z
    .object({
      folder: z.string(),
      isHere: z.boolean(),
      isOnOneDisk: z.boolean().describe('It is on the disk of the data folder: what ends that ends both'),
    })
    .nullable()
    .describe('A second place for each copy, on another disk if it is chosen well'),
  isCopying: z.boolean(),
  problem: z.string().nullable().describe('Why the last copy did not come about'),
})
export type LedgerCopies = z.infer<typeof ledgerCopies>
