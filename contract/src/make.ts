import { recipeCodecs } from '@ennick/core'
import { z } from 'zod'
import { evidenceRow, id, pairKind } from './common.ts'

/** Recipes that are made besides one, from the same reading of each original. */
export const mostAlsoMade = 8

export const makeRequest = z.object({
  clipIds: z.array(id).min(1, 'Choose at least one clip.').max(50_000),
  recipeId: z.string(),
  alsoRecipeIds: z
    .array(z.string())
    .max(mostAlsoMade)
    .default([])
    .describe('Made besides, from the same reading of each original'),
})

export const makeOrder = makeRequest.extend({
  holdsAtFailure: z.boolean().default(false).describe('Whether the rest of the batch is held when one of it fails'),
})

const sizeBasis = z
  .enum(['exact', 'sampled', 'typical'])
  .describe('Whether a size is computed, told from parts of originals that were encoded, or that of typical pictures')

const sizeSamples = z
  .object({ of: z.int(), wanting: z.array(z.object({ clipId: id, recipeId: z.string() })) })
  .describe('Of how many originals, times recipes, parts are encoded to tell the sizes, and which of them are wanting')

const plannedItem = z.object({
  clipId: id,
  name: z.string(),
  outputs: z.array(z.string()),
  raster: z.string().nullable(),
  method: z
    .enum(['encode', 'rewrap', 'as it is'])
    .describe('Whether pictures are encoded, only put into another container, or the file copied'),
  viewingLut: z.string().nullable(),
  fields: z
    .enum(['kept', 'joined'])
    .nullable()
    .describe(
      'What becomes of the fields of an interlaced picture: kept, or one picture of both; null where it has none',
    ),
  isSoundLaid: z.boolean().describe('Whether it gets the tracks of the recording that it was synced with'),
  bytes: z.number().nullable(),
  basis: sizeBasis,
  frames: z.int(),
  number: z.int().describe('Its number among those of the recipe, from 0, for names that count'),
  skipped: z.string().nullable().describe('Why nothing is made of it'),
})

export const makePlan = z.object({
  items: z.array(plannedItem),
  also: z
    .array(z.object({ recipeId: z.string(), name: z.string(), items: z.array(plannedItem) }))
    .describe('What is made besides, from the same reading of each original; in the order of the items'),
  places: z
    .array(
      z.object({
        label: z.string(),
        path: z.string(),
        freeBytes: z.number().nullable().describe('Null while it cannot be got at'),
        bytes: z.number().describe('What goes there'),
        leftBytes: z.number().nullable().describe('Of what is free, when all that goes to its disk is there'),
      }),
    )
    .describe('Where it goes: the place of each kind of what is made'),
  bytes: z.number(),
  basis: sizeBasis.describe('That of the least sure one'),
  samples: sizeSamples,
  minutes: z.number().nullable().describe('Null where nothing was made with the recipe here yet'),
  blocked: z.string().nullable().describe('Why nothing may start'),
  warnings: z.array(z.string()),
  comparison: z.array(
    z.object({
      recipeId: z.string(),
      name: z.string(),
      bytes: z.number(),
      basis: sizeBasis,
      minutes: z.number().nullable(),
    }),
  ),
})

export const job = z.object({
  id,
  title: z.string(),
  kind: z.enum([
    'scan',
    'make',
    'check',
    'decode',
    'search',
    'offload',
    'fetch',
    'pull',
    'restore',
    'finished',
    'verify',
    'compare',
    'measure',
    'try',
    'look',
    'restamp',
    'join',
    'pad',
    'collect',
    'sync',
  ]),
  state: z.enum(['waiting', 'running', 'done', 'failed', 'cancelled']),
  progress: z
    .object({
      done: z.number(),
      total: z.number(),
      unit: z.enum(['frames', 'files', 'bytes']),
      unitsPerSecond: z.number().nullable(),
      secondsLeft: z.number().nullable(),
      realTime: z.number().nullable().describe('Seconds of picture that are done in a second'),
      step: z.enum(['working', 'checking']),
    })
    .nullable(),
  files: z
    .object({
      source: z.string(),
      outputs: z.array(z.string()).describe('Below the place to which they go'),
    })
    .nullable(),
  codecs: z.array(z.enum(recipeCodecs)).describe('What its worker must be able to encode'),
  summary: z.string().nullable(),
  checks: z
    .array(evidenceRow.extend({ recipe: z.string().optional().describe('Where one job makes several items') }))
    .describe('Told of one job, not in lists'),
  error: z.string().nullable(),
  log: z.string().nullable().describe('Told of one job, not in lists'),
  hasDetails: z.boolean().describe('Whether there are checks or words of the encoder'),
  attempts: z.int(),
  cancelRequested: z.boolean(),
  goesOnByItself: z
    .boolean()
    .describe(
      'Of a failed job: whether it is done again when the volume is back that it waits for; until it is stopped',
    ),
  isHeld: z.boolean().describe('A waiting job that is kept from starting, or a running one that stands still'),
  hasNewerRecipe: z
    .boolean()
    .describe('Whether its recipe has a newer version than the one that was planned; told in lists alone'),
  createdAt: z.string(),
  startedAt: z.string().nullable(),
  endedAt: z.string().nullable(),
})

/** One file of several made items. */
const joinedFile = z.object({
  id,
  path: z.string().describe('Below its place'),
  place: z.string().describe('The label of the place of made files that it lies in'),
  parts: z.int(),
  duration: z.string(),
  sizeBytes: z.number(),
  createdAt: z.string(),
})

