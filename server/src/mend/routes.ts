import { desc, eq } from 'drizzle-orm'
import { readCutRow, readCutState } from '../cuts/cut-state.ts'
import { presentFinding } from '../cuts/present.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addJob, presentJob } from '../queue/jobs.ts'
import { mends } from '../store/schema.ts'
import { presentMend, readMend } from './links.ts'
import { makeAgain, undoMend } from './make-again.ts'
import { presentSearch } from './present.ts'
import { chooseClip, readSearch, repoint } from './repoint.ts'
import { restamp } from './restamp.ts'

export function mendRoutes({ app, database, folders, material }: Services): void {
  implement(app, 'chooseClip', async ({ params, body }) =>
    presentMend(await chooseClip(database, params.cutId, body.positions, body.clipId)),
  )

  implement(app, 'listFindings', async ({ params }) => {
    const state = await readCutState(database, params.cutId, material)
    return state.findings.map((finding) => presentFinding(state, finding))
  })

  implement(app, 'search', async ({ params, body }) => {
    const row = await readCutRow(database, params.cutId)
    const folder = await folders.resolve(body.folder)
    return presentJob(
      await addJob(database, row.productionId, `Search ${folder} for “${row.name}”`, {
        kind: 'search',
        cutId: row.id,
        folder,
        findingKeys: body.findingKeys,
      }),
    )
  })

  implement(app, 'readSearch', async ({ params }) => {
    const search = await readSearch(database, params.jobId)
    return presentSearch(params.jobId, await readCutState(database, search.cutId, material), search.result)
  })

  implement(app, 'repoint', async ({ params, body }) =>
    presentMend(await repoint(database, params.cutId, body.searchJobId, body.choices)),
  )

  implement(app, 'makeAgain', async ({ params, body }) => {
    const row = await readCutRow(database, params.cutId)
    return (await makeAgain(database, row.id, row.productionId, body.pairIds)).map(presentMend)
  })

  implement(app, 'makePairsAgain', async ({ params, body }) =>
    (await makeAgain(database, null, params.productionId, body.pairIds)).map(presentMend),
  )

  implement(app, 'restamp', async ({ params, body }) =>
    (await restamp(database, params.productionId, body.pairIds)).map(presentMend),
  )

  implement(app, 'listMends', async ({ params }) =>
    (
      await database
        .select()
        .from(mends)
        .where(eq(mends.productionId, params.productionId))
        .orderBy(desc(mends.createdAt))
        .limit(500)
    ).map(presentMend),
  )

  implement(app, 'undoMend', async ({ params }) => {
    await undoMend(database, await readMend(database, params.mendId))
    return presentMend(await readMend(database, params.mendId))
  })
}
