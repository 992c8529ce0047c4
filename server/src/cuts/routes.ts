import { eq } from 'drizzle-orm'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import { cuts } from '../store/schema.ts'
import { addCut } from './add-cut.ts'
import { readAllCutStates, readCutRow, readCutState } from './cut-state.ts'
import { presentCut, presentCutDetail } from './present.ts'

export function cutRoutes({ app, database, material }: Services): void {
  implement(app, 'listCuts', async ({ params }) =>
    (await readAllCutStates(database, await material.read(params.productionId))).map(presentCut),
  )
  implement(app, 'addCut', async ({ params, body }) =>
    presentCut(
      await readCutState(
        database,
        (await addCut(database, params.productionId, body.fileName, body.text, body.rate)).id,
        material,
      ),
    ),
  )
  implement(app, 'readCut', async ({ params }) =>
    presentCutDetail(await readCutState(database, params.cutId, material)),
  )

  implement(app, 'removeCut', async ({ params }) => {
    const row = await readCutRow(database, params.cutId)
    await database.delete(cuts).where(eq(cuts.id, row.id))
    await writeHistory(database, row.productionId, 'cut', row.id, `Took the cut “${row.name}” out of the production.`)
    await announce(database, row.productionId, 'cuts')
    return { done: true as const }
  })
}
