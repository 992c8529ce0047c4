import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { speech } from '../../../core/src/testing/sounds.ts'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makeShot } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const rate = 48_000
/** What was done to the sound of each proxy that somebody else made. */
const proxies = {
  S1: ['-c:a', 'pcm_s16le'],
  // As an encoder that compresses leaves it, quieter and turned round.
  S2: ['-af', 'volume=-0.4', '-c:a', 'aac', '-b:a', '128k'],
  S3: ['-af', 'adelay=delays=5760S,atrim=end_sample=288000', '-c:a', 'pcm_s16le'],
  S4: ['-af', 'atrim=start_sample=1200,asetpts=PTS-STARTPTS,apad=whole_len=288000', '-c:a', 'pcm_s16le'],
  S5: ['-af', 'volume=0', '-c:a', 'pcm_s16le'],
} as const
const names = Object.keys(proxies) as (keyof typeof proxies)[]

beforeAll(async () => {
  ennick = await startHarness({ looks: true })
  productionId = await ennick.addProduction('Heard pairs')
  const [card, vendor] = [join(ennick.media, 'card'), join(ennick.media, 'vendor')]
  await mkdir(vendor, { recursive: true })
  for (const [index, name] of names.entries()) {
    const timecode = `1${index}:00:00:00`
    await makeShot(join(card, `${name}.mov`), speech(6, rate, 60 + index), { timecode, reel: 'A001' })
    const stamp = ['-timecode', timecode, '-metadata', 'reel_name=A001', '-metadata:s:v:0', 'reel_name=A001']
    const { exitCode, stderr } = await run('ffmpeg', [
      ...['-nostdin', '-v', 'error', '-i', join(card, `${name}.mov`), '-map', '0:v', '-map', '0:a', '-c:v', 'copy'],
      ...[...proxies[name], ...stamp, join(vendor, `${name}_proxy.mov`)],
    ])
    expect([exitCode, stderr]).toEqual([0, ''])
  }
  await ennick.addVolume(productionId, 'CARD', card)
  const volumeId = await ennick.addVolume(productionId, 'VENDOR', vendor)
  await ennick.call('declareRole', { params: { volumeId }, body: { path: '', role: 'proxy' } })
  const offers = await ennick.call('listOffers', { params: { productionId } })
  const fileIds = offers.map(({ fileId }) => fileId)
  await ennick.call('acceptOffers', { params: { productionId }, body: { fileIds, choices: [] } })
  await ennick.untilLooked(productionId)
})
afterAll(() => ennick.stop())

async function heard(name: string) {
  const rows = await ennick.call('listPairs', { params: { productionId } })
  const pair = rows.find((row) => row.name === `${name}.mov`)?.pairs[0]
  const { comparison } = await ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })
  const { found, agrees } = comparison?.find(({ aspect }) => aspect === 'sound sync') ?? {}
  return { verdict: pair?.verdict, found, agrees }
}

test('sound that runs with its pictures is told to, whatever its codec, its loudness and its polarity', async () => {
  expect(await heard('S1')).toEqual({ verdict: 'proven', found: '0 samples off', agrees: true })
  expect(await heard('S2')).toMatchObject({ verdict: 'proven', agrees: true })
})

test('sound that runs three frames late makes a pair mismatched; less than a frame is told and is no fault', async () => {
  expect(await heard('S3')).toEqual({ verdict: 'mismatched', found: '3 frames late', agrees: false })
  expect(await heard('S4')).toMatchObject({ verdict: 'proven', found: '0.63 frame early', agrees: true })
})

test('of silence nothing is said', async () => {
  expect(await heard('S5')).toEqual({ verdict: 'proven', found: undefined, agrees: undefined })
})

test('a cut that uses it has a finding with the frames', async () => {
  const list = `TITLE: Heard
001  A001 V C 12:00:00:00 12:00:01:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: S3.mov
`
  const { id } = await ennick.call('addCut', {
    ...{ params: { productionId }, body: { fileName: 'heard.edl', text: list } },
  })
  const findings = await ennick.call('listFindings', { params: { cutId: id } })
  expect(findings.map(({ kind, severity }) => [kind, severity])).toEqual([['sound out of sync', 'needs a look']])
  expect(findings[0]?.message).toContain('its sound runs 3 frames late')
})
