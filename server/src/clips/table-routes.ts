import type { Condition } from '@ennick/core'
import { checkCondition, formatNumber, SearchError } from '@ennick/core'
import { and, asc, eq, sql } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addJob, presentJob } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import { clipIndex, savedSearches, savedViews } from '../store/catalogue-schema.ts'
import { readProduction } from '../store/production-row.ts'
import { dropAwaited, holdPlaces, readAwaited } from './awaited.ts'
import { addColumn, presentFields, removeColumn } from './columns.ts'
import { editClips } from './edit.ts'
import { readFields } from './fields.ts'
import { findElsewhere } from './find-elsewhere.ts'
import { refreshIndex } from './index-refresh.ts'
import { importLog } from './logs.ts'
import { presentClip } from './present.ts'
import { readFit } from './production-fit.ts'
import { countClips, outline, rowsOf, searchIds, searchPage } from './search.ts'
import { bringBack, listTakenOut, takeOut } from './taken-out.ts'
import { readEditStack, stepEdits } from './undo.ts'
import { exportLog } from './write-logs.ts'

/** The table of clips: finding, sorting, describing, and logs in and out. */
export function clipTableRoutes(services: Services): void {
  const { app, database } = services
  implement(app, 'searchClips', async ({ params, body }) => {
    const { rows, next } = await searchPage(database, params.productionId, body, body.after, body.limit)
    return { rows: rows.map(presentClip), next }
  })
  implement(app, 'findElsewhere', ({ params, query }) => findElsewhere(database, params.productionId, query.words))
  implement(app, 'outlineClips', ({ params, body }) => outline(database, params.productionId, body, body.every))
  implement(app, 'listClipIds', async ({ params, body }) => ({
    ids: await searchIds(database, params.productionId, body),
  }))
  implement(app, 'readClips', async ({ params, body }) => ({
    rows: (await rowsOf(database, params.productionId, body.clipIds)).map(presentClip),
  }))
  implement(app, 'listTree', async ({ params }) => {
    await refreshIndex(database, params.productionId)
    const day = sql<string>`coalesce(${clipIndex.described}->>'day', '')`
    const camera = sql<string>`coalesce(${clipIndex.described}->>'camera', '')`
    const rows = await database
      .select({
        day,
        camera,
        reel: clipIndex.reel,
        clips: sql<number>`count(*)::int`,
        bytes: sql<string>`sum(${clipIndex.size})`,
      })
      .from(clipIndex)
      .where(eq(clipIndex.productionId, params.productionId))
      .groupBy(day, camera, clipIndex.reel)
      .orderBy(
        sql`${day} collate "ennick_natural"`,
        sql`${camera} collate "ennick_natural"`,
        sql`${clipIndex.reel} collate "ennick_natural"`,
      )
    return rows.map((row) => ({ ...row, bytes: Number(row.bytes) }))
  })

  implement(app, 'listFields', async ({ params }) => presentFields(await readProduction(database, params.productionId)))
  implement(app, 'addColumn', ({ params, body }) => addColumn(database, params.productionId, body))
  implement(app, 'removeColumn', ({ params }) => removeColumn(database, params.productionId, params.fieldId))

  implement(app, 'takeOutClips', async ({ params, body }) =>
    takeOut(database, await services.material.read(params.productionId), body.clipIds, body.apply),
  )
  implement(app, 'listTakenOut', ({ params }) => listTakenOut(database, params.productionId))
  implement(app, 'bringBackClips', async ({ params, body }) => {
    await bringBack(database, params.productionId, body.clipIds)
    return { done: true as const }
  })

  implement(app, 'editClips', ({ params, body }) => editClips(database, params.productionId, body.action, body.apply))
  implement(app, 'readEdits', ({ params }) => readEditStack(database, params.productionId))
  implement(app, 'undoEdit', ({ params }) => stepEdits(database, params.productionId, 'undo'))
  implement(app, 'redoEdit', ({ params }) => stepEdits(database, params.productionId, 'redo'))

  implement(app, 'measureClips', async ({ params, body }) => {
    const clipIds = [...new Set(body.clipIds)]
    const title = `Measure how ${clipIds.length === 1 ? 'a clip plays' : `${formatNumber(clipIds.length)} clips play`}`
    return presentJob(await addJob(database, params.productionId, title, { kind: 'measure', clipIds }))
  })

  implement(app, 'readFit', ({ params }) => readFit(database, params.productionId))
  implement(app, 'importLog', ({ params, body }) => importLog(database, params.productionId, body))
  implement(app, 'holdPlaces', ({ params, body }) => holdPlaces(database, params.productionId, body))
  implement(app, 'listAwaited', ({ params }) => readAwaited(database, params.productionId))
  implement(app, 'dropAwaited', async ({ params }) => {
    await dropAwaited(database, params.awaitedId)
    return { done: true as const }
  })
  implement(app, 'exportLog', ({ params, body }) => exportLog(database, params.productionId, body))
  savedRoutes(services)
}

