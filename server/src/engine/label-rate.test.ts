import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { run } from './process.ts'

let ennick: Harness
let productionId: string
const mpeg2 = ['-c:v', 'mpeg2video', '-b:v', '10M', '-pix_fmt', 'yuv422p']
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Labels')
  const card = join(ennick.media, 'card')
  await mkdir(card)
  await makeDouble(join(card, 'H050.mov'), { rate: '50', labels: '25', timecode: '10:00:00:12' })
  await makeDouble(join(card, 'H060.mov'), { rate: '60000/1001', labels: '30000/1001', timecode: '10:00:59:29' })
  await makePicture(join(card, 'P050.mov'), { rate: '50', frames: 60, timecode: '10:00:00:12', reel: 'P' })
  const mxf = join(card, 'X050.mxf')
  await makePicture(mxf, { rate: '50', frames: 60, timecode: '11:00:00:24', codec: mpeg2, format: 'mxf', reel: null })
  await halveLabels(mxf, { of: 50, start: 11 * 3600 * 50 + 24 })
  await ennick.addVolume(productionId, 'CARD', card)
})
afterAll(() => ennick.stop())

/** Pictures with the timecode track of another file, which counts half as many labels a second as they are. */
async function makeDouble(path: string, of: { rate: string; labels: string; timecode: string }): Promise<void> {
  const [pictures, track] = [join(ennick.media, 'pictures.mov'), join(ennick.media, 'track.mov')]
  await makePicture(pictures, { rate: of.rate, frames: 60, timecode: null, seed: 3, reel: null })
  await makePicture(track, { rate: of.labels, frames: 30, timecode: of.timecode })
  const copied = await run('ffmpeg', [
    ...['-v', 'error', '-y', '-i', pictures, '-i', track, '-map', '0', '-map', '1:d', '-c', 'copy', '-copy_unknown'],
    `file:${path}`,
  ])
  expect(copied).toMatchObject({ exitCode: 0, stderr: '' })
}

/** What cameras write: the rounded timecode base is half of the rate (SMPTE ST 377-1, annex B.17). */
async function halveLabels(path: string, { of, start }: { of: number; start: number }): Promise<void> {
  const bytes = await readFile(path)
  const item = (tag: number, value: bigint, length: number): Buffer => {
    const item = Buffer.alloc(4 + length)
    item.writeUInt16BE(tag, 0)
    item.writeUInt16BE(length, 2)
    item.write(value.toString(16).padStart(2 * length, '0'), 4, 'hex')
    return item
  }
  const exchange = (was: Buffer, now: Buffer): void => {
    let count = 0
    for (let at = bytes.indexOf(was); at >= 0; at = bytes.indexOf(was, at + 1), count++) now.copy(bytes, at)
    expect(count).toBeGreaterThan(0)
  }
  exchange(item(0x1502, BigInt(of), 2), item(0x1502, BigInt(of / 2), 2))
  exchange(item(0x1501, BigInt(start), 8), item(0x1501, BigInt(start / 2), 8))
  await writeFile(path, bytes)
}

const clip = async (name: string) => (await ennick.clips(productionId)).find((each) => each.name === name)

test('where two pictures share a label, the first of them has it; that is told', async () => {
  expect(await clip('H050.mov')).toMatchObject({ startTimecode: '10:00:00:24', notice: 'timecode base' })
  expect(await clip('H060.mov')).toMatchObject({ startTimecode: '10:00:59:58', notice: 'timecode base' })
  // 11:00:00:12 of 25.
  expect(await clip('X050.mxf')).toMatchObject({ startTimecode: '11:00:00:24', notice: 'timecode base' })
  expect(await clip('P050.mov')).toMatchObject({ startTimecode: '10:00:00:12', notice: '' })
})

test('a list that counts as the label does lands on the frame that is meant', async () => {
  const text = `TITLE: Doubles
001  AX V C 10:00:00:12 10:00:00:22 01:00:00:00 01:00:00:10
* FROM CLIP NAME: H050.mov
002  AX V C 11:00:00:13 11:00:00:23 01:00:00:10 01:00:00:20
* FROM CLIP NAME: X050.mxf
`
  const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'doubles.edl', text } })
  const { events } = await ennick.call('readCutWatch', { params: { cutId: cut.id } })
  expect(events.map(({ clipName, startFrame, endFrame }) => [clipName, startFrame, endFrame])).toEqual([
    ['H050', 0, 20],
    ['X050', 2, 22],
  ])
})

test('what is made of it starts at the same frame', async () => {
  const clipIds = [(await clip('H050.mov'))?.id, (await clip('X050.mxf'))?.id]
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds, recipeId: 'half-h264-intra' },
  })
  for (const { id } of jobs) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done', error: null })
  const ledger = await ennick.call('listPairs', { params: { productionId } })
  expect(ledger.flatMap(({ pairs }) => pairs.map(({ verdict }) => verdict))).toEqual(['proven', 'proven'])
})
