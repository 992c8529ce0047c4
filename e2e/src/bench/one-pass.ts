import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from '../ennick.ts'
import { redirected, runningEncoder, withoutHashes } from './encoder.ts'
import { compare, type Result, run, say, secondsOf } from './measure.ts'

const recipes = ['half-h264-intra', 'source-prores-422', 'review-h264']
const lut = 'server/luts/estuary-log-to-display.cube'

async function succeed(args: readonly string[]): Promise<void> {
  if ((await run('ffmpeg', args)) !== 0) throw new Error('One of the encoder’s bare commands failed.')
}

/**
 * A UHD log original: proxy, optimized copy, review copy, filmstrip and hashes from one reading against five commands;
 * and the order of scaling and LUT.
 */
export async function benchOnePass(ennick: Ennick, folder: string): Promise<Result[]> {
  say('Several items from one reading of a UHD original')
  const source = join(folder, 'uhd/clip.mov')
  await mkdir(join(folder, 'uhd'), { recursive: true })
  await succeed([
    ...[
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      'testsrc2=s=3840x2160:r=25,noise=alls=8:allf=t,format=yuv420p,trim=end_frame=40',
    ],
    ...[
      '-f',
      'lavfi',
      '-i',
      'sine=f=200:r=48000,atrim=end_sample=76800',
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      '-crf',
      '20',
    ],
    ...['-color_trc', 'log100', '-color_primaries', 'bt709', '-colorspace', 'bt709', '-c:a', 'pcm_s24le'],
    ...['-timecode', '10:00:00:00', source],
  ])
  const productionId = await ennick.newProduction()
  await ennick.scan(await ennick.addVolume(productionId, join(folder, 'uhd')))
  const [clip] = (await ennick.call('POST', `/productions/${productionId}/clips/search`, {})).rows
  const [recipeId, ...alsoRecipeIds] = recipes
  const command = async (body: object): Promise<string[]> => {
    const { jobs } = await ennick.call('POST', `/productions/${productionId}/make`, { clipIds: [clip.id], ...body })
    const words = await runningEncoder()
    await ennick.jobEnd(jobs[0].id)
    return words.slice(1)
  }
  const together = await command({ recipeId, alsoRecipeIds })
  const alone: string[][] = []
  for (const recipe of recipes) {
    const other = await ennick.newProduction()
    await ennick.scan(await ennick.addVolume(other, join(folder, 'uhd')))
    const [same] = (await ennick.call('POST', `/productions/${other}/clips/search`, {})).rows
    const { jobs } = await ennick.call('POST', `/productions/${other}/make`, { clipIds: [same.id], recipeId: recipe })
    alone.push(withoutHashes((await runningEncoder()).slice(1)))
    await ennick.jobEnd(jobs[0].id)
  }
  const strip = `select='not(mod(n\\,5))',scale=320:-2:flags=bilinear,format=gbrp,lut3d=file=${lut},format=yuvj420p,tile=8x1`
  let turn = 0
  const place = (): string => join(folder, `bare-${turn++}`)
  const five = async (): Promise<number> =>
    secondsOf(async () => {
      for (const words of alone) await succeed(redirected(words, place()))
      await succeed([
        '-v',
        'error',
        '-y',
        '-i',
        source,
        '-an',
        '-vf',
        strip,
        '-frames:v',
        '1',
        '-update',
        '1',
        `${place()}.jpg`,
      ])
      await succeed([
        '-v',
        'error',
        '-y',
        '-i',
        source,
        '-an',
        '-vf',
        'scale=9:8:flags=area,format=gray',
        '-f',
        'rawvideo',
        place(),
      ])
    })
  const onePass: Result = {
    id: 'one-pass',
    what: 'Proxy, optimized copy, review copy, filmstrip and hashes in one reading, against five commands',
    ratio: await compare(2, () => secondsOf(() => succeed(redirected(together, place()))), five),
    limit: 0.6,
  }
  say('The order of scaling and LUT')
  const proxy = alone[0] as string[]
  // The same command with the LUT on every pixel of the original first.
  const naive = proxy.map((word) => {
    const look = /,(format=gbrp16le,lut3d=[^,]+(?:,scale=out_color_matrix=[^,]+)?)/.exec(word)?.[1]
    return look && word.startsWith('[0:V:0]')
      ? word.replace(`,${look}`, '').replace('[0:V:0]', `[0:V:0]${look},`)
      : word
  })
  if (naive.join() === proxy.join()) throw new Error('The LUT was not found in the encoder’s command.')
  const timed = (words: string[]) => () => secondsOf(() => succeed(redirected(words, place())))
  const order: Result = {
    id: 'lut-order',
    what: 'A UHD log original to half size, made smaller before its LUT, against the LUT first',
    ratio: await compare(2, timed(proxy), timed(naive)),
    limit: 0.6,
  }
  return [onePass, order]
}
