import { type Condition, operators } from '@ennick/core'
import { z } from 'zod'
import { clip } from './clips.ts'
import { id, presence } from './common.ts'

export const fieldKind = z.enum(['text', 'number', 'bytes', 'rate', 'timecode', 'date', 'flag', 'choice'])

export const field = z.object({
  id: z.string(),
  title: z.string(),
  kind: fieldKind,
  from: z.enum(['described', 'file', 'state']).describe('Only what is described can be edited'),
  choices: z.array(z.string()).optional(),
  isCustom: z.boolean(),
})

const columnKind = z.enum(['text', 'number', 'timecode', 'date', 'flag', 'choice'])
export const newColumn = z
  .object({
    title: z.string().trim().min(1, 'A column needs a title.').max(60),
    kind: columnKind,
    choices: z.array(z.string().trim().min(1).max(120)).max(100),
  })
  .refine(
    (column) => column.kind !== 'choice' || column.choices.length > 0,
    'A column of choices needs at least one choice.',
  )

export const term = z.object({
  field: z.string().max(80),
  operator: z.enum(operators),
  value: z.string().max(500).optional(),
  upTo: z.string().max(500).optional(),
})

/** Terms, and groups of which all or any must hold. */
export const condition: z.ZodType<Condition, Condition> = z.lazy(() =>
  z.union([z.object({ all: z.array(condition).max(200) }), z.object({ any: z.array(condition).max(200) }), term]),
)

export const sortKey = z.object({ field: z.string().max(80), descending: z.boolean() })

/** Which clips, in which order. Without a condition and words: all, by name. */
export const clipQuery = z.object({
  words: z.string().max(500).default(''),
  condition: condition.nullable().default(null),
  sort: z.array(sortKey).max(5).default([]),
})

export const clipPage = z.object({
  rows: z.array(clip),
  next: z.string().nullable().describe('Where the next page begins; null after the last'),
})

export const clipOutline = z.object({
  total: z.int(),
  all: z.int().describe('Clips of the production'),
  bytes: z.number(),
  every: z.int(),
  cursors: z.array(z.string()).describe('Where each page of `every` rows begins, the first left out'),
})

const cells = { clipIds: z.array(id).min(1, 'Choose at least one clip.').max(100_000), field: z.string().max(80) }
export const reelSource = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('stem') }),
  z.object({ kind: z.literal('first-characters'), count: z.int().min(1).max(255) }),
  z.object({ kind: z.literal('folder'), level: z.int().min(1).max(32) }).describe('The n-th folder above the file'),
  z.object({ kind: z.literal('pattern'), pattern: z.string().min(1).max(500) }),
])
const blanksToo = z.boolean().default(false).describe('Whether an empty cell empties the one that it is copied into')
const onlyEmptyReels = z.boolean().default(true).describe('Whether a reel that is there already stays')
const ofAllKinds = z.boolean().default(false).describe('Whether sound and stills are given reels too')
export const editAction = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('set'), ...cells, value: z.string().max(8000) }),
  z.object({ kind: z.literal('copy'), ...cells, from: z.string().max(80), onlyEmpty: z.boolean(), blanksToo }),
  z.object({
    kind: z.literal('replace'),
    ...cells,
    find: z.string().max(500),
    replace: z.string().max(2000),
    isPattern: z.boolean(),
    isCaseSensitive: z.boolean(),
  }),
  z.object({ kind: z.literal('fill'), ...cells, pattern: z.string().max(500), onlyEmpty: z.boolean() }),
  z.object({
    kind: z.literal('take apart'),
    clipIds: cells.clipIds,
    from: z.string().max(80).describe('The column that is read; of a file name the stem'),
    pattern: z.string().max(500).describe('Fields in { }, {skip} for what is not kept, [ ] for what may be missing'),
    onlyEmpty: z.boolean(),
  }),
  z.object({
    kind: z.literal('reel'),
    clipIds: cells.clipIds,
    source: reelSource,
    onlyEmpty: onlyEmptyReels,
    ofAllKinds,
  }),
])
export const editRequest = z.object({
  action: editAction,
  apply: z.boolean().describe('False answers with the preview alone'),
})

