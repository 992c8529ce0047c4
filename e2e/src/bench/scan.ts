import { copyFile, mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from '../ennick.ts'
import { compare, type Result, run, say, secondsOf } from './measure.ts'

/** 10,000 take half an hour on two cores: `--files 10000` asks for them. */
const scanFiles = process.argv.includes('--files') ? Number(process.argv[process.argv.indexOf('--files') + 1]) : 300

export async function benchScan(ennick: Ennick, folder: string): Promise<Result[]> {
  say(`Scanning ${scanFiles} files`)
  const card = join(folder, 'card')
  await mkdir(card, { recursive: true })
  const first = join(card, 'clip00000.mov')
  await run('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=320x180:r=25,trim=end_frame=10',
    '-c:v',
    'mjpeg',
    '-pix_fmt',
    'yuvj420p',
    '-timecode',
    '10:00:00:00',
    first,
  ])
  const files = [first]
  for (let number = 1; number < scanFiles; number++) {
    const path = join(card, `clip${String(number).padStart(5, '0')}.mov`)
    await copyFile(first, path)
    files.push(path)
  }
  let volumeId = ''
  let firstScan = Number.POSITIVE_INFINITY
  const ours = async (): Promise<number> => {
    volumeId = await ennick.addVolume(await ennick.newProduction(), card)
    const seconds = await secondsOf(() => ennick.scan(volumeId))
    firstScan = Math.min(firstScan, seconds)
    return seconds
  }
  const bare = (): Promise<number> =>
    secondsOf(async () => {
      const rest = [...files]
      const lane = async (): Promise<void> => {
        for (let path = rest.pop(); path !== undefined; path = rest.pop())
          await run('ffprobe', ['-v', 'error', '-of', 'json', '-show_format', '-show_streams', '-i', `file:${path}`])
      }
      await Promise.all([lane(), lane()])
    })
  const ratio = await compare(2, ours, bare)
  let again = Number.POSITIVE_INFINITY
  for (let turn = 0; turn < 3; turn++) again = Math.min(again, await secondsOf(() => ennick.scan(volumeId)))
  return [
    {
      id: 'scan',
      what: `A first scan of ${scanFiles} files against the probe run bare, two at a time`,
      ratio,
      limit: 1.2,
    },
    {
      id: 'rescan',
      what: 'A scan of the same files, unchanged, against their first scan',
      ratio: again / firstScan,
      limit: 0.01,
    },
  ]
}
