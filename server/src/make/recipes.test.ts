import { mkdir, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { RecipeDraft } from '@ennick/contract'
import { builtInRecipes } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { pictureFolder } from '../config.ts'
import { packetHash } from '../engine/packets.ts'
import { probe } from '../engine/probe.ts'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Recipes')
  await makePicture(join(ennick.media, 'drive/A001C001.mov'), { frames: 30 })
  await makePicture(join(ennick.media, 'drive/A001C002.mov'), {
    frames: 30,
    seed: 1,
    timecode: '11:00:00:00',
    transfer: 'log100',
  })
  await ennick.addVolume(productionId, 'drive', join(ennick.media, 'drive'))
})
afterAll(() => ennick.stop())

const quarter: RecipeDraft = {
  name: 'Quarter size, Motion JPEG',
  purpose: 'cutting, one file per clip',
  about: 'For the slowest machine in the house.',
  codec: 'mjpeg',
  container: 'mov',
  size: { kind: 'divided', by: 4 },
  fit: 'pad',
  pixels: 'square',
  scaling: 'quick',
  skipUpTo: null,
  skipCodecs: [],
  skipPlaying: null,
  viewingLut: null,
  burnIn: null,
  quality: { kind: 'step', step: 'usual' },
  syncedSound: false,
  sound: 'pcm 16',
  tracks: { keep: null, layout: 'as source', atLeast: 0 },
  namePattern: '{source}',
  suffix: '_quarter',
  folders: { kind: 'mirrored', levels: null },
}
const clip = async (name: string) => {
  const found = (await ennick.clips(productionId)).find((candidate) => candidate.name === name)
  if (!found) throw new Error(`There is no ${name}.`)
  return found
}
const make = async (clipId: string, recipeId: string) => {
  const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds: [clipId], recipeId } })
  return ennick.waitForJob(jobs[0]?.id ?? '')
}
const pairsOf = async (clipId: string) =>
  (await ennick.call('listPairs', { params: { productionId } })).find((row) => row.clipId === clipId)?.pairs ?? []
let recipeId: string

test('a recipe is kept, offered and made with; its pair knows it', async () => {
  recipeId = (await ennick.call('addRecipe', { body: quarter })).id
  const offered = await ennick.call('listRecipes', {})
  expect(offered.find((recipe) => recipe.id === recipeId)).toMatchObject({
    ...quarter,
    version: 1,
    isBuiltIn: false,
    warnings: [],
  })
  const { id } = await clip('A001C001.mov')
  expect(await make(id, recipeId)).toMatchObject({ state: 'done', error: null })
  const [pair] = await pairsOf(id)
  expect(pair).toMatchObject({ recipe: 'Quarter size, Motion JPEG, version 1', verdict: 'proven', raster: '80 × 46' })
  const { madeFiles } = await ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })
  const path = madeFiles[0]?.path ?? ''
  expect(path).toMatch(/A001C001_quarter\.mov$/)
  const facts = await probe(path, (await stat(path)).size)
  expect(facts.sound.map((stream) => stream.codec)).toEqual(['pcm_s16le', 'pcm_s16le'])
})

test('a recipe that was exported under an older word of its purpose comes in under the trade’s', async () => {
  const purpose = 'cutting, one file per essence' as RecipeDraft['purpose']
  const draft: RecipeDraft = { ...quarter, name: 'Of before', purpose, codec: 'vc3-lb', container: 'mxf-op-atom' }
  const { id } = await ennick.call('addRecipe', { body: { ...draft, size: { kind: 'source' } } })
  const kept = (await ennick.call('listRecipes', {})).find((recipe) => recipe.id === id)
  expect(kept?.purpose).toBe('cutting, OP-Atom, one file per track')
  await ennick.call('retireRecipe', { params: { recipeId: id } })
})

test('its next version makes what the last one made stale, and is what is made from then on', async () => {
  const { id } = await clip('A001C001.mov')
  expect(
    (
      await ennick.call('changeRecipe', {
        params: { recipeId },
        body: { ...quarter, size: { kind: 'divided', by: 2 }, tracks: { ...quarter.tracks, layout: 'stereo' } },
      })
    ).version,
  ).toBe(2)
  // It is what the version that made it wants, and is not held against what the next one wants of the sound.
  expect((await pairsOf(id))[0]).toMatchObject({ verdict: 'stale', why: 'The recipe has a newer version.' })
  expect((await clip('A001C001.mov')).proxy).toBe('stale')
  expect(await make(id, recipeId)).toMatchObject({ state: 'done' })
  expect(await pairsOf(id)).toEqual([
    expect.objectContaining({ verdict: 'proven', raster: '160 × 90', recipe: 'Quarter size, Motion JPEG, version 2' }),
  ])
})