export const editPreview = z.object({
  applied: z.boolean(),
  title: z.string(),
  total: z.int().describe('Cells that change'),
  changes: z
    .array(z.object({ clipId: id, name: z.string(), field: z.string(), before: z.string(), after: z.string() }))
    .describe('The first 500'),
  refused: z
    .array(z.object({ clipId: id, name: z.string(), reason: z.string() }))
    .describe('The first 500 that cannot take the value'),
  refusedTotal: z.int(),
  warnings: z.array(z.string()).describe('What the change would make doubtful: reels whose timecode would overlap'),
})

/** What taking clips out of a production comes to. */
export const takeOutPreview = z.object({
  clips: z.int(),
  used: z.int().describe('Those that cuts use: their events have no original then'),
  cuts: z.array(z.string()).describe('The names of those cuts'),
  synced: z.int().describe('Pictures that stay and are synced with one of them: they have no recording then'),
  made: z.int().describe('Made items of them, which stay on disk'),
  madeBytes: z.number(),
})
export const takenOutClip = z.object({ clipId: id, name: z.string(), path: z.string(), volumeLabel: z.string() })

/** Clips by their ids. */
export const someClips = z.object({ clipIds: z.array(id).min(1, 'Choose at least one clip.').max(100_000) })

export const editStack = z.object({ undo: z.string().nullable(), redo: z.string().nullable() })
export const editOutcome = z.object({
  title: z.string(),
  changed: z.int(),
  kept: z.int().describe('Cells that somebody changed since, and that stay'),
})

export const savedSearch = z.object({ id, name: z.string(), condition, count: z.int() })
export const newSavedSearch = z.object({ name: z.string().trim().min(1, 'A search needs a name.').max(80), condition })

export const viewColumn = z.object({ field: z.string().max(80), width: z.number().min(2).max(60) })
export const savedView = z.object({ id, name: z.string(), columns: z.array(viewColumn), sort: z.array(sortKey) })
export const newSavedView = z.object({
  name: z.string().trim().min(1, 'A view needs a name.').max(80),
  columns: z.array(viewColumn).min(1).max(60),
  sort: z.array(sortKey).max(5),
})

export const logImport = z.object({
  fileName: z.string().max(255),
  content: z.base64().max(30_000_000).describe('The bytes of the file'),
  mapping: z
    .record(z.string(), z.string().nullable())
    .nullable()
    .describe('Into which field each column goes; null takes what was used last'),
  apply: z.boolean(),
})

/** Does what came fit the production? */
export const productionFit = z.array(
  z.object({
    property: z.string(),
    wanted: z.string().nullable().describe('What the production asks for; null for nothing'),
    values: z.array(
      z.object({
        value: z.string(),
        clips: z.int(),
        trouble: z.string().nullable().describe('Null where it fits, or nothing is asked for'),
        condition: condition.describe('Finds these clips'),
      }),
    ),
  }),
)

export const logPreview = z.object({
  applied: z.boolean(),
  format: z.enum(['ALE', 'CSV', 'TSV']),
  encoding: z.string(),
  rows: z.int(),
  matched: z.int(),
  columns: z.array(
    z.object({ title: z.string(), target: z.string().nullable(), isIdentity: z.boolean(), sample: z.string() }),
  ),
  changes: z.array(
    z.object({
      line: z.int(),
      clipId: id,
      name: z.string(),
      by: z.string(),
      field: z.string(),
      before: z.string(),
      after: z.string(),
    }),
  ),
  changesTotal: z.int(),
  unmatched: z.array(z.object({ line: z.int(), label: z.string(), reason: z.string() })),
  unmatchedTotal: z.int(),
  nowhereTotal: z.int().describe('Rows that nothing known fits in anything: what they name is not here'),
  clipsWithoutRow: z.int(),
  problems: z.array(z.string()),
})

