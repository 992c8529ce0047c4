import { createHash } from 'node:crypto'
import { rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { channelCount, clipFacts, type EncodeInput, inputArguments } from '@ennick/core'
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
 * A picture of the sound of a file, or of the files that are a clip's tracks: one line for each channel, made the first
 * time it is asked for.
 * @returns null when there is no sound, or one of them is not there
 */
export async function waveformOf(sources: readonly PictureSource[], folder: string): Promise<string | null> {
  const mark = nameOfAll(sources.map(({ fingerprint }) => fingerprint))
  const target = join(folder, mark.slice(0, 2), `${mark}-waveform.png`)
  if (await stat(target).catch(() => null)) return target
  const facts = clipFacts(sources.map((source) => source.facts))
  if (channelCount(facts) === 0 || sources.some(({ sequence }) => sequence)) return null
  for (const { root, fullPath } of sources) if (!(await isBeneath(root, fullPath))) return null
  const part = await scratchPath()
  const channels = channelCount(facts)
  const drawn = [
    ...[`s=${width}x${channelHeight * channels}`, 'split_channels=1', 'scale=sqrt', 'filter=peak', 'draw=full'],
    `colors=${Array(channels).fill('0x2f6f73').join('|')}`,
  ]
  const graphOf = (input: EncodeInput): string =>
    `${joinedSound(facts, input)?.graph},showwavespic=${drawn.join(':')}[w]`
  const result = await withInput(sources, (input) =>
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
          graphOf(input),
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

/** What a picture of several files is kept by: a name has an end, and they may be many. */
const nameOfAll = (fingerprints: readonly string[]): string =>
  fingerprints.length === 1
    ? (fingerprints[0] as string)
    : createHash('sha256').update(fingerprints.join(' ')).digest('hex').slice(0, 32)
