import { mkdir, readFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import pg from 'pg'
import { pause, run } from '../bench/measure.ts'
import type { Ennick } from '../ennick.ts'

export const recipeId = 'half-h264-intra'
/** How often something that was killed is asked again: on a machine that is busy it takes long to come back. */
const mostTries = 1500

/** The label at which the clip of a seed begins. */
export const timecodeOf = (seed: number, second = 0): string =>
  [10 + (seed % 10), seed % 60, second, 0].map((part) => String(part).padStart(2, '0')).join(':')

/** A clip of the tests' own: another picture for each seed. */
export async function makeClip(path: string, seed: number, frames = 25, size = '640x360', second = 0): Promise<void> {
  await mkdir(dirname(path), { recursive: true })
  const picture = `testsrc2=s=${size}:r=25,hue=h=${seed * 37},trim=end_frame=${frames}`
  const code = await run('ffmpeg', [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', picture],
    ...['-f', 'lavfi', '-i', `sine=f=${200 + seed}:r=48000,atrim=end_sample=${frames * 1920}`],
    ...['-c:v', 'mjpeg', '-q:v', '5', '-pix_fmt', 'yuvj420p', '-c:a', 'pcm_s24le'],
    ...['-timecode', timecodeOf(seed, second), '-metadata:s:v:0', `reel_name=T${seed}`, path],
  ])
  if (code !== 0) throw new Error(`The encoder could not make ${path}.`)
}

/** A recording of one tone, from ten o'clock on. */
export async function makeRecording(path: string, samples: number): Promise<void> {
  await mkdir(dirname(path), { recursive: true })
  const code = await run('ffmpeg', [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', `sine=f=300:r=48000,atrim=end_sample=${samples}`],
    ...['-c:a', 'pcm_s24le', '-write_bext', '1', '-metadata', `time_reference=${10 * 3600 * 48_000}`, path],
  ])
  if (code !== 0) throw new Error(`The encoder could not make ${path}.`)
}

/** Asks the database itself, also when it was just killed. */
export async function ask<T extends pg.QueryResultRow>(
  ennick: Ennick,
  text: string,
  values: unknown[] = [],
): Promise<T[]> {
  for (let tries = 0; ; tries++) {
    const connectionString = await readFile(join(ennick.dataFolder, 'database-url'), 'utf8').catch(() => '')
    const client = new pg.Client({ connectionString })
    client.on('error', () => undefined)
    try {
      await client.connect()
      return (await client.query<T>(text, values)).rows
    } catch (error) {
      if (tries > mostTries) throw error
      await pause(200)
    } finally {
      await client.end().catch(() => undefined)
    }
  }
}

/** Calls again while the server or its database is away; a refusal is an answer. */
// biome-ignore lint/suspicious/noExplicitAny: the API is read from outside, as any client would
export async function insist(ennick: Ennick, method: string, path: string, body?: object): Promise<any> {
  for (let tries = 0; ; tries++) {
    try {
      return await ennick.call(method, path, body)
    } catch (error) {
      const isAway =
        error instanceof TypeError || /database is away|Ennick made a mistake/.test((error as Error).message)
      if (!isAway || tries > mostTries) throw error
      await pause(200)
    }
  }
}

export interface JobLine {
  readonly id: string
  readonly title: string
  readonly kind: string
  readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled'
  readonly error: string | null
}

export const jobsOf = (ennick: Ennick, productionId: string): Promise<JobLine[]> =>
  insist(ennick, 'GET', `/productions/${productionId}/jobs`)

export async function untilIdle(ennick: Ennick, productionId: string): Promise<JobLine[]> {
  for (let tries = 0; tries < 3000; tries++) {
    const jobs = await jobsOf(ennick, productionId)
    if (jobs.every((job) => job.state !== 'waiting' && job.state !== 'running')) return jobs
    await pause(100)
  }
  throw new Error('Jobs were still waiting or running after five minutes.')
}

/** Retries jobs that did not come to their end. @returns those that failed with what no person should read */
export async function retryAll(ennick: Ennick, jobs: readonly JobLine[]): Promise<string[]> {
  const told: string[] = []
  for (const job of jobs) {
    if (/made a mistake|Failed query|undefined|EEXIST|ENOENT|\/proc\//.test(job.error ?? ''))
      told.push(`${job.title} failed with “${job.error}”.`)
    await insist(ennick, 'POST', `/jobs/${job.id}/retry`, {}).catch((error: Error) => {
      if (!/on the queue already|did not fail/.test(error.message)) throw error
    })
  }
  return told
}

/** Retries what did not come to its end, until all has. @returns what no person should read, of those that failed */
export async function untilDone(ennick: Ennick, productionId: string): Promise<string[]> {
  const told: string[] = []
  for (let tries = 0; tries < 8; tries++) {
    const open = (await untilIdle(ennick, productionId)).filter((job) => job.state !== 'done')
    if (open.length === 0) break
    told.push(...(await retryAll(ennick, open)))
    await pause(200)
  }
  return told
}
