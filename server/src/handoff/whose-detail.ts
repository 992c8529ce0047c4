import { dirname } from 'node:path'
import { alignFrames, frameBeside, type PictureFacts, sameShape, uprightSquareRaster, whoseDetail } from '@ennick/core'
import { greyRaster } from '../engine/grey-raster.ts'
import { isAsKnown } from '../intake/describe-file.ts'
import { placeIn } from '../pairs/both-pictures.ts'
import type { FoundFile } from '../store/job-types.ts'
import { type KnownClip, type KnownFile, playsNow } from '../store/known-material.ts'

/** A proxy is told from its original where it is so much narrower than the finished picture, at least. */
const widest = 0.75

/**
 * Whether a finished picture holds the fine detail of its original, or no more than its proxy does.
 * @param frames of both, that show the same
 * @returns null where no proxy is small enough to tell, or the pictures do not say it
 */
export async function whoseDetailIn(
  { file, path }: { readonly file: FoundFile; readonly path: string },
  clip: KnownClip,
  { finished, original, signal }: { finished: number; original: number; signal: AbortSignal },
): Promise<{ of: 'the original' | 'the proxy'; proxy: string } | null> {
  const { picture } = file.facts
  const source = clip.main.facts
  const place = placeIn(clip, original)
  const holder = clip.files.find(({ id }) => id === place?.fileId)
  if (!picture || !source?.picture || !place || !holder?.facts || !sameShape(picture, source.picture)) return null
  const proxy = proxyBelow(clip, picture.width * widest)
  const beside = proxy && alignFrames(source, proxy.file.facts)
  const frame = beside ? frameBeside(beside, original) : -1
  if (!proxy || frame < 0 || frame >= proxy.frames || !(await isAsKnown(proxy.file))) return null
  const raster = uprightSquareRaster(picture)
  const [own, full, small] = [
    await greyRaster({ ...file, root: dirname(file.path), fullPath: path, sequence: null }, finished, raster, signal),
    await greyRaster({ ...holder, facts: holder.facts }, place.frame, raster, signal),
    await greyRaster(proxy.file, frame, raster, signal),
  ]
  const of = own && full && small ? whoseDetail(own, full, small) : null
  return of && { of, proxy: proxy.name }
}

/** The widest proxy of a clip that is its twin, and no wider than asked. */
function proxyBelow(
  { pairs, main }: KnownClip,
  width: number,
): { name: string; frames: number; file: KnownFile & { readonly facts: NonNullable<KnownFile['facts']> } } | null {
  const source = main.facts?.picture as PictureFacts
  const fitting = pairs.flatMap((pair) => {
    const [part, ...others] = pair.files.filter(({ part }) => part !== 'sound')
    const facts = part?.file.facts
    const isTwin = pair.verdict === 'proven' || pair.verdict === 'matched'
    if (pair.kind !== 'proxy' || !isTwin || !playsNow(pair) || !part || others.length || !facts?.picture) return []
    const { width: own, frames } = facts.picture
    return own <= width && sameShape(facts.picture, source)
      ? [{ name: pair.name, width: own, frames, file: { ...part.file, facts } }]
      : []
  })
  return fitting.sort((a, b) => b.width - a.width)[0] ?? null
}
