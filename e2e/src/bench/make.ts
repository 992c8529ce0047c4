import { mkdir, readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from './ennick.ts'
import { compare, type Result, run, say, secondsOf } from './measure.ts'

/** The encoder's command while it runs, word by word. */
async function runningEncoder(): Promise<string[] | null> {
  for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
    const words = (await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '')).split('\0').slice(0, -1)
    if (words[0]?.endsWith('ffmpeg') && words.some((word) => word.includes('.ennick-part'))) return words
  }
  return null
}

/** The command without the hashes that prove its pictures: nobody who encodes by hand would take them. */
function withoutHashes(words: readonly string[]): string[] {
  const graph = words.indexOf('-filter_complex') + 1
  const plain = (words[graph] as string).replace(/,split=2\[m\]\[s\];\[m\]null\[v\];.*$/, '[v]')
  return [...words.slice(0, graph), plain, ...words.slice(graph + 1, words.indexOf('[h]') - 1)]
}

export async function benchMake(ennick: Ennick, folder: string): Promise<Result> {
  say('Making a proxy of a 20-second clip')
  const source = join(folder, 'make/clip.mov')
  await mkdir(join(folder, 'make'), { recursive: true })
  // Grain, as a camera's picture has it: a smooth test picture is decoded and encoded in no time, which no recording is.
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
      const { jobs } = await ennick.call('POST', `/productions/${productionId}/make`, { clipIds: [clip.id], recipeId: 'half-h264-intra' })
      if (words === null) {
        while (words === null) words = await runningEncoder()
      }
      await ennick.jobEnd(jobs[0].id)
    })
  }
  const bare = async (): Promise<number> => {
    const output = join(folder, `bare-${turn++}.mov`)
    const args = withoutHashes((words as string[]).slice(1)).map((word) => (word.includes('.ennick-part') ? `file:${output}` : word))
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
