import { and, eq } from 'drizzle-orm'
import { readCutState } from '../cuts/cut-state.ts'
import { notFound, PlainError } from '../errors.ts'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { announce } from '../store/announce.ts'
import { writeHistory } from '../store/history.ts'
import { contentOf, type KnownClip, type Material } from '../store/known-material.ts'
import { placeFile } from '../store/place-file.ts'
import { productionRate, readProduction } from '../store/production-row.ts'
import { withSaidFacts } from '../store/said-facts.ts'
import { clipFiles, clips, files, productions, volumes } from '../store/schema.ts'
import { clipViews, viewNotes } from '../store/viewer-schema.ts'
import { ready, sendFile, sendRender } from './media.ts'
import { nameFrame, presentView, presentWatch, readApart, viewRate } from './present.ts'
import { sendFrame } from './send-frame.ts'
import { presentSides } from './sides.ts'

/** Pictures and sound as they are looked at. */
export function viewerRoutes({ app, config, database, material: kept }: Services): void {
  const readClip = async (clipId: string): Promise<{ clip: KnownClip; material: Material }> => {
    const [row] = await database.select({ productionId: clips.productionId }).from(clips).where(eq(clips.id, clipId))
    const material = row ? await kept.read(row.productionId) : null
    const clip = material?.clips.get(clipId)
    if (!material || !clip) throw notFound('This clip')
    return { clip, material }
  }

  implementRaw(app, 'filePicture', async ({ params, query: { size } }, response) => {
    const [row] = await database
      .select({ file: files, volume: volumes, described: clips.described })
      .from(files)
      .innerJoin(volumes, eq(volumes.id, files.volumeId))
      .leftJoin(clipFiles, eq(clipFiles.fileId, files.id))
      .leftJoin(clips, eq(clips.id, clipFiles.clipId))
      .where(eq(files.id, params.fileId))
    const file = row && withSaidFacts({ described: row.described ?? {} }, row.file)
    const source = row && file?.facts ? { ...placeFile(file, row.volume), facts: file.facts } : null
    // A large frame is judged: it is never shown of content that is not the file's own any more.
    if (source && size !== 'small') await ready(source)
    await sendFrame(response, source, { frame: params.frame, size, isPassing: size !== 'small' }, config.dataFolder)
  })

  implement(app, 'readView', async ({ params }) => {
    const { clip, material } = await readClip(params.clipId)
    return presentView(database, material, clip)
  })

  implementRaw(app, 'playSide', async ({ params, query }, response, request) => {
    const { clip, material } = await readClip(params.clipId)
    await sendRender(
      { clip, material, rate: viewRate(material, clip) },
      { sideId: params.sideId, query },
      request,
      response,
    )
  })
  implementRaw(app, 'streamSide', async ({ params }, response) => {
    await sendFile((await readClip(params.clipId)).clip, params.sideId, response)
  })

  implement(app, 'readShown', async ({ params }) => ({
    choice: (await readProduction(database, params.productionId)).shown,
    apart: await readApart(database, params.productionId),
  }))
  implement(app, 'setShown', async ({ params, body: { shown } }) => {
    await readProduction(database, params.productionId)
    await database.update(productions).set({ shown }).where(eq(productions.id, params.productionId))
    await writeHistory(
      database,
      ...([params.productionId, 'production', params.productionId, `Looked at from now on: ${shown}.`] as const),
    )
    await announce(database, params.productionId, 'viewer')
    return { done: true as const }
  })
  implement(app, 'setClipShown', async ({ params, body: { shown } }) => {
    const { clip } = await readClip(params.clipId)
    await keepView(clip, { shown })
    const what = shown === null ? 'as all the others again' : `${shown}, apart from the others`
    await writeHistory(database, clip.productionId, 'clip', clip.id, `${clip.name} is looked at: ${what}.`)
    return { done: true as const }
  })

  implement(app, 'setMarks', async ({ params, body: { inFrame, outFrame } }) => {
    if (inFrame !== null && outFrame !== null && outFrame < inFrame)
      throw new PlainError('marks', 'The out point lies before the in point.')
    const { clip } = await readClip(params.clipId)
    await keepView(clip, { inFrame, outFrame, pointsContent: contentOf(clip) })
    return { done: true as const }
  })

  const keepView = async (clip: KnownClip, values: Partial<typeof clipViews.$inferInsert>): Promise<void> => {
    await database
      .insert(clipViews)
      .values({ clipId: clip.id, ...values })
      .onConflictDoUpdate({ target: clipViews.clipId, set: values })
    await announce(database, clip.productionId, 'viewer')
  }

  implement(app, 'addViewNote', async ({ params, body }) => {
    const { clip, material } = await readClip(params.clipId)
    if (body.kind === 'note' && body.text === '') throw new PlainError('empty', 'Write what is to be noted.')
    const side = presentSides(clip, productionRate(material.production)).find(({ id }) => id === body.sideId)
    if (!side) throw notFound('What was shown')
    const isOnOriginal = side.kind === 'original'
    const seenOn = [`the ${side.kind}`, side.raster, side.codec].filter(Boolean).join(', ')
    await database.insert(viewNotes).values({
      ...{ clipId: clip.id, frame: body.frame, text: body.text, kind: body.kind, seenOn, isOnOriginal },
      content: contentOf(clip),
    })
    const what = body.kind === 'approved' ? 'Approved' : 'Noted'
    const where = nameFrame(clip, viewRate(material, clip), body.frame)
    await writeHistory(
      database,
      ...([clip.productionId, 'clip', clip.id] as const),
      `${what} at ${where} of ${clip.name}, seen on ${seenOn}${body.text ? `: ${body.text}` : '.'}`,
    )
    await announce(database, clip.productionId, 'viewer')
    return { done: true as const }
  })
  implement(app, 'removeViewNote', async ({ params }) => {
    const { clip } = await readClip(params.clipId)
    const [gone] = await database
      .delete(viewNotes)
      .where(and(eq(viewNotes.id, params.noteId), eq(viewNotes.clipId, clip.id)))
      .returning()
    if (!gone) throw notFound('This note')
    await writeHistory(
      database,
      ...([
        clip.productionId,
        'clip',
        clip.id,
        `A note on ${clip.name} was taken back: ${gone.text || gone.kind}.`,
      ] as const),
    )
    await announce(database, clip.productionId, 'viewer')
    return { done: true as const }
  })

  implement(app, 'readCutWatch', async ({ params }) => presentWatch(await readCutState(database, params.cutId, kept)))
}