export const awaitedLog = z.object({
  id,
  fileName: z.string(),
  createdAt: z.string(),
  awaitedTotal: z.int(),
  awaited: z.array(
    z.object({
      line: z.int(),
      label: z.string(),
      doubt: z.string().nullable().describe('What has come fits in part: why it is not taken for it'),
    }),
  ),
  arrivedTotal: z.int(),
  arrived: z.array(z.object({ label: z.string(), clipId: id, name: z.string() })),
})

export const logExport = z.object({
  clipIds: z.array(id).min(1, 'Choose at least one clip.').max(100_000),
  fields: z.array(z.string().max(80)).min(1, 'Choose at least one column.').max(200),
  format: z.enum(['ale', 'csv', 'tsv']),
})
export const exportedLogs = z
  .array(z.object({ fileName: z.string(), text: z.string() }))
  .describe('One, or an ALE for each rate')

/** What a clip needs to be cut with here, and what each choice costs. */
export const needsReport = z.object({
  clips: z.array(
    z.object({
      clipId: id,
      name: z.string(),
      codec: z.string(),
      plays: z.int().nullable().describe('Streams that this machine decodes at once; null when not measured'),
      reads: z.int().nullable().describe('Streams that its volume delivers at once; null when not measured'),
      dataRate: z.number().nullable(),
      suggestion: z.enum(['cut as it is', 'proxy', 'transcode', 'not measured']),
      reason: z.string(),
    }),
  ),
  choices: z.array(
    z.object({
      name: z.string(),
      clips: z.int(),
      bytes: z.number(),
      minutes: z.number().nullable().describe('Null when nothing has been made or measured yet'),
      atLeast: z
        .boolean()
        .describe('Nothing was made with it here: the minutes are those of decoding alone, which it cannot beat'),
      exact: z.boolean(),
    }),
  ),
  rasters: z
    .array(
      z.object({
        raster: z.string(),
        clips: z.int(),
        steps: z.array(
          z.object({
            by: z.int().describe('By how much width and height are divided in decoding'),
            raster: z.object({ width: z.int(), height: z.int() }),
            fittedPercent: z.int().describe('How it is then scaled into the timeline; above 100 it is softer'),
          }),
        ),
      }),
    )
    .describe('What each raster yields at each view quality of a player'),
  unmeasured: z.int().describe('Clips that are here and were never measured'),
  measureJobId: id.nullable(),
})

export const treeNode = z.object({
  day: z.string(),
  camera: z.string(),
  reel: z.string(),
  clips: z.int(),
  bytes: z.number(),
})

export const clipElsewhere = z.object({
  clipId: id,
  productionId: id,
  production: z.string(),
  name: z.string(),
  volumeLabel: z.string(),
  presence,
})
export type ClipElsewhere = z.infer<typeof clipElsewhere>

export type FieldInfo = z.infer<typeof field>
export type ClipQuery = z.input<typeof clipQuery>
export type ClipOutline = z.infer<typeof clipOutline>
export type EditAction = z.infer<typeof editAction>
export type EditPreview = z.infer<typeof editPreview>
export type ReelSource = z.infer<typeof reelSource>
export type SavedSearch = z.infer<typeof savedSearch>
export type SavedView = z.infer<typeof savedView>
export type SortKey = z.infer<typeof sortKey>
export type ViewColumn = z.infer<typeof viewColumn>
export type AwaitedLog = z.infer<typeof awaitedLog>
export type LogPreview = z.infer<typeof logPreview>
export type TreeNode = z.infer<typeof treeNode>
export type NeedsReport = z.infer<typeof needsReport>
export type TakeOutPreview = z.infer<typeof takeOutPreview>
export type TakenOutClip = z.infer<typeof takenOutClip>
