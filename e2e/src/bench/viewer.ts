import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from '../ennick.ts'
import { compare, type Result, run, say, secondsOf } from './measure.ts'

const frames = 250

/** An exact frame of a heavy original, the first time and again, against the decoder alone. */
export async function benchFrame(ennick: Ennick, folder: string): Promise<Result[]> {
  say('Exact frames of a UHD long-GOP original')
  const drive = join(folder, 'frames')
  const path = join(drive, 'F001C001.mov')
  await mkdir(drive, { recursive: true })
  await run('ffmpeg', [
    ...[
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      `testsrc2=s=3840x2160:r=25,noise=alls=8:allf=t,trim=end_frame=${frames}`,
    ],
    ...['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '50', '-timecode', '10:00:00:00', path],
  ])
  const production = await ennick.newProduction()
  await ennick.scan(await ennick.addVolume(production, drive))
  const { rows } = await ennick.call('POST', `/productions/${production}/clips/search`, {})
  const view = await ennick.call('GET', `/clips/${rows[0].id}/view`)
  const { fileId } = view.sides[0].parts[0]
  const ask = async (frame: number): Promise<void> => {
    const response = await fetch(`${ennick.url}/api/files/${fileId}/frames/${frame}?size=screen`)
    if (!response.ok) throw new Error(`Frame ${frame}: ${response.status}`)
    await response.arrayBuffer()
  }
  // Each frame once, so that none is in the cache; the bare decoder takes one that lies as deep in its group.
  let next = 45
  const step = 50
  const cold = await compare(
    4,
    () => {
      const frame = next
      next += step
      return secondsOf(() => ask(frame))
    },
    () =>
      secondsOf(() =>
        run('ffmpeg', [
          '-v',
          'error',
          '-ss',
          String((next - 0.25) / 25),
          '-i',
          path,
          '-frames:v',
          '1',
          '-f',
          'null',
          '-',
        ]),
      ),
  )
  let again = Number.POSITIVE_INFINITY
  for (let turn = 0; turn < 10; turn++) again = Math.min(again, await secondsOf(() => ask(45)))
  return [
    {
      id: 'frame',
      what: 'A cold exact frame of a UHD long-GOP original, against the bare decoder',
      ratio: cold,
      limit: 1.3,
    },
    { id: 'frame-cached', what: 'The same from the cache, against 30 ms', ratio: again / 0.03, limit: 1 },
  ]
}