test('a name pattern and numbered folders: each has its example in the plan, is made so, and is its original’s twin', async () => {
  const clipIds = [(await clip('A001C001.mov')).id, (await clip('A001C002.mov')).id]
  const folders = { kind: 'numbered', root: 'Room/MXF', filesPerFolder: 4 } as const
  const numbered = { ...quarter, name: 'Numbered', namePattern: '{reel}_{counter:3}', suffix: '', folders }
  const { id } = await ennick.call('addRecipe', { body: numbered })
  const order = { params: { productionId }, body: { clipIds, recipeId: id } }
  const plan = await ennick.call('planMake', order)
  expect(plan.items.map((item) => item.outputs)).toEqual([['Room/MXF/1/A001_001.mov'], ['Room/MXF/1/A001_002.mov']])
  const { jobs } = await ennick.call('make', order)
  for (const job of jobs) expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done', error: null })
  const made = (await pairsOf(clipIds[1] as string)).find((pair) => pair.recipe?.startsWith('Numbered'))
  expect(made).toMatchObject({ name: 'A001_002.mov', verdict: 'proven' })
  // Made again, it keeps the number that it counted with, and its folder.
  const path = (await ennick.call('readPair', { params: { pairId: made?.id ?? '' } })).madeFiles[0]?.path as string
  await rm(path)
  await ennick.call('check', { params: { productionId } }).then((job) => ennick.waitForJob(job.id))
  expect(await make(clipIds[1] as string, id)).toMatchObject({ state: 'done', error: null })
  expect((await stat(path)).isFile()).toBe(true)
})

test('a recipe that stretches is proven against the raster that it fills', async () => {
  const draft = {
    ...quarter,
    name: 'Square',
    purpose: 'review',
    codec: 'h264-long',
    container: 'mp4',
    sound: 'compressed',
    fit: 'stretch',
    size: { kind: 'raster', width: 128, height: 128 },
  } as const
  const { id } = await ennick.call('addRecipe', { body: { ...draft, suffix: '_square' } })
  const job = await make((await clip('A001C001.mov')).id, id)
  expect(job).toMatchObject({ state: 'done', error: null })
  expect(job.checks).toContainEqual(
    expect.objectContaining({ aspect: 'shape', found: '128×128, stretched', agrees: true }),
  )
  const pair = (await pairsOf((await clip('A001C001.mov')).id)).find((each) => each.recipe?.startsWith('Square'))
  expect(pair).toMatchObject({ verdict: 'proven', raster: '128 × 128' })
})

test('what would get the name of another is left out of the plan, and says whose', async () => {
  const clipIds = [(await clip('A001C001.mov')).id, (await clip('A001C002.mov')).id]
  const { id } = await ennick.call('addRecipe', { body: { ...quarter, name: 'By reel', namePattern: '{reel}' } })
  const { items } = await ennick.call('planMake', { params: { productionId }, body: { clipIds, recipeId: id } })
  expect(items.map((item) => item.skipped)).toEqual([null, expect.stringMatching(/A001_quarter\.mov like A001C001/)])
})

test('chosen channels, pairs and silence: laid out as the recipe says, and proven so', async () => {
  const { id: clipId } = await clip('A001C002.mov')
  const tracks = { keep: [2], layout: 'stereo', atLeast: 4 } as const
  const { id } = await ennick.call('addRecipe', { body: { ...quarter, name: 'Laid out', suffix: '_laid', tracks } })
  expect(await make(clipId, id)).toMatchObject({ state: 'done', error: null })
  const pair = (await pairsOf(clipId)).find((candidate) => candidate.recipe?.startsWith('Laid out'))
  expect(pair?.verdict).toBe('proven')
  const path = (await ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })).madeFiles[0]?.path as string
  expect((await probe(path, (await stat(path)).size)).sound.map((stream) => stream.channels)).toEqual([2, 2])
  const loudness = await run('ffmpeg', [
    '-v',
    'info',
    '-i',
    path,
    '-filter_complex',
    '[0:a:0]channelsplit[l][r];[l]volumedetect[x];[r]volumedetect[y]',
    '-map',
    '[x]',
    '-map',
    '[y]',
    '-f',
    'null',
    '-',
  ])
  const levels = [...loudness.stderr.matchAll(/max_volume: (\S+) dB/g)].map(([, level]) => Number(level))
  expect(levels.filter((level) => level > -40)).toHaveLength(1)
  expect(levels.filter((level) => level < -80)).toHaveLength(1)
})

