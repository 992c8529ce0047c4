import { addLut, assignLuts, checkCube, listLuts, readAssignments, retireLut } from '../../store/luts.ts'
import { readProduction } from '../../store/world.ts'
import { tryLut } from '../../work/preview-recipe.ts'
import { implement } from '../implement.ts'
import type { Services } from '../services.ts'

export function lutRoutes({ app, database }: Services): void {
  implement(app, 'listLuts', () => listLuts(database))
  implement(app, 'addLut', ({ body }) => addLut(database, body))
  implement(app, 'retireLut', async ({ params }) => {
    await retireLut(database, params.lutId)
    return { done: true as const }
  })
  implement(app, 'tryLut', async ({ body }) => {
    const cube = checkCube(body.text)
    const shown =
      body.clipId === null ? { before: null, after: null } : await tryLut(database, body.clipId, { text: body.text, kind: cube.kind })
    return { ...cube, ...shown }
  })
  implement(app, 'listLutAssignments', ({ params }) => readAssignments(database, params.productionId))
  implement(app, 'assignLuts', async ({ params, body }) => {
    await readProduction(database, params.productionId)
    await assignLuts(database, params.productionId, body)
    return { done: true as const }
  })
}
