import { mkdir, readFile, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { builtInRecipes } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { execa } from 'execa'
import { probe } from '../engine/probe.ts'
import { type Harness, startHarness } from '../testing/harness.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Stills')
  const card = join(ennick.media, 'scans')
  await mkdir(card, { recursive: true })
  const stills = (format: string, name: string, rate: string, more: readonly string[] = []) =>
    execa('ffmpeg', [
      ...['-v', 'error', '-f', 'lavfi', '-i', `color=0xc03020:s=320x180:r=${rate},trim=end_frame=6,format=${format}`],
      ...[...more, `file:${card}/${name}`],
    ])
  await stills('gbrp10be', 'scan_%04d.dpx', '24')
  for (let number = 1; number <= 6; number++) await addHeaders(join(card, `scan_000${number}.dpx`), number - 1)
  await stills('rgb24', 'paint_%04d.png', '25')
  await stills('rgba', 'title_%04d.png', '25')
  await ennick.addVolume(productionId, 'scans', card)
})
afterAll(() => ennick.stop())

/** Puts the film and the television header into a DPX that has none: 24 frames a second, and a timecode. */
async function addHeaders(path: string, frame: number): Promise<void> {
  const plain = await readFile(path)
  const headers = Buffer.alloc(384, 0xff)
  headers.writeFloatBE(24, 1724 - 1664)
  headers.writeUInt32BE(0x10000000 + frame, 1920 - 1664)
  const whole = Buffer.concat([plain.subarray(0, 1664), headers, plain.subarray(plain.readUInt32BE(4))])
  whole.writeUInt32BE(2048, 4)
  whole.writeUInt32BE(whole.length, 16)
  await writeFile(path, whole)
}

const clipOf = async (name: string) => {
  const clip = (await ennick.clips(productionId)).find((candidate) => candidate.path.startsWith(name))
  if (!clip) throw new Error(`There is no clip ${name}.`)
  return clip
}

/** One of each family of codecs. */
const tried = ['half-h264-intra', 'vc3-lb-op-atom', 'production-prores-proxy', 'lossless-ffv1']

test.each(['scan', 'paint'])(
  '%s: stills of red, green and blue are made with every recipe, in their colours',
  async (name) => {
    const { id } = await clipOf(name)
    for (const recipe of builtInRecipes.filter(({ id }) => tried.includes(id))) {
      const { jobs, skipped } = await ennick.call('make', {
        params: { productionId },
        body: { clipIds: [id], recipeId: recipe.id },
      })
      expect(skipped).toEqual([])
      expect(await ennick.waitForJob(jobs[0]?.id as string)).toMatchObject({ state: 'done', error: null })
      const ledger = await ennick.call('listPairs', { params: { productionId } })
      const pair = ledger.find((row) => row.clipId === id)?.pairs.find((one) => one.recipe?.startsWith(recipe.name))
      const { madeFiles } = await ennick.call('readPair', { params: { pairId: pair?.id as string } })
      const made = madeFiles.find(({ path }) => !/_a\d+\.mxf$/i.test(path))?.path as string
      // The file's own word for its colour is followed, as a player would.
      const { stdout } = await execa(
        'ffmpeg',
        [
          '-v',
          'error',
          '-i',
          `file:${made}`,
          '-map',
          '0:v',
          '-frames:v',
          '1',
          '-vf',
          'crop=16:16:100:20,format=rgb24',
        ].concat(['-f', 'rawvideo', 'pipe:1']),
        { encoding: 'buffer' },
      )
      const [red = 0, green = 0, blue = 0] = stdout
      expect([recipe.name, Math.abs(red - 0xc0) < 9, Math.abs(green - 0x30) < 9, Math.abs(blue - 0x20) < 9]).toEqual([
        recipe.name,
        true,
        true,
        true,
      ])
    }
  },
)

test('alpha is kept where the codec holds it, and told of in the plan where it does not', async () => {
  const { id } = await clipOf('title')
  const request = (recipeId: string) => ({ params: { productionId }, body: { clipIds: [id], recipeId } })
  const told = /alpha channel, and .* holds none: what is made of it is opaque/
  expect((await ennick.call('planMake', request('half-h264-intra'))).warnings).toEqual([expect.stringMatching(told)])
  expect((await ennick.call('planMake', request('lossless-ffv1'))).warnings).toEqual([])
  const { jobs } = await ennick.call('make', request('lossless-ffv1'))
  expect(await ennick.waitForJob(jobs[0]?.id as string)).toMatchObject({ state: 'done', error: null })
  const ledger = await ennick.call('listPairs', { params: { productionId } })
  const pairId = ledger.find((row) => row.clipId === id)?.pairs[0]?.id as string
  const [file] = (await ennick.call('readPair', { params: { pairId } })).madeFiles
  const path = file?.path as string
  expect((await probe(path, (await stat(path)).size)).picture?.pixelFormat).toBe('bgra')
})

test('stills run at the rate that their own header says, and start at its timecode', async () => {
  expect(await clipOf('scan')).toMatchObject({
    rate: { numerator: 24, denominator: 1 },
    startTimecode: '10:00:00:00',
    frames: 6,
  })
})
