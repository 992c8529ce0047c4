import { rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { inputArguments } from '@ennick/core'
import { keepInCache } from '../disk/cache.ts'
import { isBeneath } from '../disk/held-folder.ts'
import { withInput } from './input.ts'
import { joinedSound } from './joined-sound.ts'
import type { PictureSource } from './pictures.ts'
import { run } from './process.ts'
import { scratchPath } from './scratch.ts'

const width = 1120
/** Of one channel, in pixels. */
export const channelHeight = 40
/** More than an hour of sound is drawn from its first hour. */
const mostSeconds = 3600

/**
 * A picture of the sound of a file, one line for each channel, made the first time it is asked for.
 * @returns null when it has no sound or is not there
 */
export async function waveformOf(source: PictureSource, folder: string): Promise<string | null> {
  const target = join(folder, source.fingerprint.slice(0, 2), `${source.fingerprint}-waveform.png`)
  if (await stat(target).catch(() => null)) return target
  const joined = joinedSound(source.facts)
  if (!joined || source.sequence || !(await isBeneath(source.root, source.fullPath))) return null
  const part = await scratchPath()
  const { channels } = joined
  const drawn = [
    ...[`s=${width}x${channelHeight * channels}`, 'split_channels=1', 'scale=sqrt', 'filter=peak', 'draw=full'],
    `colors=${Array(channels).fill('0x2f6f73').join('|')}`,
  ]
  const graph = `${joined.graph},showwavespic=${drawn.join(':')}[w]`
  const result = await withInput([source], (input) =>
    run(
      'ffmpeg',
      [
        ...[
          '-v',
          'error',
          '-nostdin',
          '-y',
          '-t',
          String(mostSeconds),
          ...inputArguments(input, { numerator: 25, denominator: 1 }),
        ],
        ...[
          '-filter_complex',
          graph,
          '-map',
          '[w]',
          '-frames:v',
          '1',
          '-f',
          'image2',
          '-c:v',
          'png',
          '-update',
          '1',
          `file:${part}`,
        ],
      ],
      { timeoutMilliseconds: 120_000 },
    ),
  )
  if (result.exitCode !== 0) {
    await rm(part, { force: true })
    return null
  }
  await keepInCache(folder, target, part)
  return target
}
