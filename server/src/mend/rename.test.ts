import { rename, rm, stat, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import type { OfferedRecipe } from '@ennick/contract'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let bay: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Names')
  bay = join(ennick.media, 'bay')
  for (const [seed, name] of ['A001C001', 'A001C002', 'A001C003'].entries())
    await makePicture(join(bay, `${name}.mov`), { seed, timecode: `10:0${seed}:00:00` })
  await ennick.addVolume(productionId, 'BAY', bay)
  const clips = await ennick.clips(productionId)
  await make(
    clips.map(({ id }) => id),
    'half-h264-intra',
  )
  const text = `TITLE: Names
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: The mill at dusk
* SOURCE FILE: ${await pathOf('A001C001_proxy.mov')}
002  A001 V C 10:01:00:10 10:01:01:10 01:00:01:00 01:00:02:00
* FROM CLIP NAME: A001C002.mov
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'names.edl', text } })).id
})
afterAll(() => ennick.stop())

async function make(clipIds: readonly string[], recipeId: string): Promise<void> {
  const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId } })
  for (const { id } of jobs) expect((await ennick.waitForJob(id)).state).toBe('done')
}
const pairOf = async (name: string) => {
  const pairs = (await ennick.call('listPairs', { params: { productionId } })).flatMap((row) => row.pairs)
  const pair = pairs.find((each) => each.name === name)
  return pair && (await ennick.call('readPair', { params: { pairId: pair.id } }))
}
const pathOf = async (name: string) => (await pairOf(name))?.madeFiles[0]?.path as string
const events = async () =>
  (await ennick.call('readCut', { params: { cutId } })).events.map(({ state, originalName }) => [state, originalName])
const renameMade = async (...names: string[]) => {
  const pairIds: string[] = []
  for (const name of names) pairIds.push((await pairOf(name))?.pair.id ?? '')
  return ennick.call('renameMade', { params: { productionId }, body: { pairIds } })
}
const findings = async () =>
  (await ennick.call('listFindings', { params: { cutId } })).filter(({ kind }) => kind === 'old proxy name')
const repointAll = async () => {
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  const body = { folder: bay, findingKeys: null }
  const job = await ennick.waitForJob((await ennick.call('search', { params: { cutId }, body })).id)
  const { rows } = await ennick.call('readSearch', { params: { jobId: job.id } })
  const choices = rows.map(({ wantedId, candidateId }) => ({ wantedId, candidateId: candidateId ?? '' }))
  await ennick.call('repoint', { params: { cutId }, body: { searchJobId: job.id, choices } })
}
const isThere = (path: string) =>
  stat(path).then(
    () => true,
    () => false,
  )

test('a proxy is called as it would be made; once its original is renamed, it is told that it is not', async () => {
  expect([(await pairOf('A001C001_proxy.mov'))?.nameToday, await findings()]).toEqual([null, []])
  for (const [from, to] of [
    ['A001C001', 'B1_001'],
    ['A001C002', 'B1_002'],
  ])
    await rename(join(bay, `${from}.mov`), join(bay, `${to}.mov`))
  await repointAll()
  expect((await pairOf('A001C001_proxy.mov'))?.nameToday).toBe('B1_001_proxy.mov')
  expect(await findings()).toMatchObject([
    {
      mends: ['rename'],
      message: expect.stringMatching(/^2 of the files made of this cut’s originals are not called/),
    },
  ])
  const steps = await ennick.call('readOrderOfWork', { params: { cutId } })
  expect(steps.find(({ kind }) => kind === 'rename')?.pairIds).toHaveLength(2)
})

test('it is renamed on disk and in the ledger, an event that knew its path stays, and all is taken back', async () => {
  const before = { path: await pathOf('A001C001_proxy.mov'), events: await events() }
  expect(before.events[0]).toEqual(['on original', 'B1_001.mov'])
  const { mends, left } = await renameMade('A001C001_proxy.mov')
  expect(left).toEqual([])
  const path = await pathOf('B1_001_proxy.mov')
  expect([dirname(path), basename(path)]).toEqual([dirname(before.path), 'B1_001_proxy.mov'])
  expect([await isThere(path), await isThere(before.path)]).toEqual([true, false])
  expect([await events(), (await pairOf('B1_001_proxy.mov'))?.pair.verdict]).toEqual([before.events, 'proven'])
  expect(mends[0]?.changes).toMatchObject([{ label: 'A001C001: A001C001_proxy.mov is called B1_001_proxy.mov' }])
  expect((await findings())[0]?.message).toMatch(/^The proxy A001C002_proxy\.mov is not called as its recipe/)
  await ennick.call('undoMend', { params: { mendId: mends[0]?.id ?? '' } })
  expect(await pathOf('A001C001_proxy.mov')).toBe(before.path)
  expect([await isThere(before.path), await events()]).toEqual([true, before.events])
})

test('a corrected scene makes another name; an event that knew the path alone stays on its original', async () => {
  const {
    isBuiltIn: _,
    warnings,
    id,
    version,
    ...half
  } = (await ennick.call('listRecipes', {})).find((recipe) => recipe.id === 'half-h264-intra') as OfferedRecipe
  const recipe = await ennick.call('addRecipe', {
    body: { ...half, name: 'By scene', namePattern: 'Scene {scene}', suffix: '' },
  })
  const clip = (await ennick.clips(productionId)).find(({ name }) => name === 'A001C003.mov')
  const say = (scene: string) =>
    ennick.call('editClips', {
      params: { productionId },
      body: { action: { kind: 'set', clipIds: [clip?.id], field: 'scene', value: scene }, apply: true },
    })
  await say('11')
  await make([clip?.id ?? ''], recipe.id)
  const text = `TITLE: Dusk
001  AX V C 10:02:00:10 10:02:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: The mill at dusk
* SOURCE FILE: ${await pathOf('Scene 11.mov')}
`
  const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'dusk.edl', text } })
  const chosen = async () =>
    (await ennick.query('select chosen_clip_id from events where cut_id = $1', [cut.id]))[0]?.chosen_clip_id
  const lands = async () =>
    (await ennick.call('readCut', { params: { cutId: cut.id } })).events.map(({ originalName }) => originalName)
  expect([await lands(), await chosen()]).toEqual([['A001C003.mov'], null])
  await say('12')
  const { mends } = await renameMade('Scene 11.mov')
  expect(mends[0]?.changes.map(({ label }) => label)).toEqual([
    'A001C003: Scene 11.mov is called Scene 12.mov',
    'event 001 of “Dusk” stays on A001C003.mov',
  ])
  expect([await lands(), await chosen()]).toEqual([['A001C003.mov'], clip?.id])
  await ennick.call('undoMend', { params: { mendId: mends[0]?.id ?? '' } })
  expect([await lands(), await chosen(), await isThere(await pathOf('Scene 11.mov'))]).toEqual([
    ...[['A001C003.mov'], null, true],
  ])
})

test('several are renamed as one mend, which is taken back as one', async () => {
  const { mends, left } = await renameMade('A001C001_proxy.mov', 'A001C002_proxy.mov')
  expect([mends.map(({ title, changeCount }) => [title, changeCount]), left]).toEqual([[['Rename 2 files', 2]], []])
  expect([await isThere(await pathOf('B1_001_proxy.mov')), await isThere(await pathOf('B1_002_proxy.mov'))]).toEqual([
    ...[true, true],
  ])
  await ennick.call('undoMend', { params: { mendId: mends[0]?.id ?? '' } })
  expect([
    await isThere(await pathOf('A001C001_proxy.mov')),
    await isThere(await pathOf('A001C002_proxy.mov')),
  ]).toEqual([true, true])
})

test('what stands in the way of one keeps no other, and is never touched', async () => {
  const folder = dirname(await pathOf('A001C001_proxy.mov'))
  await writeFile(join(folder, 'B1_001_proxy.mov'), 'of somebody else')
  const { mends, left } = await renameMade('A001C001_proxy.mov', 'A001C002_proxy.mov')
  expect(mends.map(({ title }) => title)).toEqual(['Rename A001C002_proxy.mov to B1_002_proxy.mov'])
  expect(left).toEqual([
    {
      name: 'A001C001_proxy.mov',
      reason: expect.stringContaining('is already there, and Ennick did not put it there'),
    },
  ])
  expect(await isThere(join(folder, 'A001C001_proxy.mov'))).toBe(true)
  expect((await stat(join(folder, 'B1_001_proxy.mov'))).size).toBe('of somebody else'.length)
  await rm(join(folder, 'B1_001_proxy.mov'))
  expect((await renameMade('B1_002_proxy.mov')).left[0]?.reason).toMatch(/^It is called as its recipe calls it now/)
})

test('a name is not given back to what was untied since, nor to what somebody has exchanged', async () => {
  const [mend] = await ennick.call('listMends', { params: { productionId } })
  const undo = () => ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  const path = await pathOf('B1_002_proxy.mov')
  await ennick.call('untiePair', { params: { pairId: (await pairOf('B1_002_proxy.mov'))?.pair.id ?? '' } })
  await expect(undo()).rejects.toThrow(/was made again or untied since: take that back first/)
  const listed = await ennick.call('listMends', { params: { productionId }, query: { limit: '1' } })
  expect(listed).toHaveLength(1)
  const [untied] = listed
  await ennick.call('undoMend', { params: { mendId: untied?.id ?? '' } })
  expect(await isThere(path)).toBe(true)
  const away = join(ennick.media, 'kept.mov')
  await rename(path, away)
  await writeFile(path, 'of somebody else')
  await expect(undo()).rejects.toThrow(/is another file than the one that Ennick put there/)
  await rm(path)
  await rename(away, path)
  await undo()
  expect(await isThere(join(dirname(path), 'A001C002_proxy.mov'))).toBe(true)
})

test('what was released has no name to be given back, and its mend is taken back all the same', async () => {
  await repointAll().catch(() => undefined)
  const { mends } = await renameMade('A001C002_proxy.mov')
  const pair = await pairOf('B1_002_proxy.mov')
  const body = { pairIds: [pair?.pair.id ?? ''], apply: true }
  expect(await ennick.call('release', { params: { productionId }, body })).toMatchObject({ released: 1, kept: [] })
  expect(await ennick.call('undoMend', { params: { mendId: mends[0]?.id ?? '' } })).toMatchObject({ state: 'undone' })
})
