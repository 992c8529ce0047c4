import type { Production } from '@ennick/contract'
import { defaultProxySuffixes } from '@ennick/core'
import { asc, eq } from 'drizzle-orm'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { announce } from '../store/announce.ts'
import { historyTable, readHistory, writeHistory } from '../store/history.ts'
import { type ProductionRow, productionRate, readProduction } from '../store/production-row.ts'
import { addProduction, assertNameFree, nameOfFolder } from '../store/productions.ts'
import { productions } from '../store/schema.ts'
import { changeProduction } from './change-production.ts'
import { presentToday } from './present.ts'

export function productionRoutes({ app, database, config, material }: Services): void {
  implement(app, 'listProductions', async () =>
    (await database.select().from(productions).orderBy(asc(productions.createdAt))).map(present),
  )

  implement(app, 'addProduction', async ({ body }) => {
    await assertNameFree(database, body.name)
    const row = await database.transaction((transaction) =>
      addProduction(transaction, config.dataFolder, {
        ...body,
        isDemo: false,
        proxySuffixes: [...defaultProxySuffixes],
      }),
    )
    await announce(database, null, 'productions')
    return present(row)
  })

  implement(app, 'changeProduction', async ({ params, body: { apply, ...finish } }) =>
    changeProduction(database, await material.read(params.productionId), finish, apply),
  )

  implement(app, 'setPathMappings', async ({ params, body }) => {
    await readProduction(database, params.productionId)
    const [row] = await database
      .update(productions)
      .set({ pathMappings: body.mappings })
      .where(eq(productions.id, params.productionId))
      .returning()
    await writeHistory(
      database,
      params.productionId,
      'production',
      params.productionId,
      `Path map set: ${body.mappings.map((mapping) => `${mapping.from} → ${mapping.to}`).join('; ') || 'empty'}.`,
    )
    await announce(database, params.productionId, 'productions', 'cuts')
    return present(row as ProductionRow)
  })

  implement(app, 'setProxySuffixes', async ({ params, body }) => {
    await readProduction(database, params.productionId)
    const proxySuffixes = [...new Set(body.proxySuffixes)]
    const [row] = await database
      .update(productions)
      .set({ proxySuffixes })
      .where(eq(productions.id, params.productionId))
      .returning()
    await writeHistory(
      database,
      params.productionId,
      'production',
      params.productionId,
      `Suffixes of proxies set: ${proxySuffixes.join(', ') || 'none'}.`,
    )
    await announce(database, params.productionId, 'productions', 'clips', 'pairs', 'cuts', 'volumes')
    return present(row as ProductionRow)
  })

  implement(app, 'setTarget', async ({ params, body: { target } }) => {
    const { productionId } = params
    await readProduction(database, productionId)
    const [row] = await database.update(productions).set({ target }).where(eq(productions.id, productionId)).returning()
    const what = target ? `Target set: “${target.name}”.` : 'Target removed.'
    await writeHistory(database, productionId, 'production', productionId, what)
    await announce(database, productionId, 'productions')
    return present(row as ProductionRow)
  })

  implement(app, 'today', async ({ params }) => presentToday(database, await material.read(params.productionId)))
  implement(app, 'history', ({ params, query }) => readHistory(database, params.productionId, query))
  implementRaw(app, 'historyTable', async ({ params, query }, response) => {
    const { name } = await readProduction(database, params.productionId)
    response
      .type('text/csv; charset=utf-8')
      .attachment(`${nameOfFolder(name)} history.csv`)
      .send(historyTable(await readHistory(database, params.productionId, query)))
  })
}

const present = (row: ProductionRow): Production => ({
  id: row.id,
  name: row.name,
  rate: productionRate(row),
  width: row.width,
  height: row.height,
  isDemo: row.isDemo,
  proxySuffixes: row.proxySuffixes,
  pathMappings: row.pathMappings,
  target: row.target,
  trialOf: row.trialOf && { productionId: row.trialOf.productionId, cutId: row.trialOf.cutId },
})
