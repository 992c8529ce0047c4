import { mkdir, rm } from 'node:fs/promises'
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

/** Laying the scratch tracks of a day on its recordings by their sound, against what decoding all of it takes. */
export async function benchSyncDay(ennick: Ennick, folder: string): Promise<Result> {
  const [pictures, recordings, seconds] = [20, 10, 60]
  say(`Syncing ${pictures} pictures with ${recordings} recordings of a minute by their sound`)
  const drive = join(folder, 'day')
  await mkdir(drive, { recursive: true })
  // Bursts of noise by the time of day alone: what a camera hears is what the recorder hears.
  const chance = (of: string): string => `mod(abs(sin(floor(${of})*78.233)*43758.5453),1)`
  const sound = (from: number): string =>
    `aevalsrc='0.3*pow(${chance(`(t+${from})*9`)},3)*(2*${chance(`(t+${from})*48000+0.5`)}-1)':s=48000:d=${seconds}`
  for (let take = 0; take < recordings; take++)
    await run('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', sound(take * 600), '-c:a', 'pcm_s24le'],
      join(drive, `T${take}.wav`),
    ])
  for (let shot = 0; shot < pictures; shot++)
    await run('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'color=s=320x180:r=25', '-f', 'lavfi', '-i'],
      ...[sound((shot % recordings) * 600 + 3), '-t', '30', '-c:v', 'mjpeg', '-c:a', 'pcm_s16le'],
      join(drive, `P${shot}.mov`),
    ])
  const production = await ennick.newProduction()
  await ennick.scan(await ennick.addVolume(production, drive))
  const ours = await secondsOf(async () => {
    const { id } = await ennick.call('POST', `/productions/${production}/clips/listen`, { clipIds: [] })
    await ennick.jobEnd(id)
  })
  const names = [
    ...Array.from({ length: recordings }, (_, take) => `T${take}.wav`),
    ...Array.from({ length: pictures }, (_, shot) => `P${shot}.mov`),
  ]
  const bare = await secondsOf(async () => {
    for (const name of names) await run('ffmpeg', ['-v', 'error', '-i', join(drive, name), '-vn', '-f', 'null', '-'])
  })
  say(`  ${ours.toFixed(1)} s, decoding alone ${bare.toFixed(1)} s`)
  await rm(drive, { recursive: true })
  return {
    id: 'sync-day',
    what: `Syncing ${pictures} pictures with ${recordings} recordings by their sound, against decoding all of it`,
    ratio: ours / bare,
    limit: 5,
  }
}