test('several items come from one job that reads the original once, with its filmstrip; each is proven for itself', async () => {
  const { id } = await clip('A001C002.mov')
  const alsoRecipeIds = ['vc3-lb-op-atom', 'source-prores-422', 'review-h264']
  const order = { params: { productionId }, body: { clipIds: [id], recipeId: 'half-h264-intra', alsoRecipeIds } }
  const plan = await ennick.call('planMake', order)
  expect(plan.also.map((each) => [each.recipeId, each.items[0]?.skipped])).toEqual(
    alsoRecipeIds.map((recipe) => [recipe, null]),
  )
  const all = [plan.items, ...plan.also.map((each) => each.items)].flat()
  expect(plan.bytes).toBe(all.reduce((sum, item) => sum + (item.bytes ?? 0), 0))
  const { jobs } = await ennick.call('make', order)
  expect(jobs).toHaveLength(1)
  const job = await ennick.waitForJob(jobs[0]?.id ?? '')
  expect(job).toMatchObject({ state: 'done', error: null })
  const proven = job.checks.filter((row) => row.aspect === 'pictures').map(({ recipe }) => recipe)
  const nameOf = (recipeId: string) => builtInRecipes.find((recipe) => recipe.id === recipeId)?.name
  expect(proven).toEqual(['half-h264-intra', ...alsoRecipeIds].map(nameOf))
  const made = (await pairsOf(id)).filter((pair) => !/Numbered|Laid out/.test(pair.recipe ?? ''))
  expect(made.map((pair) => [pair.kind, pair.verdict]).sort()).toEqual([
    ['optimized', 'proven'],
    ['proxy', 'proven'],
    ['proxy', 'proven'],
    ['review', 'proven'],
  ])
  const strip = (await readdir(pictureFolder(ennick.config.dataFolder), { recursive: true })).filter((name) =>
    name.endsWith('-filmstrip.jpg'),
  )
  expect(strip.length).toBeGreaterThan(0)
  const path = join(pictureFolder(ennick.config.dataFolder), strip[0] as string)
  expect((await probe(path, (await stat(path)).size)).picture).toMatchObject({ width: 8 * 320, height: 180 })
  // All of it is there now, so a second order makes nothing.
  expect((await ennick.call('make', order)).jobs).toEqual([])
})

test('what has the wanted codec already is copied or put into another container, never encoded a second time', async () => {
  const light = ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_lb', '-pix_fmt', 'yuv422p']
  await makePicture(join(ennick.media, 'ready/D001C001.mov'), {
    frames: 20,
    reel: 'D001',
    timecode: '15:00:00:00',
    codec: light,
  })
  await ennick.addVolume(productionId, 'ready', join(ennick.media, 'ready'))
  const { id } = await clip('D001C001.mov')
  const whole = {
    ...quarter,
    name: 'VC-3 LB, one file',
    codec: 'vc3-lb',
    size: { kind: 'source' },
    sound: 'as source',
    suffix: '',
  } as const
  const recipe = await ennick.call('addRecipe', { body: whole })
  const order = { clipIds: [id], recipeId: recipe.id, alsoRecipeIds: ['vc3-lb-op-atom', 'half-h264-intra'] }
  const plan = await ennick.call('planMake', { params: { productionId }, body: order })
  const items = [plan.items, ...plan.also.map((each) => each.items)].flat()
  expect(items.map((item) => item.method)).toEqual(['as it is', 'rewrap', 'encode'])
  const { jobs } = await ennick.call('make', { params: { productionId }, body: order })
  expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({ state: 'done', error: null })
  const made = await pairsOf(id)
  expect(made.map((pair) => pair.verdict)).toEqual(['proven', 'proven', 'proven'])
  const detail = async (name: string) =>
    ennick.call('readPair', { params: { pairId: made.find((pair) => pair.recipe?.startsWith(name))?.id ?? '' } })
  const copied = (await detail('VC-3 LB, one file')).madeFiles[0]?.path as string
  expect((await readFile(copied)).equals(await readFile(join(ennick.media, 'ready/D001C001.mov')))).toBe(true)
  const rewrapped = await detail('Source size, VC-3 LB')
  expect(rewrapped.madeFiles.map((file) => file.path.split('/').at(-1))).toEqual([
    'D001C001_V1.mxf',
    'D001C001_A1.mxf',
    'D001C001_A2.mxf',
  ])
  const { signal } = new AbortController()
  expect(await packetHash(rewrapped.madeFiles[0]?.path as string, signal)).toBe(await packetHash(copied, signal))
  expect(await packetHash(copied, signal)).toMatch(/^[0-9a-f]{32}$/)
})

