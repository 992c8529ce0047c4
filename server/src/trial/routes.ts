import { readCutState } from '../cuts/cut-state.ts'
import { PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { presentMend } from '../mend/links.ts'
import { beginTrial } from './begin-trial.ts'
import { endTrial } from './end-trial.ts'
import { keepTrial } from './keep-trial.ts'
import { presentTrial } from './present.ts'
import { readTrial } from './trial-state.ts'

export function trialRoutes({ app, config, database, material }: Services): void {
  implement(app, 'beginTrial', async ({ params }) =>
    beginTrial(database, config.dataFolder, await readCutState(database, params.cutId, material)),
  )

  implement(app, 'readTrial', async ({ params }) =>
    presentTrial(database, await readTrial(database, material, params.productionId)),
  )

  implement(app, 'keepTrial', async ({ params: { productionId } }) => {
    const { mends, cutId } = await keepTrial(database, material, productionId)
    const stays = await endTrial(database, productionId, 'was kept').then(
      () => null,
      (error: unknown) => {
        if (error instanceof PlainError) return error.message
        throw error
      },
    )
    return { mends: mends.map(presentMend), cutId, stays }
  })

  implement(app, 'endTrial', async ({ params }) => {
    await endTrial(database, params.productionId, 'was thrown away')
    return { done: true as const }
  })
}
