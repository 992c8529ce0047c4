import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from '../ennick.ts'
import { type Result, run, say, secondsOf } from './measure.ts'

/** A production that knows what is in a folder, and does nothing any more. */
async function newDay(ennick: Ennick, drive: string): Promise<string> {
  const production = await ennick.newProduction()
  await ennick.scan(await ennick.addVolume(production, drive))
  await ennick.untilQuiet(production)
  return production
}

/**
 * How long it takes to lay everything in a production on each other by its sound.
 * @param outcome what the job says in the end
 */
async function listen(ennick: Ennick, production: string, outcome: string): Promise<number> {
  return secondsOf(async () => {
    const { id } = await ennick.call('POST', `/productions/${production}/clips/listen`, { clipIds: [] })
    const { summary } = await ennick.jobEnd(id)
    if (summary !== outcome) throw new Error(`It said “${summary}” and not “${outcome}”.`)
  })
}

/**
 * Laying a whole day of pictures on its recordings: by timecode, and their scratch tracks by their sound to the sample.
 */
export async function benchSyncDay(ennick: Ennick, folder: string): Promise<Result[]> {
  const [pictures, recordings] = [200, 60]
  say(`Syncing ${pictures} pictures with ${recordings} recordings of five minutes`)
  const drive = join(folder, 'day')
  await mkdir(drive, { recursive: true })
  for (let take = 0; take < recordings; take++) {
    // Each rises and falls by numbers of its own.
    const loud = `if(eq(n,0),st(0,${take * 7919 + 1}),0)*0+0.05+0.9*random(0)`
    const noise = `anoisesrc=seed=${take + 1}:r=48000:d=310:a=0.5,volume='${loud}':eval=frame`
    await run('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', noise, '-c:a', 'pcm_s24le', '-write_bext', '1'],
      ...['-metadata', `time_reference=${(eight + take * 600) * 48_000}`, join(drive, `T${take}.wav`)],
    ])
  }
  const silent = join(folder, 'silent.mov')
  const still = 'color=s=64x36:r=25:d=300'
  await run('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', still, '-c:v', 'mjpeg', silent])
  for (let shot = 0; shot < pictures; shot++)
    await run('ffmpeg', [
      ...['-v', 'error', '-y', '-i', silent, '-ss', `${(shot % 7) + 0.4321}`],
      ...['-i', join(drive, `T${shot % recordings}.wav`), '-t', '300', '-map', '0:v', '-map', '1:a'],
      ...['-c:v', 'copy', '-af', 'volume=0.3', '-c:a', 'pcm_s16le'],
      ...['-timecode', labelOf(eight + (shot % recordings) * 600 + (shot % 7)), join(drive, `P${shot}.mov`)],
    ])
  const production = await newDay(ennick, drive)
  const byTimecode = await secondsOf(async () => {
    const body = { clipIds: [], apply: false, by: { method: 'timecode' } }
    const { synced } = await ennick.call('POST', `/productions/${production}/clips/sync`, body)
    if (synced.length !== pictures) throw new Error(`${synced.length} were synced by timecode.`)
  })
  const bySound = await listen(ennick, production, `${pictures} of ${pictures} pictures found in a recording`)
  say(`  by timecode ${byTimecode.toFixed(2)} s, by their sound ${bySound.toFixed(1)} s`)
  await rm(drive, { recursive: true })
  const of = `${pictures} pictures with ${recordings} recordings`
  return [
    { id: 'sync-day', what: `Syncing ${of} by their sound, against 60 s`, ratio: bySound / 60, limit: 1 },
    { id: 'sync-day-timecode', what: `Syncing ${of} by timecode, against 1 s`, ratio: byTimecode, limit: 1 },
  ]
}

/** Eight in the morning, in seconds. */
const eight = 8 * 3600

/** The label of a whole second of the day. */
const labelOf = (second: number): string =>
  `${[Math.floor(second / 3600), Math.floor(second / 60) % 60, second % 60].map((part) => String(part).padStart(2, '0')).join(':')}:00`

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
  const ours = await listen(ennick, await newDay(ennick, drive), '1 of 1 picture found in a recording')
  say(`  ${ours.toFixed(1)} s`)
  await rm(drive, { recursive: true })
  return {
    id: 'sync-hour',
    what: 'Syncing an hour with an hour by its sound, against 10 s',
    ratio: ours / 10,
    limit: 1,
  }
}
