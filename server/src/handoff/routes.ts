import type { PreflightInfo } from '@ennick/contract'
import { decidedUses } from '@ennick/core'
import { asc, desc, eq, sql } from 'drizzle-orm'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { presentPreflight } from '../cuts/present.ts'
import { PlainError } from '../errors.ts'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addJob, presentJob } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import { originalTrials } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { handoffs } from '../store/handoff-schema.ts'
import { writeHistory } from '../store/history.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { KnownClip } from '../store/known-material.ts'
import { decisions } from '../store/schema.ts'
import { handOff, listFileName, presentHandoff, writeLists } from './hand-off.ts'
import { readSinceHandoff } from './since.ts'

export function handoffRoutes({ app, database, config, material }: Services): void {
  implement(app, 'readPreflight', ({ params }) => readPreflight(database, material, params.cutId))

  implement(app, 'tryOriginals', async ({ params }) => {
    const state = await readCutState(database, params.cutId, material)
    const clipIds = originalsOf(state).map(({ id }) => id)
    const title = `Try the originals of “${state.row.name}”: decode head, quarters and tail`
    return presentJob(await addJob(database, state.row.productionId, title, { kind: 'try', clipIds }))
  })

  implement(app, 'decide', async ({ params, body }) => {
    const state = await readCutState(database, params.cutId, material)
    const finding = state.findings.find((candidate) => candidate.key === body.findingKey)
    if (!finding)
      throw new PlainError('no-finding', 'That finding is no longer there: nothing has to be decided.', { status: 409 })
    const uses = JSON.stringify(decidedUses(state.cut.events, finding))
    await database.execute(sql`
      insert into ${decisions} (cut_id, finding_key, reason, uses)
      values (${params.cutId}, ${finding.key}, ${body.reason}, ${uses}::jsonb)
      on conflict (cut_id, md5(finding_key))
      do update set reason = excluded.reason, uses = excluded.uses, decided_at = now()`)
    await writeHistory(
      database,
      state.row.productionId,
      'cut',
      params.cutId,
      `Decided to leave open: ${finding.message} Reason: ${body.reason}`,
    )
    await announce(database, state.row.productionId, 'cuts')
    return readPreflight(database, material, params.cutId)
  })

  implement(app, 'withdrawDecision', async ({ params, body }) => {
    const { row, findings } = await readCutState(database, params.cutId, material)
    const about = findings.find(({ key }) => key === body.findingKey)?.message ?? 'a finding that is no longer there'
    await database
      .delete(decisions)
      .where(sql`${decisions.cutId} = ${params.cutId} and ${decisions.findingKey} = ${body.findingKey}`)
    await writeHistory(database, row.productionId, 'cut', params.cutId, `Decision withdrawn: ${about}`)
    await announce(database, row.productionId, 'cuts')
    return readPreflight(database, material, params.cutId)
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
  implement(app, 'readSinceHandoff', ({ params }) => readSinceHandoff(database, material, params))
  implement(app, 'readSinceJob', ({ params }) => readSinceHandoff(database, material, params))

  implement(app, 'readFormats', async ({ params, query }) => {
    const state = await readCutState(database, params.cutId, material)
    const number = (position: number): string => state.cut.events[position]?.number ?? ''
    return (await writeLists(state, query)).map((list) => ({
      format: list.format,
      name: list.name,
      fileName: listFileName(state.cut.name, list),
      reason: list.reason,
      losses: list.losses.map(({ name, carried, becomes, events }) => ({
        ...{ name, carried, becomes },
        events: [...new Set(events.map(number))],
      })),
      replaced: [...list.replaced],
    }))
  })
  implement(app, 'handOff', async ({ params, body }) =>
    presentHandoff(await handOff({ database, config, material }, params.cutId, body)),
  )

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

async function readPreflight(database: Database, material: KeptMaterial, cutId: string): Promise<PreflightInfo> {
  const state = await readCutState(database, cutId, material)
  const files = originalsOf(state).flatMap((clip) => clip.files)
  const ids = files.map(({ id }) => id)
  const trials = await database.select().from(originalTrials).where(anyOf(originalTrials.fileId, ids))
  const tried = new Map(trials.map(({ fileId, fingerprint }) => [fileId, fingerprint]))
  return presentPreflight(state, {
    of: files.length,
    done: files.filter(({ id, fingerprint }) => tried.get(id) === fingerprint).length,
  })
}

/** The clips that a cut uses and that are here, by which it is to be finished. */
function originalsOf({ resolutions, material }: CutState): KnownClip[] {
  const ids = new Set(resolutions.flatMap(({ clipId }) => clipId ?? []))
  return [...ids].flatMap((id) => material.clips.get(id) ?? []).filter(({ presence }) => presence === 'here')
}
