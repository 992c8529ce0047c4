import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from '../ennick.ts'
import { type Result, run, say, secondsOf } from './measure.ts'

/** How long it takes to lay everything in a folder on each other by its sound. */
async function listen(ennick: Ennick, drive: string): Promise<number> {
  const production = await ennick.newProduction()
  await ennick.scan(await ennick.addVolume(production, drive))
  return secondsOf(async () => {
    const { id } = await ennick.call('POST', `/productions/${production}/clips/listen`, { clipIds: [] })
    await ennick.jobEnd(id)
  })
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
  const ours = await listen(ennick, drive)
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

/** One hour of a camera laid on one hour of a recorder, to the sample. */
export async function benchSyncHour(ennick: Ennick, folder: string): Promise<Result> {
  say('Syncing an hour with an hour by its sound')
  const drive = join(folder, 'hour')
  await mkdir(drive, { recursive: true })
  const recording = join(drive, 'T1.wav')
  const noise = "anoisesrc=seed=7:r=48000:d=3610:a=0.5,volume='0.05+0.9*random(0)':eval=frame"
  await run('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', noise, '-c:a', 'pcm_s24le', recording])
  await run('ffmpeg', [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'color=s=160x90:r=25:d=3600', '-ss', '5.4321', '-i', recording],
    ...['-t', '3600', '-map', '0:v', '-map', '1:a', '-af', 'volume=0.3', '-c:v', 'mjpeg', '-c:a', 'pcm_s16le'],
    join(drive, 'P1.mov'),
  ])
  const ours = await listen(ennick, drive)
  say(`  ${ours.toFixed(1)} s`)
  await rm(drive, { recursive: true })
  return {
    id: 'sync-hour',
    what: 'Syncing an hour with an hour by its sound, against 10 s',
    ratio: ours / 10,
    limit: 1,
  }
}
