import { rename } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Catalogue')
  const card = join(ennick.media, 'day 1/A001')
  for (let index = 1; index <= 12; index++)
    await makePicture(join(card, `A001C${index}.mov`), {
      frames: 12 + index,
      timecode: `10:00:${String(index * 2).padStart(2, '0')}:00`,
      seed: index,
      size: index > 6 ? '320x180' : '160x90',
    })
  await makePicture(join(card, 'drop.mov'), { rate: '30000/1001', frames: 30, timecode: '12:59:58;00', reel: 'DR01' })
  await makeSound(join(card, 'LW_12A_T1.wav'), 48_000, 9 * 3600 * 48_000)
  await ennick.addVolume(productionId, 'Box 1', join(ennick.media, 'day 1'))
})
afterAll(() => ennick.stop())

const params = () => ({ params: { productionId } })
const search = async (body: object) =>
  (await ennick.call('searchClips', { ...params(), body: { limit: 500, ...body } })).rows
const names = async (body: object) => (await search(body)).map((clip) => clip.name)
const found = (field: string, operator: string, value?: string, upTo?: string) =>
  names({
    condition: { field, operator, ...(value === undefined ? {} : { value }), ...(upTo === undefined ? {} : { upTo }) },
  })
const idsOf = async (...wanted: string[]) =>
  (await search({})).filter((clip) => wanted.includes(clip.name)).map((clip) => clip.id)
const edit = (action: object, apply = true) => ennick.call('editClips', { ...params(), body: { action, apply } })
const clip = async (name: string) => (await search({})).find((candidate) => candidate.name === name)

describe('finding', () => {
  test('case and Unicode form do not count, beyond ASCII too; a choice is found whatever its letters', async () => {
    const [id] = await idsOf('A001C1.mov')
    const told = 'Étang ÀÉ'.normalize('NFD')
    await edit({ kind: 'set', field: 'notes', value: told, clipIds: [id as string] })
    for (const asked of ['étang', 'ÉTANG', 'ÀÉ'.normalize('NFD')])
      expect(await found('notes', 'contains', asked)).toEqual(['A001C1.mov'])
    expect(await found('notes', 'is', 'étang àé')).toEqual(['A001C1.mov'])
    const fields = await ennick.call('addColumn', {
      ...params(),
      body: { title: 'Grade', kind: 'choice', choices: ['Good', 'Bad take'] },
    })
    const grade = fields.find((field) => field.title === 'Grade')?.id as string
    await edit({ kind: 'set', field: grade, value: 'Good', clipIds: [id as string] })
    for (const asked of ['Good', 'good']) expect(await found(grade, 'is', asked)).toEqual(['A001C1.mov'])
    expect(await found(grade, 'is not', 'Good')).toHaveLength(13)
    for (const field of ['notes', grade]) await edit({ kind: 'set', field, value: '', clipIds: [id as string] })
    await ennick.call('removeColumn', { params: { productionId, fieldId: grade } })
  })

  test('names stand in the order in which people count', async () => {
    expect((await names({})).slice(0, 4)).toEqual(['A001C1.mov', 'A001C2.mov', 'A001C3.mov', 'A001C4.mov'])
    expect((await names({}))[11]).toBe('A001C12.mov')
  })

  test.each([
    ['kind', 'is', 'sound', ['LW_12A_T1.wav']],
    ['rate', 'is', '29.97', ['drop.mov']],
    ['rate', 'is', '30000/1001', ['drop.mov']],
    ['reel', 'begins', 'dr', ['drop.mov']],
    ['frames', 'more', '23', ['A001C12.mov', 'drop.mov', 'LW_12A_T1.wav']],
    ['start', 'less', '10:00:03:00', ['A001C1.mov', 'LW_12A_T1.wav']],
    ['start', 'is', '12:59:58:00', ['drop.mov']],
    ['fileName', 'matches', '^a001c1[12]', ['A001C11.mov', 'A001C12.mov']],
    ['raster', 'is not', '160×90', 'many'],
    ['scene', 'filled', undefined, []],
    ['proxy', 'is', 'no proxy', 'many'],
    ['day', 'is', 'day 1', 'none, the folder is the root'],
  ] as const)('%s %s %s', async (field, operator, value, expected) => {
    const list = await found(field, operator, value)
    if (Array.isArray(expected)) expect(list.sort()).toEqual([...expected].sort())
    else if (expected === 'many') expect(list.length).toBeGreaterThan(5)
    else expect(list).toEqual([])
  })

  test('between, and groups of any and all', async () => {
    expect(await found('frames', 'between', '13', '14')).toEqual(['A001C1.mov', 'A001C2.mov'])
    const condition = {
      any: [
        { field: 'kind', operator: 'is', value: 'sound' },
        {
          all: [
            { field: 'reel', operator: 'is', value: 'dr01' },
            { field: 'frames', operator: 'is', value: '30' },
          ],
        },
      ],
    }
    expect((await names({ condition })).sort()).toEqual(['LW_12A_T1.wav', 'drop.mov'])
    expect(await names({ condition: { any: [] } })).toEqual([])
  })

  test('every word of the filter must be in one of a clip’s names', async () => {
    expect(await names({ words: 'box dr01' })).toEqual(['drop.mov'])
    expect(await names({ words: "o'; drop table clips; --" })).toEqual([])
  })

  test.each([
    [{ condition: { field: 'mood', operator: 'is', value: 'x' } }, 'no field “mood”'],
    [{ condition: { field: 'codec', operator: 'matches', value: '(' } }, 'not a regular expression'],
    [{ condition: { field: 'codec', operator: 'matches', value: '(?<=a)\\p{L}' } }, 'look ahead or behind'],
    [{ condition: { field: 'codec', operator: 'matches', value: '\\p{L}' } }, 'cannot be searched for'],
    [{ sort: [{ field: 'mood', descending: false }] }, 'to sort by'],
    [{ after: 'bm90IGEgY3Vyc29y' }, 'another search'],
  ])('%j is refused in words', async (body, message) => {
    await expect(search(body)).rejects.toThrow(message)
  })
})

