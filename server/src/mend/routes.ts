import { orderOfWork } from '@ennick/core'
import { desc, eq } from 'drizzle-orm'
import { readCutRow, readCutState } from '../cuts/cut-state.ts'
import { firstSeen } from '../cuts/first-seen.ts'
import { presentFinding } from '../cuts/present.ts'
import { notFound, PlainError } from '../errors.ts'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { readVolume } from '../intake/volume-routes.ts'
import { addJob, presentJob, readJob } from '../queue/jobs.ts'
import type { KnownFile } from '../store/known-material.ts'
import { mends } from '../store/schema.ts'
import { sendFrame } from '../viewer/send-frame.ts'
import { acceptRedelivered } from './accept-redelivered.ts'
import { candidateSource } from './candidate-pictures.ts'
import { presentMend, readMend } from './links.ts'
import { makeAgain } from './make-again.ts'
import { padRecordings } from './pad.ts'
import { presentSearch } from './present.ts'
import { proveMend } from './proof.ts'
import { renameMade } from './rename.ts'
import { replaceFromStart } from './replace-from-start.ts'
import { chooseClips, readSearch, repoint } from './repoint.ts'
import { repointMoved } from './repoint-lost.ts'
import { restamp } from './restamp.ts'
import { readLostHere, readMoved } from './same-content.ts'
import { takeApartUses } from './take-apart.ts'
import { trimUses } from './trim.ts'
import { undoMend } from './undo-mend.ts'

const placed = ({ path, volume }: KnownFile) => ({ path, volumeLabel: volume.label })

export function mendRoutes({ app, database, config, folders, material }: Services): void {
  implement(app, 'chooseClips', async ({ params, body }) =>
    presentMend(await chooseClips(database, params.cutId, body.choices)),
  )

  implement(app, 'listFindings', async ({ params }) => {
    const state = await readCutState(database, params.cutId, material)
    const since = (await firstSeen(database, [state])).get(state.row.id)
    return state.findings.map((finding) => presentFinding(state, finding, since?.get(finding.key)))
  })

  implement(app, 'readOrderOfWork', async ({ params }) => {
    const { findings, decisions } = await readCutState(database, params.cutId, material)
    const steps = orderOfWork(findings, new Set(decisions.map(({ findingKey }) => findingKey)))
    return steps.map((step) => ({
      ...step,
      keys: [...step.keys],
      pairIds: [...step.pairIds],
      padKeys: [...step.padKeys],
    }))
  })

  implement(app, 'trim', async ({ params, body }) => {
    const { mend, cutId } = await trimUses(database, material, params.cutId, body.findingKeys)
    return { mend: presentMend(mend), cutId }
  })

  implement(app, 'takeApart', async ({ params, body }) => {
    const { mend, ...rest } = await takeApartUses(database, material, params.cutId, body)
    return { ...rest, mend: mend && presentMend(mend) }
  })

  implement(app, 'replaceFromStart', async ({ params, body }) => {
    const { mend, ...rest } = await replaceFromStart(database, material, params.cutId, body)
    return { ...rest, mend: mend && presentMend(mend) }
  })

  implement(app, 'search', async ({ params, body }) => {
    const row = await readCutRow(database, params.cutId)
    const folder = body.folder === null ? null : await folders.resolve(body.folder)
    const { scopes, findingKeys } = body
    const input = { kind: 'search' as const, cutId: row.id, folder, scopes, findingKeys }
    return presentJob(
      await addJob(database, row.productionId, `Search ${folder ?? 'what is known'} for “${row.name}”`, input),
    )
  })

  implement(app, 'readSearch', async ({ params }) => {
    const search = await readSearch(database, params.jobId)
    return presentSearch(params.jobId, await readCutState(database, search.cutId, material), search.result)
  })

  implementRaw(app, 'candidatePicture', async ({ params: { jobId, index, frame } }, response) => {
    const { result } = await readSearch(database, jobId)
    const source = await candidateSource(result.candidates[index], folders)
    await sendFrame(response, source, { frame, size: 'small', isPassing: true }, config.dataFolder)
  })

  implement(app, 'checkCollection', async ({ params, body }) => {
    const folder = await folders.resolve(body.folder)
    const row = body.cutId === null ? null : await readCutRow(database, body.cutId)
    if (row && row.productionId !== params.productionId) throw notFound('This cut')
    const title = `Check whether ${folder} holds all of ${row ? `“${row.name}”` : 'the production'}`
    const input = { kind: 'collect' as const, folder, cutId: row?.id ?? null }
    return presentJob(await addJob(database, params.productionId, title, input))
  })

  implement(app, 'readCollection', async ({ params }) => {
    const { result } = await readJob(database, params.jobId)
    if (result?.kind !== 'collect')
      throw new PlainError('no-collection', 'This check has not ended, or it failed: check again.', { status: 409 })
    const { kind: _, needed, extra, unreadable, ...counts } = result
    return {
      ...counts,
      ...{ needed: [...needed], extra: [...extra], unreadable: unreadable.map(({ path }) => path) },
    }
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

  implement(app, 'padRecordings', async ({ params, body }) =>
    (await padRecordings(database, material, params.cutId, body.findingKeys)).map(presentMend),
  )

  implement(app, 'renameMade', async ({ params, body }) => {
    const { mends: done, left } = await renameMade(database, params.productionId, body.pairIds)
    return { mends: done.map(presentMend), left: [...left] }
  })

  implement(app, 'listLostHere', async ({ params }) =>
    (await readLostHere(database, await readVolume(database, params.volumeId), null)).map(
      ({ clipId, name, there }) => ({ clipId, name, path: there.path }),
    ),
  )

  implement(app, 'listMoved', async ({ params }) =>
    (await readMoved(database, await readVolume(database, params.volumeId))).map(({ clipId, name, lost, there }) => ({
      ...{ clipId, name, was: placed(lost), is: placed(there) },
    })),
  )

  implement(app, 'repointMoved', async ({ params }) =>
    presentMend(await repointMoved(database, await readVolume(database, params.volumeId))),
  )

  implement(app, 'acceptRedelivered', ({ params, body }) => acceptRedelivered(database, params.productionId, body))

  implement(app, 'listMends', async ({ params, query }) =>
    (
      await database
        .select()
        .from(mends)
        .where(eq(mends.productionId, params.productionId))
        .orderBy(desc(mends.createdAt))
        .limit(query.limit)
    ).map(presentMend),
  )

  implement(app, 'readMendProof', async ({ params }) => {
    const mend = await readMend(database, params.mendId)
    return proveMend(database, await material.read(mend.productionId), mend)
  })

  implement(app, 'undoMend', async ({ params }) => {
    await undoMend(database, await readMend(database, params.mendId))
    return presentMend(await readMend(database, params.mendId))
  })
}