test('two recipes that would give one name are told before anything is made', async () => {
  const { id: clipId } = await clip('A001C002.mov')
  const folders = { kind: 'numbered', root: 'Both', filesPerFolder: 10 } as const
  const [a, b] = [
    await ennick.call('addRecipe', { body: { ...quarter, name: 'One of two', folders } }),
    await ennick.call('addRecipe', { body: { ...quarter, name: 'Two of two', folders } }),
  ]
  const body = { clipIds: [clipId], recipeId: a.id, alsoRecipeIds: [b.id] }
  const { also } = await ennick.call('planMake', { params: { productionId }, body })
  expect(also[0]?.items[0]?.skipped).toMatch(/would be called A001C002_quarter\.mov like A001C002/)
})

test.each<[string, Partial<RecipeDraft>, string]>([
  ['that contradicts its purpose', { name: 'A', purpose: 'cutting, OP-Atom, one file per track' }, 'want MXF OP-Atom'],
  ['with a LUT that is not there', { name: 'B', viewingLut: 'sunset' }, 'no viewing LUT “sunset”'],
  ['of a name that is taken, in whatever case', { name: 'half SIZE, h.264 intra' }, 'already'],
])('a recipe %s is refused', async (_, change, message) => {
  await expect(ennick.call('addRecipe', { body: { ...quarter, ...change } })).rejects.toThrow(message)
})

test('built-in recipes stay as they are', async () => {
  await expect(ennick.call('changeRecipe', { params: { recipeId: 'half-h264-intra' }, body: quarter })).rejects.toThrow(
    'copy it',
  )
  await expect(ennick.call('retireRecipe', { params: { recipeId: 'half-h264-intra' } })).rejects.toThrow(
    'cannot be removed',
  )
})

test('a frame is shown before and after, with what changes and what is wrong', async () => {
  const { id } = await clip('A001C002.mov')
  const shown = await ennick.call('previewRecipe', {
    params: { clipId: id },
    body: {
      recipe: {
        ...quarter,
        viewingLut: 'estuary-log-to-display',
        burnIn: {
          timecode: 'bottom',
          text: { words: "{name}: 100 % 'so' [it], is; \\ = \"", place: 'top' },
          heightPercent: 6,
          boxPercent: 50,
        },
      },
      atPercent: 50,
    },
  })
  expect(shown.before).toMatch(/^data:image\/jpeg;base64,/)
  expect(shown.after).not.toBe(shown.before)
  expect(shown.facts).toContainEqual({ what: 'Raster', original: '320 × 180', made: '80 × 46' })
  expect(shown.facts).toContainEqual({ what: 'Viewing LUT', original: 'none', made: 'estuary-log-to-display' })
  expect(shown.contradictions).toEqual([])
})

test('every codec can be shown', async () => {
  const { id } = await clip('A001C001.mov')
  const offered = await ennick.call('listRecipes', {})
  const ofEachCodec = offered.filter(
    (recipe, index) => offered.findIndex((each) => each.codec === recipe.codec) === index,
  )
  for (const { isBuiltIn: _, warnings: __, id: ___, version: ____, ...recipe } of ofEachCodec)
    expect(
      (await ennick.call('previewRecipe', { params: { clipId: id }, body: { recipe, atPercent: 0 } })).after,
    ).toMatch(/^data:image/)
})