describe('pages', () => {
  const sorts = [
    [],
    [{ field: 'frames', descending: true }],
    [
      { field: 'raster', descending: false },
      { field: 'frames', descending: true },
    ],
    [
      { field: 'kind', descending: true },
      { field: 'reel', descending: false },
      { field: 'name', descending: true },
    ],
    [{ field: 'scene', descending: true }],
  ]
  test.each(sorts.map((sort) => [sort]))('by %j, three at a time, give every clip once and in order', async (sort) => {
    const whole = await names({ sort })
    const paged: string[] = []
    for (let after: string | null = null; ; ) {
      const page: { rows: { name: string }[]; next: string | null } = await ennick.call('searchClips', {
        ...params(),
        body: { sort, after, limit: 3 },
      })
      paged.push(...page.rows.map((row) => row.name))
      if (page.next === null) break
      after = page.next
    }
    expect(paged).toEqual(whole)
    expect(new Set(paged).size).toBe(14)
    expect((await ennick.call('listClipIds', { ...params(), body: { sort } })).ids).toHaveLength(14)
  })

  test('an outline says where each page begins', async () => {
    const sort = [{ field: 'frames', descending: false }]
    const outline = await ennick.call('outlineClips', { ...params(), body: { sort, every: 50 } })
    expect(outline).toMatchObject({ total: 14, all: 14, cursors: [] })
    expect(outline.bytes).toBeGreaterThan(1000)
  })
})