function savedRoutes({ app, database }: Services): void {
  const present = async (row: typeof savedSearches.$inferSelect) => {
    const fields = await readFields(database, row.productionId)
    const filter = { words: '', condition: row.condition }
    // A search over a column that is no longer there finds nothing; opening it says why.
    const count = await countClips(database, row.productionId, filter, fields).catch((error: unknown) => {
      if (error instanceof PlainError) return 0
      throw error
    })
    return { id: row.id, name: row.name, condition: row.condition, count }
  }
  implement(app, 'listSearches', async ({ params }) => {
    await refreshIndex(database, params.productionId)
    const rows = await database
      .select()
      .from(savedSearches)
      .where(eq(savedSearches.productionId, params.productionId))
      .orderBy(asc(savedSearches.createdAt))
    return Promise.all(rows.map(present))
  })
  implement(app, 'saveSearch', async ({ params, body }) => {
    assertAskable(body.condition, await readFields(database, params.productionId))
    const [row] = await database
      .insert(savedSearches)
      .values({ ...body, productionId: params.productionId })
      .onConflictDoUpdate({
        target: [savedSearches.productionId, savedSearches.name],
        set: { condition: body.condition },
      })
      .returning()
    await announce(database, params.productionId, 'catalogue')
    await refreshIndex(database, params.productionId)
    return present(row as typeof savedSearches.$inferSelect)
  })
  implement(app, 'removeSearch', async ({ params }) => {
    const [row] = await database.delete(savedSearches).where(eq(savedSearches.id, params.searchId)).returning()
    if (!row) throw notFound('This search')
    await announce(database, row.productionId, 'catalogue')
    return { done: true as const }
  })

  implement(app, 'listViews', ({ params }) =>
    database
      .select({ id: savedViews.id, name: savedViews.name, columns: savedViews.columns, sort: savedViews.sort })
      .from(savedViews)
      .where(eq(savedViews.productionId, params.productionId))
      .orderBy(asc(savedViews.createdAt)),
  )
  implement(app, 'saveView', async ({ params, body }) => {
    const { name, columns, sort } = body
    const [row] = await database
      .insert(savedViews)
      .values({ name, columns, sort, productionId: params.productionId })
      .onConflictDoUpdate({ target: [savedViews.productionId, savedViews.name], set: { columns, sort } })
      .returning({ id: savedViews.id })
    await announce(database, params.productionId, 'catalogue')
    return { id: row?.id as string, name, columns, sort }
  })
  implement(app, 'removeView', async ({ params }) => {
    const [row] = await database
      .delete(savedViews)
      .where(and(eq(savedViews.id, params.viewId)))
      .returning()
    if (!row) throw notFound('This view')
    await announce(database, row.productionId, 'catalogue')
    return { done: true as const }
  })
}

function assertAskable(condition: Condition, fields: Parameters<typeof checkCondition>[1]): void {
  try {
    checkCondition(condition, fields)
  } catch (error) {
    if (error instanceof SearchError) throw new PlainError('bad-search', error.message)
    throw error
  }
}
