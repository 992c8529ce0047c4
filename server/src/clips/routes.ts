import { eq, sql } from 'drizzle-orm'
import type { Response } from 'express'
import { pictureFolder } from '../config.ts'
import { builtInLutPath } from '../engine/luts.ts'
import { type PictureKind, pictureOf } from '../engine/pictures.ts'
import { waveformOf } from '../engine/waveform.ts'
import { notFound, PlainError } from '../errors.ts'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { untilClosed } from '../http/until-closed.ts'
import { decodeSpeeds } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import { readMaterial } from '../store/material.ts'
import { clips, cuts } from '../store/schema.ts'
import { soundLinkOf } from '../store/sound-link.ts'
import { overlapsByClip } from './index-refresh.ts'
import { readPictureSources } from './picture-sources.ts'
import { presentClipDetail } from './present.ts'
import { streamsAtOnce } from './streams.ts'
import { usesOfClips } from './uses.ts'

/** One clip, and its pictures. */
export function clipRoutes({ app, database, config, material }: Services): void {
  implement(app, 'readClip', ({ params }) => readDetail(database, material, params.clipId))

  const sendPicture = (kind: PictureKind) => async (call: { params: { clipId: string } }, response: Response) => {
    const { name, sources } = await readPictureSources(database, call.params.clipId)
    const options = { folder: pictureFolder(config.dataFolder), lut: builtInLutPath, signal: untilClosed(response) }
    for (const source of sources) {
      const path = await pictureOf(kind, source, options)
      if (path === null) continue
      response.set('cache-control', 'private, max-age=60')
      response.sendFile(path, { dotfiles: 'allow' })
      return
    }
    throw new PlainError('no-picture', `There is no picture of ${name}.`, { status: 404 })
  }
  implementRaw(app, 'clipPicture', sendPicture('thumbnail'))
  implementRaw(app, 'clipFilmstrip', sendPicture('filmstrip'))
  implementRaw(app, 'clipWaveform', async ({ params }, response) => {
    const { name, sounds } = await readPictureSources(database, params.clipId)
    for (const files of sounds) {
      const path = await waveformOf(files, pictureFolder(config.dataFolder))
      if (path === null) continue
      response.set('cache-control', 'private, max-age=60')
      response.sendFile(path, { dotfiles: 'allow' })
      return
    }
    throw new PlainError('no-waveform', `The sound of ${name} cannot be shown while its file is not here.`, {
      status: 404,
    })
  })
}

async function readDetail(database: Database, kept: KeptMaterial, clipId: string) {
  const [row] = await database.select().from(clips).where(eq(clips.id, clipId))
  if (!row) throw notFound('This clip')
  // Only a cut or a shared reel makes a clip depend on all the others.
  const hasCuts = (await database.$count(cuts, eq(cuts.productionId, row.productionId))) > 0
  const ofReel =
    row.reel === null || hasCuts
      ? [{ id: clipId }]
      : await database
          .select({ id: clips.id })
          .from(clips)
          .where(
            sql`${clips.productionId} = ${row.productionId} and ennick_fold(${clips.reel}) = ennick_fold(${row.reel})`,
          )
  const material = hasCuts
    ? await kept.read(row.productionId)
    : await readMaterial(database, row.productionId, [
        ...ofReel.map(({ id }) => id),
        ...(soundLinkOf(row)?.soundIds ?? []),
      ])
  const clip = material.clips.get(clipId)
  if (!clip) throw notFound('This clip')
  const [speed] = await database.select().from(decodeSpeeds).where(eq(decodeSpeeds.fingerprint, clip.main.fingerprint))
  const plays = speed ? streamsAtOnce(clip.main.facts, speed.framesPerSecond) : null
  return presentClipDetail(database, material, clip, await usesOfClips.given(database, material), {
    overlaps: overlapsByClip(material).get(clipId) ?? [],
    plays,
  })
}