describe('describing', () => {
  test('one value on many; refused cells say why and the others change', async () => {
    const clipIds = await idsOf('A001C1.mov', 'A001C2.mov')
    await ennick.call('addColumn', { ...params(), body: { title: 'Mark', kind: 'timecode', choices: [] } })
    const field = (await ennick.call('listFields', params())).find((candidate) => candidate.title === 'Mark')?.id ?? ''
    const all = await idsOf('A001C1.mov', 'drop.mov')
    const preview = await edit({ kind: 'set', clipIds: all, field, value: '10:00:00:29' }, false)
    expect(preview).toMatchObject({
      applied: false,
      total: 1,
      refusedTotal: 1,
      changes: [{ name: 'drop.mov' }],
      refused: [{ name: 'A001C1.mov' }],
    })
    expect(preview.refused[0]?.reason).toContain('the last is 24')
    expect((await clip('drop.mov'))?.described[field]).toBeUndefined()
    await edit({ kind: 'set', clipIds, field: 'scene', value: '12A' })
    expect(await found('scene', 'is', '12a')).toEqual(['A001C1.mov', 'A001C2.mov'])
  })

  test('a column is copied into another, only where it is empty', async () => {
    const clipIds = await idsOf('A001C1.mov', 'A001C3.mov')
    expect(await edit({ kind: 'copy', clipIds, field: 'scene', from: 'fileName', onlyEmpty: true })).toMatchObject({
      total: 1,
    })
    expect((await clip('A001C1.mov'))?.described.scene).toBe('12A')
    expect((await clip('A001C3.mov'))?.described.scene).toBe('A001C3.mov')
    expect(await edit({ kind: 'copy', clipIds, field: 'scene', from: 'reel', onlyEmpty: false })).toMatchObject({
      total: 2,
    })
    expect((await clip('A001C1.mov'))?.described.scene).toBe('A001')
    // What is empty empties nothing, unless that is wanted.
    const blank = { kind: 'copy', clipIds, field: 'scene', from: 'mood', onlyEmpty: false }
    await edit({ kind: 'copy', clipIds, field: 'scene', from: 'notes', onlyEmpty: false })
    expect((await clip('A001C1.mov'))?.described.scene).toBe('A001')
    await edit({ ...blank, from: 'notes', blanksToo: true })
    expect((await clip('A001C1.mov'))?.described.scene).toBeUndefined()
    await ennick.call('undoEdit', params())
  })

  test('find and replace, and fill from a pattern', async () => {
    const clipIds = await idsOf('A001C1.mov', 'A001C2.mov', 'A001C3.mov')
    await edit({ kind: 'fill', clipIds, field: 'name', pattern: 'mill {counter:2}', onlyEmpty: false })
    expect((await clip('A001C2.mov'))?.title).toBe('mill 02')
    await edit({
      kind: 'replace',
      clipIds,
      field: 'name',
      find: '^mill (\\d)(\\d)$',
      replace: 'wheel $2',
      isPattern: true,
      isCaseSensitive: false,
    })
    expect((await clip('A001C2.mov'))?.title).toBe('wheel 2')
    expect(await names({ words: 'wheel' })).toHaveLength(3)
    await edit({ kind: 'set', clipIds, field: 'name', value: '' })
    expect((await clip('A001C2.mov'))?.title).toBe('A001C2')
  })

  test('a name is taken apart into columns, as one step; names that do not fit say so', async () => {
    const clipIds = await idsOf('LW_12A_T1.wav', 'A001C1.mov')
    const action = { kind: 'take apart', clipIds, from: 'fileName', pattern: '{skip}_{scene}_T{take}', onlyEmpty: true }
    const asked = await edit(action, false)
    expect(asked.changes).toEqual(
      [
        ['Scene', '12A'],
        ['Take', '1'],
      ].map(([field, after]) => expect.objectContaining({ name: 'LW_12A_T1.wav', field, before: '', after })),
    )
    expect(asked.refused).toEqual([
      { clipId: expect.any(String), name: 'A001C1.mov', reason: 'The pattern does not fit “A001C1”.' },
    ])
    expect((await clip('LW_12A_T1.wav'))?.described.scene).toBeUndefined()
    await edit(action)
    expect((await clip('LW_12A_T1.wav'))?.described).toMatchObject({ scene: '12A', take: '1' })
    expect((await edit(action, false)).total).toBe(0)
    await ennick.call('undoEdit', params())
    expect((await clip('LW_12A_T1.wav'))?.described).not.toHaveProperty('take')
  })

  test.each([
    [{ kind: 'set', field: 'fileName', value: 'x' }, 'Files keep the names'],
    [{ kind: 'set', field: 'codec', value: 'x' }, 'what the file says'],
    [{ kind: 'fill', field: 'name', pattern: '{mood}', onlyEmpty: false }, 'no field “mood”'],
    [{ kind: 'take apart', from: 'fileName', pattern: '{codec}_x', onlyEmpty: true }, 'no field “codec”'],
    [
      { kind: 'replace', field: 'name', find: '(', replace: '', isPattern: true, isCaseSensitive: false },
      'not a regular expression',
    ],
  ] as const)('%j is refused', async (action, message) => {
    await expect(edit({ ...action, clipIds: await idsOf('A001C1.mov') })).rejects.toThrow(message)
  })

  test('edits are taken back and done again, one by one; what somebody changed since stays', async () => {
    const [clipId] = (await idsOf('A001C5.mov')) as [string]
    await edit({ kind: 'set', clipIds: [clipId], field: 'take', value: '1' })
    await edit({ kind: 'set', clipIds: [clipId], field: 'take', value: '2' })
    const now = async () => (await clip('A001C5.mov'))?.described.take
    expect(await ennick.call('undoEdit', params())).toMatchObject({ changed: 1, kept: 0 })
    expect(await now()).toBe('1')
    await ennick.call('undoEdit', params())
    expect(await now()).toBeUndefined()
    expect((await ennick.call('readEdits', params())).redo).toContain('Take set')
    await ennick.call('redoEdit', params())
    await ennick.call('redoEdit', params())
    expect(await now()).toBe('2')
    await expect(ennick.call('redoEdit', params())).rejects.toThrow('nothing to redo')
    await ennick.query(
      `update clips set described = jsonb_set(described, '{take}', '{"value":"9","from":"person"}') where id = $1`,
      [clipId],
    )
    expect(await ennick.call('undoEdit', params())).toMatchObject({ changed: 0, kept: 1 })
    const detail = await ennick.call('readClip', { params: { clipId } })
    expect(detail.edits.slice(0, 2)).toMatchObject([
      { field: 'Take', before: '1', after: '2', isUndone: true },
      { field: 'Take', before: '', after: '1', isUndone: false },
    ])
  })

  test('a column is removed only when nothing is in it', async () => {
    const fields = await ennick.call('addColumn', {
      ...params(),
      body: { title: 'Weather', kind: 'choice', choices: ['calm', 'storm'] },
    })
    const fieldId = fields.at(-1)?.id ?? ''
    await expect(
      ennick.call('addColumn', { ...params(), body: { title: 'weather', kind: 'text', choices: [] } }),
    ).rejects.toThrow('already')
    const clipIds = await idsOf('A001C7.mov')
    await edit({ kind: 'set', clipIds, field: fieldId, value: 'STORM' })
    expect((await clip('A001C7.mov'))?.described[fieldId]).toBe('storm')
    await expect(ennick.call('removeColumn', { params: { productionId, fieldId } })).rejects.toThrow('in 1 clip')
    await edit({ kind: 'set', clipIds, field: fieldId, value: '' })
    expect(
      (await ennick.call('removeColumn', { params: { productionId, fieldId } })).some((field) => field.id === fieldId),
    ).toBe(false)
  })
})

