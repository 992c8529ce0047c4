import { eq } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import { cuts } from '../store/schema.ts'
import { addCut } from './add-cut.ts'
import { cutColumns, readAllCutStates, readCutRow, readCutState } from './cut-state.ts'
import { flipTracks } from './flip-tracks.ts'
import { newestVersions } from './newest-versions.ts'
import { versionBefore } from './next-version.ts'
import { presentCut, presentCutDetail } from './present.ts'
import { presentChanges } from './present-changes.ts'

export function cutRoutes({ app, database, material }: Services): void {
  implement(app, 'listCuts', async ({ params }) => {
    const states = await readAllCutStates(database, await material.read(params.productionId))
    const newest = newestVersions(states.map(({ row }) => row))
    return states.map((state) => presentCut(state, newest))
  })
  implement(app, 'addCut', async ({ params, body: { text, base64, ...list } }) => {
    const content = base64 === undefined ? (text ?? '') : new Uint8Array(Buffer.from(base64, 'base64'))
    const { id } = await addCut(database, material, params.productionId, { ...list, content })
    return presentCut(await readCutState(database, id, material))
  })
  implement(app, 'readCut', async ({ params }) => {
    const state = await readCutState(database, params.cutId, material)
    const line = await database.select(cutColumns).from(cuts).where(eq(cuts.lineId, state.row.lineId))
    return presentCutDetail(state, newestVersions(line))
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
    return presentCut(await readCutState(database, params.cutId, material))
  })

  implement(app, 'removeCut', async ({ params }) => {
    const row = await readCutRow(database, params.cutId)
    await database.delete(cuts).where(eq(cuts.id, row.id))
    await writeHistory(database, row.productionId, 'cut', row.id, `Took the cut “${row.name}” out of the production.`)
    await announce(database, row.productionId, 'cuts')
    return { done: true as const }
  })
}
