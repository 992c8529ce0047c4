import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from '../ennick.ts'
import { runningEncoder, withoutHashes } from './encoder.ts'
import { compare, type Result, run, say, secondsOf } from './measure.ts'

export async function benchMake(ennick: Ennick, folder: string): Promise<Result> {
  say('Making a proxy of a 20-second clip')
  const source = join(folder, 'make/clip.mov')
  await mkdir(join(folder, 'make'), { recursive: true })
  // Grain, as a camera's picture has it: a smooth test picture is decoded and encoded in no time, which no recording
  // is.
  const inputs = [
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=1920x1080:r=25,noise=alls=10:allf=t,trim=end_frame=500',
    '-f',
    'lavfi',
    '-i',
    'sine=f=200:r=48000,atrim=end_sample=960000',
  ]
  await run('ffmpeg', [
    '-v',
    'error',
    '-y',
    ...inputs,
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-c:a',
    'pcm_s24le',
    '-timecode',
    '10:00:00:00',
    '-metadata:s:v:0',
    'reel_name=A001',
    source,
  ])
  let words: string[] | null = null
  let turn = 0
  const ours = async (): Promise<number> => {
    const productionId = await ennick.newProduction()
    await ennick.scan(await ennick.addVolume(productionId, join(folder, 'make')))
    const [clip] = (await ennick.call('POST', `/productions/${productionId}/clips/search`, {})).rows
    return secondsOf(async () => {
      const { jobs } = await ennick.call('POST', `/productions/${productionId}/make`, {
        clipIds: [clip.id],
        recipeId: 'half-h264-intra',
      })
      if (words === null) {
        words = await runningEncoder()
      }
      await ennick.jobEnd(jobs[0].id)
    })
  }
  const bare = async (): Promise<number> => {
    const output = join(folder, `bare-${turn++}.mov`)
    const args = withoutHashes((words as string[]).slice(1)).map((word) =>
      word.includes('.ennick-part') ? `file:${output}` : word,
    )
    return secondsOf(async () => {
      if ((await run('ffmpeg', args)) !== 0) throw new Error('The encoder’s bare command failed.')
    })
  }
  return {
    id: 'make',
    what: 'A proxy through Ennick, queue and verification and all, against the encoder alone',
    ratio: await compare(6, ours, bare),
    limit: 1.1,
  }
}