describe('saved searches and views', () => {
  test('a search stays current', async () => {
    const condition = { field: 'circled', operator: 'filled' as const }
    const saved = await ennick.call('saveSearch', { ...params(), body: { name: 'Circled', condition } })
    expect(saved.count).toBe(0)
    await edit({ kind: 'set', clipIds: await idsOf('A001C8.mov'), field: 'circled', value: 'yes' })
    expect((await ennick.call('listSearches', params()))[0]).toMatchObject({ name: 'Circled', count: 1 })
    await expect(
      ennick.call('saveSearch', { ...params(), body: { name: 'x', condition: { field: 'mood', operator: 'filled' } } }),
    ).rejects.toThrow('mood')
    await ennick.call('removeSearch', { params: { searchId: saved.id } })
    expect(await ennick.call('listSearches', params())).toEqual([])
  })

  test('a view is kept by its name', async () => {
    const view = {
      name: 'Sound',
      columns: [{ field: 'name', width: 12 }],
      sort: [{ field: 'start', descending: false }],
    }
    await ennick.call('saveView', { ...params(), body: view })
    await ennick.call('saveView', { ...params(), body: { ...view, columns: [{ field: 'tracks', width: 9 }] } })
    const views = await ennick.call('listViews', params())
    expect(views).toMatchObject([{ name: 'Sound', columns: [{ field: 'tracks', width: 9 }] }])
    await ennick.call('removeView', { params: { viewId: views[0]?.id ?? '' } })
    await expect(ennick.call('removeView', { params: { viewId: views[0]?.id ?? '' } })).rejects.toThrow('view')
  })
})

