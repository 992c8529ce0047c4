import { copyFile, mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from '../ennick.ts'
import { compare, type Result, run, say, secondsOf } from './measure.ts'

/** `--files 10000` asks for as many. */
const scanFiles = process.argv.includes('--files') ? Number(process.argv[process.argv.indexOf('--files') + 1]) : 300

interface Kind {
  readonly extension: string
  /** @param shot each of another length, with another timecode */
  arguments(shot: number): string[]
}

/** Of each kind so many are made; the others are copies of these. */
const differentOfEach = 20

const picture = (shot: number): string[] => ['-f', 'lavfi', '-i', `testsrc2=s=320x180:r=25,trim=end_frame=${10 + shot}`]
const sound = (shot: number): string[] => ['-f', 'lavfi', '-i', `sine=r=48000,atrim=end_sample=${1920 * (10 + shot)}`]
const timecode = (shot: number): string[] => ['-timecode', `10:${String(shot).padStart(2, '0')}:00:00`]

/** What comes from two cameras and a recorder. */
const kinds: readonly Kind[] = [
  {
    extension: 'mov',
    arguments: (shot) => [
      ...[...picture(shot), ...sound(shot), '-c:v', 'mjpeg', '-pix_fmt', 'yuvj420p', '-c:a', 'pcm_s24le'],
      ...timecode(shot),
    ],
  },
  {
    extension: 'mp4',
    arguments: (shot) => [
      ...[...picture(shot), ...sound(shot), '-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-g', '12', '-c:a', 'aac'],
      ...timecode(shot),
    ],
  },
  {
    extension: 'wav',
    arguments: (shot) => [
      ...[...sound(shot), '-c:a', 'pcm_s24le', '-write_bext', '1'],
      ...['-metadata', `time_reference=${shot * 48_000}`],
    ],
  },
]

export async function benchScan(ennick: Ennick, folder: string): Promise<Result[]> {
  say(`Scanning ${scanFiles} files`)
  const card = join(folder, 'card')
  await mkdir(card, { recursive: true })
  const files: string[] = []
  for (let number = 0; number < scanFiles; number++) {
    const [kind, shot] = [kinds[number % kinds.length] as Kind, Math.floor(number / kinds.length)]
    const path = join(card, `clip${String(number).padStart(5, '0')}.${kind.extension}`)
    const before = files[number - kinds.length * differentOfEach]
    if (before) await copyFile(before, path)
    else await run('ffmpeg', ['-v', 'error', '-y', ...kind.arguments(shot), path])
    files.push(path)
  }
  let volumeId = ''
  const ours = async (): Promise<number> => {
    volumeId = await ennick.addVolume(await ennick.newProduction(), card)
    return secondsOf(() => ennick.scan(volumeId))
  }
  let bareSeconds = Number.POSITIVE_INFINITY
  const bare = async (): Promise<number> => {
    const seconds = await secondsOf(async () => {
      const rest = [...files]
      const lane = async (): Promise<void> => {
        for (let path = rest.pop(); path !== undefined; path = rest.pop())
          await run('ffprobe', ['-v', 'error', '-of', 'json', '-show_format', '-show_streams', '-i', `file:${path}`])
      }
      await Promise.all([lane(), lane()])
    })
    bareSeconds = Math.min(bareSeconds, seconds)
    return seconds
  }
  const ratio = await compare(2, ours, bare)
  let again = Number.POSITIVE_INFINITY
  for (let turn = 0; turn < 3; turn++) again = Math.min(again, await secondsOf(() => ennick.scan(volumeId)))
  return [
    {
      id: 'scan',
      what: `A first scan of ${scanFiles} files against the probe run bare, two at a time`,
      ratio,
      limit: 0.5,
    },
    {
      id: 'rescan',
      what: 'A scan of the same files, unchanged, against the probe run bare on all of them',
      ratio: again / bareSeconds,
      limit: 0.01,
    },
  ]
}
