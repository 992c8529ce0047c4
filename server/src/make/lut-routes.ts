import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { readProduction } from '../store/production-row.ts'
import { addLut, assignLuts, checkCube, listLuts, readAssignments, retireLut } from './luts.ts'
import { tryLut } from './preview-recipe.ts'

export function lutRoutes({ app, database }: Services): void {
  implement(app, 'listLuts', () => listLuts(database))
  implement(app, 'addLut', ({ body }) => addLut(database, body))
  implement(app, 'retireLut', async ({ params }) => {
    await retireLut(database, params.lutId)
    return { done: true as const }
  })
  implement(app, 'tryLut', async ({ body }) => {
    const cube = await checkCube(body.text)
    const shown =
      body.clipId === null
        ? { before: null, after: null }
        : await tryLut(database, body.clipId, { text: body.text, kind: cube.kind })
    return { ...cube, ...shown }
  })
  implement(app, 'listLutAssignments', ({ params }) => readAssignments(database, params.productionId))
  implement(app, 'assignLuts', async ({ params, body }) => {
    await readProduction(database, params.productionId)
    await assignLuts(database, params.productionId, body)
    return { done: true as const }
  })
}
