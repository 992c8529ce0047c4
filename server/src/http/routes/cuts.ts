import { asc, desc, eq, sql } from 'drizzle-orm'
import { addCut } from '../../cutting/add-cut.ts'
import { readAllCutStates, readCutRow, readCutState } from '../../cutting/cut-state.ts'
import { PlainError } from '../../errors.ts'
import { handOff, presentHandoff } from '../../handing-off/hand-off.ts'
import { presentMend, readMend } from '../../mending/links.ts'
import { makeAgain, undoMend } from '../../mending/make-again.ts'
import { chooseClip, readSearch, repoint } from '../../mending/repoint.ts'
import { presentCut, presentCutDetail, presentFinding, presentPreflight, presentSearch } from '../../present/cuts.ts'
import { addJob, presentJob } from '../../queue/jobs.ts'
import { announce } from '../../store/announce.ts'
import { record } from '../../store/history.ts'
import { cuts, decisions, handoffs, mends } from '../../store/schema.ts'
import { readWorld } from '../../store/world.ts'
import { implement, implementRaw } from '../implement.ts'
import type { Services } from '../services.ts'

export function cutRoutes({ app, database }: Services): void {
  implement(app, 'listCuts', async ({ params }) =>
    (await readAllCutStates(database, await readWorld(database, params.productionId))).map(presentCut),
  )
  implement(app, 'addCut', async ({ params, body }) =>
    presentCut(await readCutState(database, (await addCut(database, params.productionId, body.fileName, body.text, body.rate)).id)),
  )
  implement(app, 'readCut', async ({ params }) => presentCutDetail(await readCutState(database, params.cutId)))

  implement(app, 'removeCut', async ({ params }) => {
    const row = await readCutRow(database, params.cutId)
    await database.delete(cuts).where(eq(cuts.id, row.id))
    await record(database, row.productionId, 'cut', row.id, `Took the cut “${row.name}” out of the production.`)
    await announce(database, row.productionId, 'cuts')
    return { done: true as const }
  })

  implement(app, 'chooseClip', async ({ params, body }) =>
    presentMend(await chooseClip(database, params.cutId, body.positions, body.clipId)),
  )
}

export function mendRoutes({ app, database, folders }: Services): void {
  implement(app, 'listFindings', async ({ params }) => {
    const state = await readCutState(database, params.cutId)
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
    return presentSearch(params.jobId, await readCutState(database, search.cutId), search.result)
  })

  implement(app, 'repoint', async ({ params, body }) => presentMend(await repoint(database, params.cutId, body.searchJobId, body.choices)))

  implement(app, 'makeAgain', async ({ params, body }) => {
    const row = await readCutRow(database, params.cutId)
    return (await makeAgain(database, row.id, row.productionId, body.pairIds)).map(presentMend)
  })

  implement(app, 'listMends', async ({ params }) =>
    (await database.select().from(mends).where(eq(mends.productionId, params.productionId)).orderBy(desc(mends.createdAt)).limit(500)).map(
      presentMend,
    ),
  )

  implement(app, 'undoMend', async ({ params }) => {
    await undoMend(database, await readMend(database, params.mendId))
    return presentMend(await readMend(database, params.mendId))
  })
}

export function handoffRoutes({ app, database, config }: Services): void {
  implement(app, 'readPreflight', async ({ params }) => presentPreflight(await readCutState(database, params.cutId)))

  implement(app, 'decide', async ({ params, body }) => {
    const state = await readCutState(database, params.cutId)
    const finding = state.findings.find((candidate) => candidate.key === body.findingKey)
    if (!finding) throw new PlainError('no-finding', 'That finding is no longer there: nothing has to be decided.', { status: 409 })
    await database
      .insert(decisions)
      .values({ cutId: params.cutId, findingKey: body.findingKey, reason: body.reason })
      .onConflictDoUpdate({ target: [decisions.cutId, decisions.findingKey], set: { reason: body.reason, decidedAt: sql`now()` } })
    await record(database, state.row.productionId, 'cut', params.cutId, `Decided to leave open: ${finding.message} Reason: ${body.reason}`)
    await announce(database, state.row.productionId, 'cuts')
    return presentPreflight(await readCutState(database, params.cutId))
  })

  implement(app, 'withdrawDecision', async ({ params, body }) => {
    const row = await readCutRow(database, params.cutId)
    await database.delete(decisions).where(sql`${decisions.cutId} = ${params.cutId} and ${decisions.findingKey} = ${body.findingKey}`)
    await record(database, row.productionId, 'cut', params.cutId, `Decision withdrawn on ${body.findingKey}.`)
    await announce(database, row.productionId, 'cuts')
    return presentPreflight(await readCutState(database, params.cutId))
  })

  implement(app, 'listHandoffs', async ({ params }) =>
    (
      await database
        .select()
        .from(handoffs)
        .where(eq(handoffs.productionId, params.productionId))
        .orderBy(desc(handoffs.createdAt), asc(handoffs.id))
    ).map(presentHandoff),
  )
  implement(app, 'handOff', async ({ params }) => presentHandoff(await handOff(database, config, params.cutId)))

  implementRaw(app, 'handoffFile', async ({ params }, response) => {
    const [row] = await database.select().from(handoffs).where(eq(handoffs.id, params.handoffId))
    const file = row?.files.find((candidate) => candidate.name === params.fileName)
    if (!row || !file) throw new PlainError('not-found', 'This handoff has no such file.', { status: 404 })
    const headers = file.name.endsWith('.html')
      ? {}
      : { 'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}` }
    response.sendFile(file.name, { root: row.folder, dotfiles: 'allow', headers })
  })
}
