import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { Ennick } from '../ennick.ts'
import { runningEncoder, withoutHashes } from './encoder.ts'
import { compare, type Result, run, say, secondsOf } from './measure.ts'

const clips = 12
const recipeId = 'half-h264-intra'

/** Clips with grain, as a camera's pictures have it. */
async function makeClips(folder: string, frames: number): Promise<string[]> {
  await mkdir(folder, { recursive: true })
  const paths = Array.from({ length: clips }, (_, index) => join(folder, `B${index + 10}.mov`))
  for (const [index, path] of paths.entries())
    await run('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i'],
      `testsrc2=s=1920x1080:r=25,hue=h=${index * 25},noise=alls=10:allf=t,trim=end_frame=${frames}`,
      ...['-f', 'lavfi', '-i', `sine=f=200:r=48000,atrim=end_sample=${frames * 1920}`],
      ...['-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'pcm_s24le', '-timecode', '10:00:00:00', path],
    ])
  return paths
}

/** Seconds from the order to the last proven proxy. @param onStart called when the jobs are queued */
async function makeAll(
  ennick: Ennick,
  folder: string,
  onStart: () => Promise<void> = async () => undefined,
): Promise<number> {
  const productionId = await ennick.newProduction()
  await ennick.scan(await ennick.addVolume(productionId, folder))
  const { ids } = await ennick.call('POST', `/productions/${productionId}/clips/ids`, {})
  return secondsOf(async () => {
    const { jobs } = await ennick.call('POST', `/productions/${productionId}/make`, { clipIds: ids, recipeId })
    await onStart()
    await ennick.jobsEnd(
      productionId,
      jobs.map((job: { id: string }) => job.id),
    )
  })
}

/** A batch through Ennick against the encoder's bare commands, one after another. */
export async function benchBatch(ennick: Ennick, folder: string): Promise<Result> {
  say(`Making proxies of ${clips} clips of fifteen seconds`)
  const source = join(folder, 'batch')
  const paths = await makeClips(source, 375)
  let words: readonly string[] = []
  const ours = (): Promise<number> =>
    makeAll(ennick, source, async () => {
      if (words.length === 0) words = await runningEncoder()
    })
  let turn = 0
  const bare = async (): Promise<number> => {
    turn++
    const plain = withoutHashes(words.slice(1))
    const own = paths.find((path) => plain.includes(`file:${path}`)) as string
    return secondsOf(async () => {
      for (const [index, path] of paths.entries()) {
        const output = join(folder, `bare-${turn}-${index}.mov`)
        const args = plain.map((word) =>
          word === `file:${own}` ? `file:${path}` : word.includes('.ennick-part') ? `file:${output}` : word,
        )
        if ((await run('ffmpeg', args)) !== 0) throw new Error('The encoder’s bare command failed.')
      }
    })
  }
  return {
    id: 'batch',
    what: `${clips} proxies through Ennick, each proven, against the bare commands one after another`,
    ratio: await compare(2, ours, bare),
    limit: 1.05,
  }
}

/** What Ennick chooses to make at once against the best of fixed numbers. */
export async function benchAtOnce(folder: string): Promise<Result> {
  say('Choosing how many items are made at once')
  const source = join(folder, 'at-once')
  await makeClips(source, 50)
  const secondsAt = async (atOnce: number | null): Promise<number> => {
    const ennick = await Ennick.start(folder, { data: `at-once-${atOnce ?? 'chosen'}`, atOnce })
    try {
      const seconds = Math.min(await makeAll(ennick, source), await makeAll(ennick, source))
      say(`  ${atOnce ?? 'as chosen'}: ${seconds.toFixed(2)} s`)
      return seconds
    } finally {
      await ennick.stop()
    }
  }
  const chosen = await secondsAt(null)
  const fixed: number[] = []
  for (const atOnce of [1, 2, 3, 4]) fixed.push(await secondsAt(atOnce))
  return {
    id: 'at-once',
    what: `${clips} proxies with as many at once as Ennick chooses, against the best of one to four`,
    ratio: chosen / Math.min(...fixed),
    limit: 1.1,
  }
}

/** Memory of server and worker after many jobs against that after the first fifth of them. */
export async function benchJobs(ennick: Ennick, folder: string): Promise<Result> {
  const recipes = ['half-h264-intra', 'vc3-lb-op-atom', 'review-h264', 'source-prores-422']
  const each = 125
  say(`Memory over ${each * recipes.length} jobs`)
  const source = join(folder, 'jobs')
  await mkdir(source, { recursive: true })
  for (let index = 0; index < each; index++)
    await run('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', `testsrc2=s=320x180:r=25,hue=h=${index * 3},trim=end_frame=5`],
      ...['-c:v', 'mjpeg', '-timecode', '10:00:00:00', join(source, `J${index + 100}.mov`)],
    ])
  const productionId = await ennick.newProduction()
  await ennick.scan(await ennick.addVolume(productionId, source))
  const { ids } = await ennick.call('POST', `/productions/${productionId}/clips/ids`, {})
  const jobs: string[] = []
  for (const recipe of recipes)
    for (const job of (
      await ennick.call('POST', `/productions/${productionId}/make`, { clipIds: ids, recipeId: recipe })
    ).jobs)
      jobs.push(job.id)
  const memory = async (): Promise<number> => (await ennick.memory('server')) + (await ennick.memory('worker'))
  await ennick.jobsEnd(productionId, jobs.slice(0, jobs.length / 5))
  const early = await memory()
  await ennick.jobsEnd(productionId, jobs)
  const late = await memory()
  say(
    `  after ${jobs.length / 5} jobs ${Math.round(early / 1e6)} MB, after ${jobs.length} ${Math.round(late / 1e6)} MB`,
  )
  return {
    id: 'jobs',
    what: `Memory of server and worker after ${jobs.length} jobs against after a fifth of them`,
    ratio: late / early,
    limit: 1.15,
  }
}
