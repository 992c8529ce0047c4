import { type Recipe, writeDelimited } from '@ennick/core'
import { readFields } from '../clips/fields.ts'
import { exportLog } from '../clips/write-logs.ts'
import { type CutState, readAllCutStates, readNewestCutStates } from '../cuts/cut-state.ts'
import type { VerifiedCopy } from '../intake/copier.ts'
import type { WorkContext } from '../queue/context.ts'
import type { Database } from '../store/database.ts'
import { historyTable, readHistory } from '../store/history.ts'
import type { Lacking } from '../store/job-types.ts'
import type { Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { recordName, recordOf } from './archive-record.ts'
import type { WrittenFile } from './hand-off.ts'
import { coverageOf, eventsByClip, listAsRead, type PullOrder, placeIn } from './pull-order.ts'
import { type PullPlan, planAll } from './pull-plan.ts'
import { readUsedLuts } from './used-luts.ts'

/**
 * Every original of a production, and what it takes to begin again with them: the lists of its cuts as they were read,
 * the ledger, the recipes that its items were made by, the log and the history.
 */
export async function orderArchive({ database, job }: WorkContext): Promise<PullOrder> {
  const material = await readMaterial(database, job.productionId)
  const states = await readAllCutStates(database, material)
  const newest = await readNewestCutStates(database, material)
  const plan = planAll(material, newest)
  const eventsOf = new Map<string, string[]>()
  for (const state of newest)
    for (const [clipId, events] of eventsByClip(state, (number) => number))
      eventsOf.set(clipId, [...(eventsOf.get(clipId) ?? []), `${state.row.name}: ${events.join(' ')}.`])
  return {
    ...{ plan, eventsOf },
    luts: await readUsedLuts(database, plan),
    coverage: (clipsInIt) => coverageOf(newest, 'originals', clipsInIt),
    along: async ({ copies, outstanding }) => ({
      written: await written(database, material, { states, plan, copies, outstanding }),
      without: null,
    }),
    record: {
      ...{ subject: 'production', subjectId: job.productionId },
      what: `Archived the originals of “${material.production.name}”`,
    },
  }
}

async function written(
  database: Database,
  material: Material,
  archive: {
    states: readonly CutState[]
    plan: PullPlan
    copies: ReadonlyMap<string, VerifiedCopy>
    outstanding: readonly Lacking[]
  },
): Promise<WrittenFile[]> {
  const { id } = material.production
  const lists: WrittenFile[] = []
  // Numbered, as two lists may be called alike.
  for (const [index, { row }] of archive.states.entries())
    lists.push(await listAsRead(database, row, `cut ${index + 1}, version ${row.version}, `))
  const cuts = archive.states.map((state, index) => ({ state, file: lists[index]?.name ?? '' }))
  const history = await readHistory(database, id, {})
  const clipIds = archive.plan.clips.map(({ clip }) => clip.id)
  const fields = [...(await readFields(database, id)).keys()]
  const log = await exportLog(database, id, { clipIds, fields, format: 'csv' })
  return [
    ...lists,
    { name: recordName, content: JSON.stringify(recordOf(material, archive.plan, cuts, archive.outstanding)) },
    { name: 'ledger.csv', content: ledgerOf(archive) },
    { name: 'recipes.json', content: `${JSON.stringify(recipesOf(archive.plan), null, 2)}\n` },
    { name: 'log.csv', content: log[0]?.text ?? '' },
    { name: 'history.csv', content: historyTable(history) },
  ]
}

/** Every original with where it is in the archive, and what was made of it by which recipe. */
function ledgerOf({ plan, copies }: { plan: PullPlan; copies: ReadonlyMap<string, VerifiedCopy> }): string {
  const columns = ['Clip', 'Reel', 'Original', 'Checksum', 'Made', 'Kind', 'Recipe', 'Version', 'State']
  const rows = plan.clips.flatMap(({ clip }) => {
    const path = placeIn(plan, clip.main)
    const of = [clip.name, clip.reel ?? '', path, copies.get(path)?.hash ?? '']
    if (clip.pairs.length === 0) return [[...of, '', '', '', '', '']]
    return clip.pairs.map((pair) => {
      const made = [
        pair.name,
        pair.kind,
        pair.recipeId ?? '',
        pair.recipeVersion === null ? '' : `${pair.recipeVersion}`,
      ]
      return [...of, ...made, pair.verdict]
    })
  })
  return writeDelimited(',', columns, rows)
}

/** The recipes by which anything was made, each in its newest version. */
function recipesOf(plan: PullPlan): Recipe[] {
  const recipes = new Map<string, Recipe>()
  for (const { clip } of plan.clips) for (const { recipe } of clip.pairs) if (recipe) recipes.set(recipe.id, recipe)
  return [...recipes.values()]
}
