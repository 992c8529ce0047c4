import { count, eq } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import { readProduction } from '../store/production-row.ts'
import { cuts, events } from '../store/schema.ts'
import { addCut } from './add-cut.ts'
import { cutColumns, readCutRow, readCutRows, readCutState } from './cut-state.ts'
import { flipTracks } from './flip-tracks.ts'
import { newestVersions } from './newest-versions.ts'
import { versionBefore } from './next-version.ts'
import { presentCut, presentCutDetail, presentLandedCut } from './present.ts'
import { presentChanges } from './present-changes.ts'

export function cutRoutes({ app, database, material }: Services): void {
  // Nothing is landed for it: of forty versions of a cut that would take long after every change.
  implement(app, 'listCuts', async ({ params: { productionId } }) => {
    await readProduction(database, productionId)
    const rows = await readCutRows(database, productionId)
    const counts = await database
      .select({ cutId: events.cutId, events: count() })
      .from(events)
      .innerJoin(cuts, eq(cuts.id, events.cutId))
      .where(eq(cuts.productionId, productionId))
      .groupBy(events.cutId)
    const countOf = new Map(counts.map((row) => [row.cutId, row.events]))
    const newest = newestVersions(rows)
    return rows.map((row) => presentCut(row, countOf.get(row.id) ?? 0, newest.get(row.lineId)))
  })
  implement(app, 'addCut', async ({ params, body: { text, base64, ...list } }) => {
    const content = base64 === undefined ? (text ?? '') : new Uint8Array(Buffer.from(base64, 'base64'))
    const { id } = await addCut(database, material, params.productionId, { ...list, content })
    return presentLandedCut(await readCutState(database, id, material))
  })
  implement(app, 'readCut', async ({ params }) => {
    const state = await readCutState(database, params.cutId, material)
    const line = await database.select(cutColumns).from(cuts).where(eq(cuts.lineId, state.row.lineId))
    return presentCutDetail(state, newestVersions(line).get(state.row.lineId))
  })

  implementRaw(app, 'readCutList', async ({ params }, response) => {
    const row = await readCutRow(database, params.cutId)
    const [list] = await database
      .select({ text: cuts.sourceText, bytes: cuts.sourceBytes })
      .from(cuts)
      .where(eq(cuts.id, row.id))
    response
      .type(list?.bytes ? 'application/octet-stream' : 'text/plain; charset=utf-8')
      .set('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(row.fileName)}`)
      .send(list?.bytes ?? list?.text ?? '')
  })

  implement(app, 'compareCuts', async ({ params, query }) => {
    const after = await readCutState(database, params.cutId, material)
    const sinceRow = query.since ? await readCutRow(database, query.since) : await versionBefore(database, after.row)
    if (!sinceRow) return null
    if (sinceRow.productionId !== after.row.productionId)
      throw new PlainError('other-production', 'Cuts of two productions cannot be compared.')
    return presentChanges(await readCutState(database, sinceRow.id, material), after)
  })

  implement(app, 'flipTracks', async ({ params, body }) => {
    await flipTracks(database, params.cutId, body)
    return presentLandedCut(await readCutState(database, params.cutId, material))
  })

  implement(app, 'removeCut', async ({ params }) => {
    const row = await readCutRow(database, params.cutId)
    await database.delete(cuts).where(eq(cuts.id, row.id))
    await writeHistory(database, row.productionId, 'cut', row.id, `Took the cut “${row.name}” out of the production.`)
    await announce(database, row.productionId, 'cuts')
    return { done: true as const }
  })
}