/** What one recipe of a batch has made, and could be one file. */
export const joinOffer = z.object({
  recipeId: z.string(),
  recipe: z.string(),
  total: z.int().describe('Items'),
  names: z.array(z.string()).describe('The first of them, in the order in which they would stand'),
  frames: z.int(),
  duration: z.string(),
  bytes: z.number(),
  place: z.string(),
  freeBytes: z.number().nullable(),
  name: z.string().describe('A name for it, without ending'),
  troubles: z.array(z.string()).describe('Why it cannot be done; none when it can'),
})

/** Of long lists so many are named one by one. */
const takenIn = z.object({
  fileName: z.string(),
  readAt: z.string(),
  of: z.int().describe('Items of the batch that were made and are in use'),
  seen: z.int(),
  differing: z.array(z.object({ name: z.string(), line: z.int(), why: z.string() })),
  differingTotal: z.int(),
  missing: z.array(z.string()).describe('Items that the list does not name'),
  missingTotal: z.int(),
  unclear: z
    .array(z.object({ line: z.int(), label: z.string(), reason: z.string() }))
    .describe('Rows that may be about one of the items, and do not say which'),
  others: z.int().describe('Rows about something else'),
})

export const makeBatch = z.object({
  id,
  createdAt: z.string(),
  recipes: z.array(z.string()),
  clips: z.int().describe('Clips that were asked for'),
  counts: z
    .object({
      ...{ asked: z.int(), made: z.int(), failed: z.int(), stopped: z.int(), skipped: z.int(), toCome: z.int() },
      waits: z.int().describe('Given up when a volume left, and made when that is back'),
    })
    .describe('Items, of which one is what one recipe makes of one clip; all others add up to those asked for'),
  seconds: z.int().nullable().describe('From the first to the last, once all has ended'),
  size: z
    .object({ madeBytes: z.number(), plannedBytes: z.number(), expectedBytes: z.number(), isOff: z.boolean() })
    .nullable()
    .describe('What it comes to by what of it is made, once something is; off by more than three tenths is told'),
  failed: z.array(z.object({ jobId: id, title: z.string(), reason: z.string() })),
  waiting: z.array(z.object({ title: z.string(), reason: z.string() })).describe('For a volume that left'),
  stopped: z.array(z.string()),
  skipped: z.array(z.object({ name: z.string(), recipe: z.string(), reason: z.string() })),
  leftOut: z
    .object({ days: z.array(z.string()), total: z.int(), names: z.array(z.string()) })
    .describe('Pictures of the same shoot days that were not asked for and of which nothing is made'),
  joined: z.array(joinedFile).describe('Files that were joined of what it has made'),
  takenIn: takenIn.nullable().describe('What the receiving room has of it, by the newest list that was read'),
})

export const workerStatus = z.object({
  id,
  host: z.string(),
  cores: z.int(),
  makesAtOnce: z.int(),
  codecs: z.array(z.enum(recipeCodecs)).describe('What it can encode'),
  pathMap: z
    .array(z.object({ from: z.string(), to: z.string() }))
    .describe('Where folders of the ledger lie on its machine'),
  startedAt: z.string(),
  state: z.enum(['here', 'lost']).describe('A lost one ended without a word; its jobs go to others'),
  jobs: z.array(
    z.object({ id, title: z.string(), isPaused: z.boolean().describe('It stands still, and another has its turn') }),
  ),
})

/** A place of what Ennick makes: a folder of the production's own. */
export const madePlace = z.object({
  id,
  label: z.string(),
  isMain: z.boolean().describe('It takes what no other does, and stays while the production does'),
  takes: z.array(pairKind).describe('Kinds of new items that go there; of the main one all that are left to it'),
  path: z.string(),
  isHere: z.boolean(),
  freeBytes: z.number().nullable(),
  files: z.int().describe('Of what was made and is known'),
  bytes: z.number(),
})

/** What lies in a place of made files. */
export const madeListing = z.object({
  path: z.string(),
  counts: z.array(z.object({ state: z.string(), files: z.int(), bytes: z.number() })),
  files: z
    .array(
      z.object({
        path: z.string().describe('Below the place'),
        sizeBytes: z.number(),
        modifiedAt: z.string().nullable().describe('Null for what is not there'),
        state: z
          .enum(['in use', 'set aside', 'changed', 'gone', 'unfinished', 'not in the ledger'])
          .describe('Set aside: a mend has replaced it, it was untied, or its clip was taken out; it can come back'),
        clip: z.string().nullable(),
        recipe: z.string().nullable(),
        isNew: z.boolean().describe('Made within the last day'),
      }),
    )
    .describe('The first 2000, what is odd before the rest'),
  total: z.int(),
})

/** A clip of which a proxy or an optimized copy is on its way. */
export const clipUnderWay = z.object({ clipId: id, state: z.enum(['being made', 'waits to be made']) })

export type ClipUnderWay = z.infer<typeof clipUnderWay>
export type MadeListing = z.infer<typeof madeListing>
export type MadePlace = z.infer<typeof madePlace>
export type WorkerStatus = z.infer<typeof workerStatus>

export type MakeBatch = z.infer<typeof makeBatch>
export type MakePlan = z.infer<typeof makePlan>
export type Job = z.infer<typeof job>
export type JoinOffer = z.infer<typeof joinOffer>
