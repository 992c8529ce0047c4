import { rename, utimes } from 'node:fs/promises'
import { join } from 'node:path'
import { rate } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { pictureFacts, soundFacts } from '../../../core/src/testing/facts.ts'
import type { FoundFile } from '../store/job-types.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { candidatePictures } from './candidate-pictures.ts'

describe('the frames by which a found file is seen', () => {
  const file = (facts: FoundFile['facts']): FoundFile => ({
    ...{ id: 'x', path: '/x.mov', sizeBytes: 1, mtimeMicros: 1, fingerprint: 'f', facts },
  })
  const at = (change: object) => pictureFacts({ rate: rate(25), ...change })

  test('the moment that the picture of what is lost shows, where both have timecode; then head and tail', () => {
    const lost = at({ frames: 90, start: '10:00:00:00' })
    expect(candidatePictures(lost, file(at({ frames: 90, start: '10:00:00:00' })))).toEqual([
      { frame: 30, label: '10:00:01:05', shows: 'the same timecode' },
      { frame: 0, label: '10:00:00:00', shows: 'head' },
      { frame: 89, label: '10:00:03:14', shows: 'tail' },
    ])
    expect(candidatePictures(lost, file(at({ frames: 200, start: '09:59:59:00' })))[0]).toEqual({
      frame: 55,
      label: '10:00:01:05',
      shows: 'the same timecode',
    })
  })

  test('the same timecode is said of nothing else: not where it has none, nor too little, nor another rate', () => {
    const lost = at({ frames: 90, start: '10:00:00:00' })
    const first = (change: object) => candidatePictures(lost, file(at(change)))[0]
    const ownThird = { frame: 30, shows: 'a third of the way' }
    expect(first({ frames: 90, start: null })).toMatchObject(ownThird)
    expect(first({ frames: 90, start: '12:00:00:00' })).toMatchObject(ownThird)
    expect(first({ frames: 90, start: '10:00:00:00', rate: rate(50) })).toMatchObject(ownThird)
    expect(first({ frames: 90, start: '10:00:02:00' })).toMatchObject(ownThird)
    expect(first({ frames: 12, start: '10:00:00:00' })).toMatchObject({ frame: 4, shows: 'a third of the way' })
  })

  test('what shows twice is shown once, by what was said first', () => {
    const lost = at({ frames: 90, start: '10:00:00:00' })
    const shown = candidatePictures(lost, file(at({ frames: 60, start: '10:00:01:05' })))
    expect(shown.map(({ frame, shows }) => [frame, shows])).toEqual([
      [0, 'the same timecode'],
      [59, 'tail'],
    ])
  })

  test('without a clip its own third; none of sound, and never a frame that it does not have', () => {
    expect(candidatePictures(null, file(at({ frames: 30, start: null }))).map(({ label }) => label)).toEqual([
      'frame 10',
      'frame 0',
      'frame 29',
    ])
    expect(candidatePictures(null, file(at({ frames: 1, start: null })))).toHaveLength(1)
    expect(candidatePictures(null, file(soundFacts(48_000, 0)))).toEqual([])
  })
})

describe('served of a search', () => {
  let ennick: Harness
  let shelf: string
  let jobId: string
  beforeAll(async () => {
    ennick = await startHarness()
    const productionId = await ennick.addProduction('Seen')
    const card = join(ennick.media, 'card')
    shelf = join(ennick.media, 'shelf')
    await makePicture(join(card, 'A001C001.mov'), { seed: 1 })
    await makePicture(join(shelf, 'A001C002.mov'), { seed: 2 })
    await ennick.addVolume(productionId, 'A001', card)
    await rename(join(card, 'A001C001.mov'), join(shelf, 'A001C001.mov'))
    await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
    const text = `TITLE: Seen
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
`
    const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'seen.edl', text } })
    const job = await ennick.call('search', { params: { cutId: cut.id }, body: { folder: shelf, findingKeys: null } })
    jobId = job.id
    await ennick.waitForJob(jobId)
  })
  afterAll(() => ennick.stop())
  const get = (index: number, frame: number) =>
    fetch(`${ennick.url}/api/jobs/${jobId}/candidates/${index}/frames/${frame}`)

  test('frames of what was found, by its number in the search alone, and only while it is that file', async () => {
    const { rows } = await ennick.call('readSearch', { params: { jobId } })
    const row = rows[0]
    expect(row?.clipId).toMatch(/^[0-9a-f-]{36}$/)
    const candidate = row?.rated.find(({ path }) => path.endsWith('A001C001.mov'))
    expect(candidate?.pictures.length).toBe(3)
    const index = candidate?.index ?? -1
    const answer = await get(index, candidate?.pictures[0]?.frame ?? 0)
    expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'image/jpeg'])
    expect((await get(99, 0)).status).toBe(404)
    expect((await get(index, 100_000)).status).toBe(404)
    await utimes(join(shelf, 'A001C001.mov'), 1, 1)
    expect((await get(index, 0)).status).toBe(409)
  })
})