test('clips that come in get the recipe that a rule says, and those that are there do not', async () => {
  const search = await ennick.call('saveSearch', {
    params: { productionId },
    body: { name: 'camera A', condition: { all: [{ field: 'name', operator: 'begins', value: 'A' }] } },
  })
  const rule = await ennick.call('addIntakeRule', { params: { productionId }, body: { searchId: search.id, recipeId } })
  expect(rule).toMatchObject({ search: 'camera A', recipe: 'Quarter size, Motion JPEG' })
  const other = await ennick.call('addIntakeRule', {
    params: { productionId },
    body: { searchId: search.id, recipeId: 'review-h264' },
  })
  await makePicture(join(ennick.media, 'drive/A002C001.mov'), { frames: 30, seed: 2, timecode: '12:00:00:00' })
  await makePicture(join(ennick.media, 'drive/B001C001.mov'), { frames: 30, seed: 3, timecode: '12:00:00:00' })
  const [volume] = (await ennick.call('listVolumes', { params: { productionId } })).filter(
    (each) => each.label === 'drive',
  )
  await ennick.waitForJob((await ennick.call('scanVolume', { params: { volumeId: volume?.id ?? '' } })).id)
  const jobs = async () =>
    (await ennick.call('listJobs', { params: { productionId } })).filter((job) => job.kind === 'make')
  const titles = (await jobs()).map((job) => job.title)
  // What two rules give one clip is made from one reading of it.
  expect(titles.filter((title) => title.startsWith('A002C001'))).toEqual([
    'A002C001 → Quarter size, Motion JPEG + Review, H.264 with burn-in',
  ])
  expect(titles.filter((title) => /^(B001C001|A001C002) → Quarter/.test(title))).toEqual([])
  for (const job of await jobs()) await ennick.waitForJob(job.id)
  expect((await clip('A002C001.mov')).proxy).toBe('proven')
  for (const { id } of [rule, other]) await ennick.call('removeIntakeRule', { params: { ruleId: id } })
  expect(await ennick.call('listIntakeRules', { params: { productionId } })).toEqual([])
})

test('a recipe that is retired is offered no more; what it made stays what it was', async () => {
  await ennick.call('retireRecipe', { params: { recipeId } })
  expect((await ennick.call('listRecipes', {})).map((recipe) => recipe.id)).not.toContain(recipeId)
  expect((await pairsOf((await clip('A001C001.mov')).id))[0]).toMatchObject({
    verdict: 'proven',
    recipe: 'Quarter size, Motion JPEG, version 2',
  })
})

test('items made at the same moment do not fill a numbered folder beyond its limit together', async () => {
  const clipIds = [(await clip('A001C001.mov')).id, (await clip('A001C002.mov')).id]
  const folders = { kind: 'numbered', root: 'Single', filesPerFolder: 3 } as const
  const { id } = await ennick.call('addRecipe', {
    body: {
      ...quarter,
      name: 'Single',
      purpose: 'cutting, OP-Atom, one file per track',
      codec: 'vc3-lb',
      container: 'mxf-op-atom',
      size: { kind: 'source' },
      suffix: '_single',
      folders,
    },
  })
  const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId: id } })
  const ended = await Promise.all(jobs.map((job) => ennick.waitForJob(job.id)))
  expect(ended.map((job) => [job.state, job.error])).toEqual(Array(2).fill(['done', null]))
  const outputs = ended.flatMap((job) => job.files?.outputs ?? []).map((path) => path.split('/')[1])
  expect(outputs.sort()).toEqual(['1', '1', '1', '2', '2', '2'])
  // A job gives its seats back when it is through, which is a moment after its items are told to be done.
  while ((await ennick.unfinished()).length > 0) await new Promise((resolve) => setTimeout(resolve, 20))
})

test('a job that fails before it writes gives its seats in a numbered folder back', async () => {
  const folders = { kind: 'numbered', root: 'Taken', filesPerFolder: 2 } as const
  const { id } = await ennick.call('addRecipe', { body: { ...quarter, name: 'Taken', suffix: '_taken', folders } })
  const order = { params: { productionId }, body: { clipIds: [(await clip('A001C001.mov')).id], recipeId: id } }
  const { items } = await ennick.call('planMake', order)
  const path = join((await ennick.madePlace(productionId)).path, items[0]?.outputs[0] as string)
  await mkdir(dirname(path), { recursive: true })
  await writeFile(path, 'mine')
  expect((await make((await clip('A001C001.mov')).id, id)).error).toContain('nothing is ever overwritten')
  expect(await readdir(dirname(path))).toEqual(['A001C001_taken.mov'])
})
