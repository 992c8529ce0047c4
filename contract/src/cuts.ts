import { z } from 'zod'
import { evidenceRow, id, rate, spanStrip } from './common.ts'

export const eventState = z.enum([
  ...([
    'on original',
    'on proxy',
    'original away',
    'original gone',
    'original damaged',
    'short',
    'unresolved',
  ] as const),
])

export const cut = z.object({
  id,
  name: z.string(),
  format: z.string(),
  fileName: z.string(),
  rate,
  dropFrame: z.boolean(),
  tracks: z.array(z.object({ name: z.string(), kind: z.enum(['picture', 'sound']) })),
  events: z.int(),
  lineId: id.describe('The line of versions that it belongs to'),
  version: z.int(),
  isNewest: z.boolean().describe('Whether it is the newest version of its line'),
  raster: z.object({ width: z.int(), height: z.int() }).nullable().describe('As the list states it'),
  leftOut: z.int().describe('How many bad parts of the list were left out'),
  createdAt: z.string(),
})

/** A cut with where its events land now, which takes a look at everything that it uses. */
export const landedCut = cut.extend({
  states: z.object({
    onOriginal: z.int(),
    onProxy: z.int(),
    originalMissing: z.int(),
    short: z.int(),
    unresolved: z.int(),
  }),
  findings: z.int(),
  blocking: z.int(),
})

export const cutEvent = z.object({
  position: z.int(),
  number: z.string(),
  track: z.string(),
  kind: z.enum(['picture', 'sound']),
  clipName: z.string().nullable(),
  reel: z.string().nullable(),
  path: z.string().nullable(),
  sourceIn: z.string(),
  sourceOut: z.string(),
  recordIn: z.string(),
  recordOut: z.string(),
  recordStartFrame: z.int(),
  recordEndFrame: z.int(),
  state: eventState,
  by: z.string().nullable().describe('How the original was found'),
  clipId: id.nullable(),
  originalName: z.string().nullable(),
  originalPath: z.string().nullable(),
  volumeLabel: z.string().nullable().describe('The volume that its original is on'),
  note: z.string().nullable().describe('What is short, or what transition and speed it has'),
  transitionFrames: z.int().describe('Over how many record frames it comes in'),
  fadeFrames: z.int().describe('Over how many record frames behind its end it goes to black'),
  isOff: z.boolean().describe('Whether it is switched off in the cut'),
  scale: z
    .string()
    .nullable()
    .describe('Its scale in the list: what fits its medium into the raster, and the editor’s own part'),
  mappedPath: z.string().nullable().describe('Its path in the list as it is on this system, by the path map'),
  evidence: z.array(evidenceRow),
})

export const cutPart = z.object({
  location: z.string(),
  reason: z.string(),
})

export const cutDetail = z.object({
  cut: landedCut,
  events: z.array(cutEvent),
  strips: z.array(z.object({ clipId: id, name: z.string(), strip: spanStrip })),
  leftOut: z.array(cutPart).describe('What of the list was not taken, by choice'),
  markers: z.array(z.object({ record: z.string(), name: z.string(), note: z.string() })),
  suggestedMappings: z.array(z.object({ from: z.string(), to: z.string(), matches: z.int() })),
})

/** What stands in the details when a list is refused as "bad-list". */
export const badList = z.object({ faults: z.array(cutPart) })

const changedEvent = z.object({
  position: z.int(),
  number: z.string(),
  track: z.string(),
  name: z.string(),
  source: z.string(),
  record: z.string(),
})

export const cutChange = z.object({
  kinds: z.array(
    z.enum([
      ...([
        'same',
        'moved',
        'trimmed',
        'retimed',
        'replaced',
        'transition changed',
        'switched',
        'level changed',
        'added',
        'gone',
      ] as const),
    ]),
  ),
  words: z.string(),
  before: changedEvent.nullable(),
  after: changedEvent.nullable(),
})

export const cutChanges = z.object({
  before: z.object({ id, name: z.string(), version: z.int() }),
  after: z.object({ id, name: z.string(), version: z.int() }),
  counts: z.record(z.string(), z.int()),
  levelsLost: z
    .int()
    .describe('Uses of sound with a level of their own in the other version, when this one says no level of any'),
  reversed: z
    .array(z.object({ from: z.string(), to: z.string() }))
    .describe('Outermost tracks between which every event that is known again stands on the opposite one'),
  changes: z.array(cutChange).describe('Every event that is not the same, in the order of the newer version'),
  needs: z
    .array(
      z.object({
        clipId: id,
        clipName: z.string(),
        isNew: z.boolean().describe('Whether the version before did not use it at all'),
        ranges: z.array(z.string()).describe('The stretches that the version before did not need'),
        volumeLabel: z.string(),
        presence: z.enum(['here', 'away', 'gone']),
        hasProxy: z.boolean(),
      }),
    )
    .describe('What the newer version needs and the other did not'),
})

/** Bytes of a list that is no text: what a request holds. */
export const mostBytesOfList = 28_000_000

export const newCut = z
  .object({
    fileName: z.string().min(1).max(255),
    text: z
      .string()
      .max(30_000_000, 'A list of more than 30 MB is not read.')
      .optional()
      .describe('A list that is text'),
    base64: z
      .string()
      .max(Math.ceil(mostBytesOfList / 3) * 4, 'An AAF of more than 28 MB is not read.')
      .optional()
      .describe('In place of the text: the bytes of a list that is none, an AAF'),
    rate: rate.optional().describe('The rate at which a list counts that states none; the production’s unless given'),
    nextOf: id.optional().describe('The cut of which this is the next version: its decisions and choices go over'),
    takeGood: z.boolean().optional().describe('Takes the good events of a list that has bad parts, and lists those'),
  })
  .refine(({ text, base64 }) => (text === undefined) !== (base64 === undefined), 'Give the list as text or as base64.')

export type Cut = z.infer<typeof cut>
export type LandedCut = z.infer<typeof landedCut>
export type CutEventRow = z.infer<typeof cutEvent>
export type CutDetail = z.infer<typeof cutDetail>
export type CutChanges = z.infer<typeof cutChanges>
export type CutChange = z.infer<typeof cutChange>
