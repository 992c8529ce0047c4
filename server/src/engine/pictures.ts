import { rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import {
  type EncodeStrip,
  exactRate,
  isLogPicture,
  type MediaFacts,
  madeRaster,
  type PictureFacts,
  readableFormats,
  sequenceFramePaths,
  stillFormat,
  uprightSquareRaster,
} from '@ennick/core'
import pLimit from 'p-limit'
import { within } from '../disk/answering.ts'
import { keepInCache } from '../disk/cache.ts'
import { assertBeneath, isBeneath } from '../disk/held-folder.ts'
import type { EngineFile } from './input.ts'
import { run } from './process.ts'
import { scratchPath } from './scratch.ts'
import { hasNoIndex, withSought } from './sought.ts'

/** Pictures are made a few at a time, so that a page of thumbnails does not take the machine. */
const fewAtOnce = pLimit(2)
/**
 * The encoder has a minute for a frame. What has not ended some time after that does not hear that it is to end, as its
 * disk hangs: it keeps no other picture waiting.
 */
const longestSeconds = 75

/** Of one picture of a filmstrip: large enough to be shown alone. */
const tileWidth = 320

/** A picture that is being made, or waits for its turn. */
interface Making {
  path: Promise<string | null>
  /** So many wait for it. */
  waiting: number
  hasBegun: boolean
}
const inFlight = new Map<string, Making>()

/** Of a frame: a tile, as much as a screen shows, or every pixel. */
export type FrameSize = 'small' | 'screen' | 'full'

/** One picture, eight over the length, or the frame of a number. */
export type PictureKind = 'thumbnail' | 'filmstrip' | { readonly frame: number; readonly size: FrameSize }

/** A file that small pictures are made from. */
export interface PictureSource extends EngineFile {
  readonly fingerprint: string
  readonly facts: MediaFacts
}

/**
 * The path of a small picture of a file, made the first time it is asked for and kept by the file's fingerprint.
 * Log pictures pass through the viewing LUT, so that they look as the proxies will.
 * @param options.signal that whoever asked has gone: what nobody waits for any more is not begun
 * @returns null when no picture can be made of it, or nobody waited for it
 */
export function pictureOf(
  kind: PictureKind,
  source: PictureSource,
  { folder, lut, signal }: { folder: string; lut: string | null; signal?: AbortSignal },
): Promise<string | null> {
  const target = picturePath(kind, source, folder)
  const making = inFlight.get(target) ?? begin(kind, source, { folder, target, lut })
  making.waiting++
  const leave = (): void => {
    making.waiting--
    // Whoever comes for it now begins anew.
    if (making.waiting === 0 && !making.hasBegun && inFlight.get(target) === making) inFlight.delete(target)
  }
  if (signal?.aborted) leave()
  else signal?.addEventListener('abort', leave, { once: true })
  return making.path
}

function begin(
  kind: PictureKind,
  source: PictureSource,
  at: { folder: string; target: string; lut: string | null },
): Making {
  const making: Making = { path: Promise.resolve(null), waiting: 0, hasBegun: false }
  const isWanted = (): boolean => {
    making.hasBegun = making.waiting > 0
    return making.hasBegun
  }
  making.path = makePicture(kind, source, at, isWanted).finally(() => {
    if (inFlight.get(at.target) === making) inFlight.delete(at.target)
  })
  inFlight.set(at.target, making)
  return making
}

function picturePath(kind: PictureKind, { fingerprint, facts }: PictureSource, folder: string): string {
  const { picture } = facts
  const { numerator, denominator } = picture?.pixelAspect ?? {}
  const shape = picture?.toldPixelAspect ? `-${numerator}x${denominator}` : ''
  const name = typeof kind === 'string' ? kind : `frame-${kind.frame}${kind.size === 'small' ? '' : `-${kind.size}`}`
  // Before its frames were found by way of its key pictures, those of a file without index were others.
  const led = hasNoIndex({ facts }) ? '-led' : ''
  return join(folder, fingerprint.slice(0, 2), `${fingerprint}-${name}${led}${shape}.jpg`)
}

const screenWidth = 1280
/** How wide a frame is drawn: never wider than it is. */
function frameWidth(size: FrameSize, picture: PictureFacts): number {
  if (size === 'small') return tileWidth
  const { width } = uprightSquareRaster(picture)
  return 2 * Math.ceil((size === 'full' ? width : Math.min(width, screenWidth)) / 2)
}

const stripTiles = 8
const stripFrames = (frames: number): number[] =>
  Array.from({ length: stripTiles }, (_, index) => Math.floor(((index + 0.5) * frames) / stripTiles))

/**
 * Lets an encode that reads the file anyway make its filmstrip too, where there is none yet.
 * @param lut what log pictures pass through
 * @returns the strip under an unfinished name, and how to keep it once the encode has ended; null when none is wanted
 */
export async function stripBeside(
  source: PictureSource,
  folder: string,
  lut: string,
): Promise<{ strip: EncodeStrip; keep: () => Promise<void>; drop: () => Promise<void> } | null> {
  const { picture } = source.facts
  const target = picturePath('filmstrip', source, folder)
  if (!picture || picture.frames < 2 * stripTiles || (await stat(target).catch(() => null))) return null
  const path = await scratchPath()
  return {
    strip: {
      path,
      frames: stripFrames(picture.frames),
      ...{ width: tileWidth, height: tileHeight(picture, tileWidth) },
      lut: isLogPicture(picture) ? { path: lut, kind: '3D' } : null,
    },
    // A strip is a comfort: an item that is sound does not fail for the want of one.
    keep: () => keepInCache(folder, target, path).catch(() => undefined),
    drop: () => rm(path, { force: true }),
  }
}

/** @param isWanted asked when its turn has come */
async function makePicture(
  kind: PictureKind,
  source: PictureSource,
  { folder, target, lut }: { folder: string; target: string; lut: string | null },
  isWanted: () => boolean,
): Promise<string | null> {
  if (await stat(target).catch(() => null)) return target
  const { picture } = source.facts
  if (!picture || !(await isBeneath(source.root, frameOf(source, 0).path))) return null
  const part = await scratchPath()
  const done = await fewAtOnce(async () => isWanted() && draw(kind, { ...source, picture }, part, lut))
  if (!done || !(await stat(part).catch(() => null))) {
    await rm(part, { force: true })
    return null
  }
  await keepInCache(folder, target, part)
  return target
}

/** @returns whether it came about */
async function draw(
  kind: PictureKind,
  { picture, ...source }: PictureSource & { readonly picture: PictureFacts },
  part: string,
  lut: string | null,
): Promise<boolean> {
  if (typeof kind !== 'string')
    return (
      kind.frame < picture.frames &&
      (await grab(source, kind.frame, frameWidth(kind.size, picture), part, lut, kind.size === 'full'))
    )
  if (kind === 'thumbnail' || picture.frames < 16)
    return grab(source, Math.floor(picture.frames / 3), tileWidth, part, lut)
  const tiles: string[] = []
  try {
    for (const [index, frame] of stripFrames(picture.frames).entries()) {
      const tile = `${part}.${index}`
      tiles.push(tile)
      if (!(await grab(source, frame, tileWidth, tile, lut))) return false
    }
    const inputs = tiles.flatMap((tile) => ['-f', 'jpeg_pipe', '-i', `file:${tile}`])
    const result = await run('ffmpeg', [
      '-v',
      'error',
      '-nostdin',
      ...inputs,
      '-filter_complex',
      `hstack=inputs=${tiles.length}`,
      '-frames:v',
      '1',
      '-q:v',
      '4',
      '-f',
      'image2',
      '-update',
      '1',
      `file:${part}`,
    ])
    return result.exitCode === 0
  } finally {
    await Promise.all(tiles.map((tile) => rm(tile, { force: true })))
  }
}

/** The file in which a frame is: for numbered stills the still of that frame. */
function frameOf(source: PictureSource, frame: number): { path: string; isStill: boolean } {
  if (!source.sequence) return { path: source.fullPath, isStill: source.facts.kind === 'still' }
  let at = 0
  for (const path of sequenceFramePaths(source.sequence))
    if (at++ === frame) return { path: join(source.root, path), isStill: true }
  return { path: source.fullPath, isStill: true }
}

/**
 * Runs a task with the encoder's input for a source from a frame on.
 * @param frames how many it needs, at least
 * @throws LedAway for a still that lies behind a link out of its volume
 */
export async function withFrames<T>(
  source: PictureSource,
  { frame, frames = 1 }: { frame: number; frames?: number },
  task: (input: readonly string[]) => Promise<T>,
): Promise<T> {
  const { path, isStill } = frameOf(source, frame)
  if (!isStill) return withSought(source, { frame, frames }, ({ input }) => task(input))
  await assertBeneath(source.root, path)
  const allowed = ['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats]
  return task([...allowed, '-f', stillFormat(path) as string, '-i', `file:${path}`])
}

/** The height of a picture of some width as it is meant to be seen. */
function tileHeight(picture: PictureFacts, width: number): number {
  const shown = madeRaster(
    picture,
    { size: { kind: 'source' }, fit: 'pad', pixels: 'square' },
    { rate: picture.rate, width: 16, height: 16 },
  )
  return Math.max(2, 2 * Math.round((width * shown.height) / shown.width / 2))
}

/** The encoder's word for the viewing LUT, for log pictures alone; empty for all others. */
export const viewingFilter = (picture: PictureFacts, lut: string | null): string =>
  lut !== null && isLogPicture(picture) ? `,format=gbrp,lut3d=file=${lut.replace(/[\\':[\],;]/g, '\\$&')}` : ''

/**
 * Draws one frame.
 * @param isWhole keeps all of the colour that the file has, for looking at pixels
 * @returns whether it came about
 */
async function grab(
  source: PictureSource,
  frame: number,
  width: number,
  output: string,
  lut: string | null,
  isWhole = false,
): Promise<boolean> {
  const picture = source.facts.picture as NonNullable<MediaFacts['picture']>
  const height = tileHeight(picture, width)
  const look = viewingFilter(picture, lut)
  const isStill = source.sequence !== null || source.facts.kind === 'still'
  const rateOption = isStill ? [] : ['-r', exactRate(picture.rate)]
  const format = isWhole ? 'yuvj444p' : 'yuvj420p'
  const grabbed = withFrames(source, { frame }, (input) =>
    run(
      'ffmpeg',
      [
        ...['-v', 'error', '-nostdin', '-y', ...input, '-map', '0:V:0', ...rateOption, '-frames:v', '1'],
        ...['-vf', `scale=${width}:${height}:flags=bilinear,setsar=1${look},format=${format}`],
        ...['-q:v', isWhole ? '1' : '4', '-f', 'image2', '-update', '1', `file:${output}`],
      ],
      { timeoutMilliseconds: 60_000 },
    ),
  )
  if (await within(longestSeconds, grabbed)) return (await grabbed).exitCode === 0
  grabbed.catch(() => undefined)
  return false
}