describe('the index follows', () => {
  test('a volume that leaves and comes back', async () => {
    const until = async (presence: string) => {
      while ((await clip('drop.mov'))?.presence !== presence) await new Promise((resolve) => setTimeout(resolve, 100))
    }
    await rename(join(ennick.media, 'day 1'), join(ennick.media, 'bag'))
    await until('away')
    expect(await found('presence', 'is', 'away')).toHaveLength(14)
    await rename(join(ennick.media, 'bag'), join(ennick.media, 'day 1'))
    await until('here')
  })

  test('a proxy that is made, and a cut that uses the clip', async () => {
    const clipIds = await idsOf('A001C9.mov')
    const { jobs } = await ennick.call('make', { ...params(), body: { clipIds, recipeId: 'half-h264-intra' } })
    await ennick.waitForJob(jobs[0]?.id ?? '')
    expect(await clip('A001C9.mov')).toMatchObject({ proxy: 'proven', proxyRaster: '160×90', uses: 0 })
    const text =
      'TITLE: X\n001  A001 V C 10:00:18:00 10:00:18:10 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: A001C9.mov\n'
    await ennick.call('addCut', { ...params(), body: { fileName: 'x.edl', text } })
    expect(await found('uses', 'more', '0')).toEqual(['A001C9.mov'])
  })

  test('the tree counts by day, camera and reel', async () => {
    await edit({ kind: 'set', clipIds: await idsOf('A001C1.mov', 'A001C2.mov'), field: 'day', value: 'day 2' })
    const tree = await ennick.call('listTree', params())
    expect(tree.filter((node) => node.day === 'day 2')).toMatchObject([{ camera: 'A', reel: 'A001', clips: 2 }])
    expect(tree.reduce((sum, node) => sum + node.clips, 0)).toBe(14)
  })
})

test('a pattern that would take its time is refused or run in its length, and never holds up the rest', async () => {
  const clipIds = (await ennick.clips(productionId)).slice(0, 2).map((clip) => clip.id)
  const set = { kind: 'set', clipIds, field: 'scene', value: `${'a'.repeat(3000)}!` }
  await ennick.call('editClips', { params: { productionId }, body: { action: set, apply: true } })
  const replace = (find: string) =>
    ennick.call('editClips', {
      params: { productionId },
      body: {
        action: {
          kind: 'replace',
          clipIds,
          field: 'scene',
          find,
          replace: 'x',
          isPattern: true,
          isCaseSensitive: true,
        },
        apply: false,
      },
    })
  const apart = {
    kind: 'take apart',
    clipIds,
    from: 'scene',
    pattern: '{take}a{notes}a{camera}a{unit}b',
    onlyEmpty: true,
  }
  const { refused } = await ennick.call('editClips', {
    params: { productionId },
    body: { action: apart, apply: false },
  })
  expect(refused).toHaveLength(2)
  expect(await replace('^(a+)+$')).toMatchObject({ total: 0 })
  expect(await replace('^(a+)+!$')).toMatchObject({ total: 2 })
  await expect(replace('(a*)*\\1$')).rejects.toMatchObject({
    status: 400,
    message: expect.stringContaining('refer back'),
  })
  const condition = { field: 'scene', operator: 'matches', value: '(a*)*\\1b' }
  await expect(ennick.call('searchClips', { params: { productionId }, body: { condition } })).rejects.toMatchObject({
    code: 'bad-search',
  })
  await ennick.call('undoEdit', { params: { productionId } })
})
