import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const list = `TITLE: Mill
001  A001 V C 10:00:00:00 10:00:01:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
002  L1 V C 02:00:00:00 02:00:01:10 01:00:01:00 01:00:02:10
* FROM CLIP NAME: the wheel turns.mov
003  A001 V C 10:00:01:00 10:00:02:00 01:00:02:10 01:00:03:10
* FROM CLIP NAME: A001C001.mov
`
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('From the start')
  const card = join(ennick.media, 'card')
  await makePicture(join(card, 'A001C001.mov'), { frames: 50 })
  // Made for event 2: as long as it is, and without the timecode of what it stands for.
  await makePicture(join(card, 'WHEEL.mov'), { seed: 2, frames: 35, timecode: null, reel: null })
  await makePicture(join(card, 'SHORT.mov'), { seed: 3, frames: 34, timecode: null, reel: null })
  await ennick.addVolume(productionId, 'A001', card)
})
afterAll(() => ennick.stop())

const addCut = async (fileName: string, text: string) =>
  (await ennick.call('addCut', { params: { productionId }, body: { fileName, text } })).id
const clipId = async (name: string) => (await ennick.clips(productionId)).find((clip) => clip.name === name)?.id ?? ''
const findings = async (cutId: string) => ennick.call('listFindings', { params: { cutId } })
const replace = async (cutId: string, name: string, apply = true) =>
  ennick.call('replaceFromStart', {
    params: { cutId },
    body: { positions: [1], clipId: await clipId(name), apply },
  })

test.each(['mill.edl', 'mill.otio'])('an event without source points shows another clip: %s', async (fileName) => {
  const edl = await addCut('mill.edl', list)
  const written = async () => {
    const lists = await ennick.query<{ text: string }>('select source_text as text from cuts where id = $1', [edl])
    return lists[0]?.text ?? ''
  }
  // The same cut as OTIO, by small means: what the product writes is tested elsewhere.
  const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: 25 })
  const clip = (name: string, start: number, frames: number) => ({
    ...{ OTIO_SCHEMA: 'Clip.2', name },
    source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(start), duration: time(frames) },
  })
  const at = 10 * 3600 * 25
  const children = [
    ...[
      clip('A001C001.mov', at, 25),
      clip('the wheel turns.mov', 2 * 3600 * 25, 35),
      clip('A001C001.mov', at + 25, 25),
    ],
  ]
  const track = { OTIO_SCHEMA: 'Track.1', kind: 'Video', children }
  const tracks = { OTIO_SCHEMA: 'Stack.1', children: [track] }
  const otio = JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', name: 'Mill', tracks })
  const cutId = fileName === 'mill.edl' ? edl : await addCut(fileName, otio)
  const [open] = await findings(cutId)
  expect(open).toMatchObject({ kind: 'unresolved', mends: ['repoint', 'replace from the start'] })

  // Looking changes nothing; one that is a frame too short is refused.
  const told = ['event 002 on V1 shows 35 frames of WHEEL.mov from its first on']
  expect(await replace(cutId, 'WHEEL.mov', false)).toEqual({ told, mend: null, cutId: null })
  await expect(replace(cutId, 'SHORT.mov')).rejects.toThrow(/SHORT\.mov is too short for it: 1 frame at the tail/)

  const { mend, cutId: next } = await replace(cutId, 'WHEEL.mov')
  expect(mend?.title).toBe('1 use of “Mill” from the start of WHEEL.mov, as version 2')
  expect(await findings(next ?? '')).toEqual([])
  const { events } = await ennick.call('readCut', { params: { cutId: next ?? '' } })
  expect(events.map(({ state, originalPath }) => [state, originalPath?.split('/').at(-1)])).toEqual([
    ...[
      ['on original', 'A001C001.mov'],
      ['on original', 'WHEEL.mov'],
      ['on original', 'A001C001.mov'],
    ],
  ])
  expect((await findings(cutId)).map(({ kind }) => kind)).toEqual(['unresolved'])
  await expect(replace(cutId, 'WHEEL.mov')).rejects.toMatchObject({ code: 'mend-conflict' })

  await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  await expect(ennick.call('readCut', { params: { cutId: next ?? '' } })).rejects.toMatchObject({ status: 404 })
  expect(await written()).toBe(list)
})
