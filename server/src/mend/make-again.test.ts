import { readFile, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { placeOfKind } from '../make/made-item.ts'
import { adoptPair } from '../pairs/adopt.ts'
import { connect } from '../store/database.ts'
import type { KnownClip } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Make again')
  const card = join(ennick.media, 'card')
  await makePicture(join(card, 'A001C002.mov'), { seed: 2, timecode: '10:01:00:00' })
  await makePicture(join(card, 'A001C003.mov'), { seed: 3, timecode: '10:02:00:00' })
  await ennick.addVolume(productionId, 'A001', card)
  await rm(join(card, 'A001C003.mov'))
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  const text = `TITLE: Make again
001  A001 V C 10:01:00:10 10:01:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C002.mov
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'again.edl', text } })).id
})
afterAll(() => ennick.stop())

test('making a proxy again replaces it, and taking that back puts the very same file back', async () => {
  const clip = (await ennick.clips(productionId)).find((candidate) => candidate.name === 'A001C002.mov')
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [clip?.id], recipeId: 'half-h264-intra' },
  })
  await ennick.waitForJob(jobs[0]?.id ?? '')
  const pair = async () =>
    (await ennick.call('listPairs', { params: { productionId } })).find((row) => row.clipId === clip?.id)?.pairs
  const before = await pair()
  const path = (await ennick.call('readPair', { params: { pairId: before?.[0]?.id ?? '' } })).madeFiles[0]
    ?.path as string
  const content = await readFile(path)
  await ennick.query('update pairs set is_compared = false where id = $1', [before?.[0]?.id])
  const [mend] = await ennick.call('makeAgain', { params: { cutId }, body: { pairIds: [before?.[0]?.id] } })
  for (;;) {
    const now = (await ennick.call('listMends', { params: { productionId } })).find(
      (candidate) => candidate.id === mend?.id,
    )
    if (now?.state === 'done') break
    expect(now?.state).toBe('waiting')
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  const made = await pair()
  expect(made).toHaveLength(1)
  expect(made?.[0]?.id).not.toBe(before?.[0]?.id)
  expect(made?.[0]?.verdict).toBe('proven')
  await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  expect((await pair())?.[0]?.id).toBe(before?.[0]?.id)
  expect((await readFile(path)).equals(content)).toBe(true)
})

test('of an adopted proxy beside a made one replaces both, and taking that back brings both back', async () => {
  const { database, close } = connect(ennick.config.databaseUrl, { maximum: 2 })
  const material = await readMaterial(database, productionId)
  const clip = [...material.clips.values()].find((candidate) => candidate.name === 'A001C002') as KnownClip
  const path = join(placeOfKind(material, 'proxy').rootPath, 'from set/A001C002_proxy.mov')
  await makePicture(path, { timecode: '10:01:00:00', frames: 49 })
  const adopted = await adoptPair(database, material, clip, [{ path, part: 'whole' }])
  await close()
  const verdicts = async () =>
    (await ennick.call('listPairs', { params: { productionId } }))
      .find((row) => row.clipId === clip.id)
      ?.pairs.map((pair) => `${pair.origin} ${pair.verdict}`)
  expect(await verdicts()).toEqual(['made unchecked', 'adopted mismatched'])
  const [mend] = await ennick.call('makeAgain', { params: { cutId }, body: { pairIds: [adopted] } })
  const state = async () =>
    (await ennick.call('listMends', { params: { productionId } })).find((candidate) => candidate.id === mend?.id)?.state
  while ((await state()) === 'waiting') await new Promise((resolve) => setTimeout(resolve, 100))
  expect(await state()).toBe('done')
  expect(await verdicts()).toEqual(['made proven'])
  await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  expect(await verdicts()).toEqual(['made unchecked', 'adopted mismatched'])
  expect((await stat(path)).size).toBeGreaterThan(0)
})

test('a proxy needs its original', async () => {
  const clip = (await ennick.clips(productionId)).find((candidate) => candidate.presence === 'gone')
  const { skipped } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [clip?.id], recipeId: 'half-h264-intra' },
  })
  expect(skipped[0]).toContain('find it in Mend first')
})
