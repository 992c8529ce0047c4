import { mkdir, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { exactRate, isLogPicture, type MediaFacts, madeRaster, readableFormats, stillFormat } from '@ennick/core'
import { run } from './process.ts'

/** Pictures are made a few at a time, so that a page of thumbnails does not take the machine. */
const limit = 2
let running = 0
const queue: (() => void)[] = []

async function slot<T>(work: () => Promise<T>): Promise<T> {
  if (running >= limit) await new Promise<void>((resolve) => queue.push(resolve))
  running++
  try {
    return await work()
  } finally {
    running--
    queue.shift()?.()
  }
}

const inFlight = new Map<string, Promise<string | null>>()

export type PictureKind = 'thumbnail' | 'filmstrip'

/**
 * The path of a small picture of a file, made the first time it is asked for and kept by the file's fingerprint.
 * Log pictures pass through the viewing LUT, so that they look as the proxies will.
 * @returns null when no picture can be made of it.
 */
export function pictureOf(
  kind: PictureKind,
  source: { path: string; fingerprint: string; facts: MediaFacts },
  folder: string,
  lut: string | null,
): Promise<string | null> {
  const target = join(folder, source.fingerprint.slice(0, 2), `${source.fingerprint}-${kind}.jpg`)
  const waiting = inFlight.get(target)
  if (waiting) return waiting
  const work = makePicture(kind, source, target, lut).finally(() => inFlight.delete(target))
  inFlight.set(target, work)
  return work
}

async function makePicture(
  kind: PictureKind,
  source: { path: string; facts: MediaFacts },
  target: string,
  lut: string | null,
): Promise<string | null> {
  if (await stat(target).catch(() => null)) return target
  const { picture } = source.facts
  if (!picture || !(await stat(source.path).catch(() => null))) return null
  await mkdir(dirname(target), { recursive: true })
  const part = `${target}.${process.pid}.part`
  const done = await slot(async () => {
    if (kind === 'thumbnail' || picture.frames < 16)
      return (await grab(source, Math.floor(picture.frames / 3), 320, part, lut)).exitCode === 0
    const tiles: string[] = []
    try {
      for (let index = 0; index < 8; index++) {
        const tile = `${part}.${index}`
        tiles.push(tile)
        if ((await grab(source, Math.floor(((index + 0.5) * picture.frames) / 8), 240, tile, lut)).exitCode !== 0) return false
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
  })
  if (!done || !(await stat(part).catch(() => null))) {
    await rm(part, { force: true })
    return null
  }
  await rename(part, target)
  return target
}

function grab(source: { path: string; facts: MediaFacts }, frame: number, width: number, output: string, lut: string | null) {
  const picture = source.facts.picture as NonNullable<MediaFacts['picture']>
  const shown = madeRaster(picture, { kind: 'source' }, { rate: picture.rate, width: 16, height: 16 })
  const height = Math.max(2, 2 * Math.round((width * shown.height) / shown.width / 2))
  const look = lut !== null && isLogPicture(picture) ? `,format=gbrp,lut3d=file=${lut.replace(/[\\':[\],;]/g, '\\$&')}` : ''
  const seek = source.facts.kind === 'still' ? [] : ['-ss', `${((frame * picture.rate.denominator) / picture.rate.numerator).toFixed(3)}`]
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-y',
    '-protocol_whitelist',
    'file,pipe',
    '-format_whitelist',
    readableFormats,
    ...(stillFormat(source.path) ? ['-f', stillFormat(source.path) as string] : []),
    ...seek,
    '-i',
    `file:${source.path}`,
  ]
  const rateOption = source.facts.kind === 'still' ? [] : ['-r', exactRate(picture.rate)]
  return run(
    'ffmpeg',
    [
      ...args,
      '-map',
      '0:V:0',
      ...rateOption,
      '-frames:v',
      '1',
      '-vf',
      `scale=${width}:${height}:flags=bilinear,setsar=1${look},format=yuvj420p`,
      '-q:v',
      '4',
      '-f',
      'image2',
      '-update',
      '1',
      `file:${output}`,
    ],
    { timeoutMilliseconds: 60_000 },
  )
}
