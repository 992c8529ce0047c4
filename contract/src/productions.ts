import { recipeCodecs, recipeContainers, recipePurposes, recipeSounds } from '@ennick/core'
import { z } from 'zod'
import { id, rate } from './common.ts'

/** The room that receives what is made, described by what it takes; an empty list takes everything. */
export const target = z.object({
  name: z.string().trim().min(1, 'Give the target a name.').max(120),
  purpose: z.enum(recipePurposes),
  containers: z.array(z.enum(recipeContainers)).readonly(),
  codecs: z.array(z.enum(recipeCodecs)).readonly(),
  sounds: z.array(z.enum(recipeSounds)).readonly(),
  longestName: z.int().min(4).max(255).nullable().describe('Characters without the ending'),
  isPlainNames: z.boolean().describe('Letters without accents, digits, "_" and "-" alone'),
  longestReel: z.int().min(1).max(255).nullable().describe('Characters'),
  filesInFolder: z.int().min(2).max(100_000).nullable().describe('It looks into numbered folders of so many at most'),
  lists: z
    .array(z.enum(['edl', 'otio', 'xmeml']))
    .readonly()
    .describe('Lists of cuts that it reads'),
  bringIn: z.string().trim().max(1000).describe('How people there take the files in'),
})

export const production = z.object({
  id,
  name: z.string(),
  rate,
  width: z.int(),
  height: z.int(),
  isDemo: z.boolean(),
  proxySuffixes: z.array(z.string()),
  pathMappings: z.array(z.object({ from: z.string(), to: z.string() })),
  target: target.nullable(),
  trialOf: z
    .object({ productionId: id, cutId: id })
    .nullable()
    .describe('Of a trial: the cut that it is a copy of, with what that uses'),
})

/** How a trial stands to what it is of. */
export const trial = z.object({
  productionName: z.string().nullable().describe('Null when that cut was taken out'),
  cutName: z.string(),
  mends: z.int(),
  blocking: z.object({ before: z.int(), now: z.int() }).describe('Findings that block, there and here'),
  findings: z.object({ before: z.int(), now: z.int() }),
  keeps: z.array(z.string()).describe('What keeping it would change there, link by link: the first 50'),
  keepCount: z.int(),
  asVersion: z.boolean().describe('Whether the cut would get a version more there'),
  stays: z.array(z.string()).describe('What is not kept, in sentences'),
})

export const newProduction = z.object({
  name: z.string().trim().min(1, 'A production needs a name.').max(120),
  rate,
  width: z.int().min(16).max(16384),
  height: z.int().min(16).max(16384),
})

export const productionChange = z.object({
  changes: z
    .array(z.string())
    .describe('What a correction changes, and what it leaves, in sentences; none when nothing'),
  applied: z.boolean(),
})

export const stopCounts = z.object({
  intake: z.int().describe('Volumes away of which something is missed, or never scanned'),
  clips: z.int().describe('Clips without a reel'),
  make: z.int().describe('Jobs waiting or running'),
  pairs: z.int().describe('Pairs that are neither proven nor matched'),
  cuts: z.int().describe('Cuts with unresolved events'),
  mend: z.int().describe('Findings over all cuts'),
  handoff: z.int().describe('Cuts ready and not yet handed off, or changed since'),
})

export const today = z.object({
  counts: stopCounts,
  clips: z.object({ total: z.int(), picture: z.int(), withoutProxy: z.int(), bytes: z.number() }),
  volumesAway: z.array(
    z.object({
      id,
      label: z.string(),
      kind: z.string(),
      isAllowed: z.boolean().describe('What is away because its folder may not be used is not'),
      isAnswering: z.boolean().describe('False where its share or disk hangs'),
      lastSeenAt: z.string().nullable(),
      neededBy: z.array(z.string()).describe('The cuts that use something on it'),
      clips: z.int().describe('Clips that are away with it: no copy of them that was read back is here'),
      notCompared: z.int().describe('Clips with a copy on it that nobody has compared with what is here'),
      pairs: z.int().describe('Made or adopted items that are away with it'),
      others: z.int().describe('Files of it that belong to no clip and no pair, or could not be read'),
      isMissed: z
        .boolean()
        .describe(
          'False where all picture and sound of it is here as well; of what was never scanned that is not known',
        ),
    }),
  ),
  neverScanned: z.array(z.string()).describe('Labels of volumes that nobody has scanned'),
  growing: z
    .array(z.object({ label: z.string(), files: z.int() }))
    .describe('Volumes with files that something was still writing at their last scan: they are read after it'),
  onlyOnCard: z
    .array(
      z.object({
        volumeId: id,
        label: z.string(),
        clips: z.int(),
        notCompared: z.int().describe('Of those the ones with a copy that nobody has compared'),
      }),
    )
    .describe('Clips that are on no volume that stays, by the volume that they are on'),
  gone: z.int().describe('Originals that are not where the ledger has them'),
  moved: z
    .array(z.object({ volumeId: id, label: z.string(), originals: z.int() }))
    .describe('Of those the ones whose content lies on a volume at another place'),
  pairVerdicts: z.array(z.object({ verdict: z.string(), count: z.int() })),
  cuts: z.array(
    z.object({
      id,
      name: z.string(),
      events: z.int(),
      onOriginal: z.int(),
      blocking: z.int(),
      fresh: z.int().describe('Findings that were first shown within the last day'),
      handedOffAt: z.string().nullable(),
      changedSince: z.int().describe('Events of which it says another thing now than when it was handed off last'),
    }),
  ),
  done: z
    .object({ items: z.int(), bytes: z.number(), isArchived: z.boolean() })
    .nullable()
    .describe('When every cut is handed off as it stands: what was made here and can be made again. Null before'),
  problems: z.int().describe('Files that are no readable media'),
})

export const historyLine = z.object({
  id: z.int(),
  at: z.string(),
  subject: z.string(),
  subjectId: z.string().nullable(),
  what: z.string(),
})

export type ProductionChange = z.infer<typeof productionChange>
export type Production = z.infer<typeof production>
export type Trial = z.infer<typeof trial>
export type NewProduction = z.infer<typeof newProduction>
export type Today = z.infer<typeof today>
export type StopCounts = z.infer<typeof stopCounts>
export type HistoryLine = z.infer<typeof historyLine>
