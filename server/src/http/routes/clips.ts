import { basename } from 'node:path'
import { ReelRuleError, reelReader } from '@ennick/core'
import { eq } from 'drizzle-orm'
import type { Response } from 'express'
import { pictureFolder } from '../../config.ts'
import { readAllCutStates } from '../../cutting/cut-state.ts'
import { lutPath } from '../../engine/luts.ts'
import { type PictureKind, pictureOf } from '../../engine/pictures.ts'
import { notFound, PlainError } from '../../errors.ts'
import { countUses, presentClip, presentClipDetail } from '../../present/clips.ts'
import { announce } from '../../store/announce.ts'
import type { Queryable } from '../../store/database.ts'
import { record } from '../../store/history.ts'
import { readPictureSources } from '../../store/picture-sources.ts'
import { clips } from '../../store/schema.ts'
import { productionRate, readWorld, type World, type WorldClip } from '../../store/world.ts'
import { implement, implementRaw } from '../implement.ts'
import type { Services } from '../services.ts'

export function clipRoutes({ app, database, config }: Services): void {
  implement(app, 'listClips', async ({ params }) => {
    const world = await readWorld(database, params.productionId)
    const uses = countUses(await readAllCutStates(database, world))
    return [...world.clips.values()].map((clip) => presentClip(clip, uses, productionRate(world.production)))
  })

  implement(app, 'readClip', async ({ params }) => {
    const { world, clip } = await readClipWorld(database, params.clipId)
    return presentClipDetail(database, world, clip, await readAllCutStates(database, world))
  })

  const sendPicture = (kind: PictureKind) => async (call: { params: { clipId: string } }, response: Response) => {
    const { name, sources } = await readPictureSources(database, call.params.clipId)
    for (const source of sources) {
      const path = await pictureOf(kind, source, pictureFolder(config.dataFolder), lutPath('estuary-log-to-display'))
      if (path === null) continue
      response.set('cache-control', 'private, max-age=60')
      response.sendFile(path, { dotfiles: 'allow' })
      return
    }
    throw new PlainError('no-picture', `There is no picture of ${name}.`, { status: 404 })
  }
  implementRaw(app, 'clipPicture', sendPicture('thumbnail'))
  implementRaw(app, 'clipFilmstrip', sendPicture('filmstrip'))

  implement(app, 'setReels', async ({ params, body }) => {
    const world = await readWorld(database, params.productionId)
    const read = compileRule(body.rule)
    const changes: { clipId: string; name: string; before: string | null; after: string | null }[] = []
    const unfit: string[] = []
    for (const clipId of body.clipIds) {
      const clip = world.clips.get(clipId)
      if (!clip) throw notFound('One of the clips')
      const name = basename(clip.main.path)
      const after = read(name)
      if (after === undefined) unfit.push(name)
      else if (after !== clip.reel) changes.push({ clipId, name, before: clip.reel, after })
    }
    if (!body.apply) return { applied: false, changes, unfit }
    await database.transaction(async (transaction) => {
      for (const change of changes) {
        await transaction.update(clips).set({ reel: change.after, reelFrom: 'rule' }).where(eq(clips.id, change.clipId))
        await record(
          transaction,
          params.productionId,
          'clip',
          change.clipId,
          `Reel set from the file name: ${change.before ?? 'none'} → ${change.after}.`,
        )
      }
      await announce(transaction, params.productionId, 'clips', 'pairs', 'cuts')
    })
    return { applied: true, changes, unfit }
  })
}

function compileRule(rule: Parameters<typeof reelReader>[0]): (name: string) => string | undefined {
  try {
    return reelReader(rule)
  } catch (error) {
    if (error instanceof ReelRuleError) throw new PlainError('bad-rule', error.message)
    throw error
  }
}

async function readClipWorld(database: Queryable, clipId: string): Promise<{ world: World; clip: WorldClip }> {
  const [row] = await database.select({ productionId: clips.productionId }).from(clips).where(eq(clips.id, clipId))
  const world = row ? await readWorld(database, row.productionId) : null
  const clip = world?.clips.get(clipId)
  if (!world || !clip) throw notFound('This clip')
  return { world, clip }
}
