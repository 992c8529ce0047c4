import { join } from 'node:path'
import { parseAle, parseTimecode, rate } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Logs')
  const folder = join(ennick.media, 'card')
  for (const [index, name] of ['A001C001', 'A001C002', 'A001C003'].entries())
    await makePicture(join(folder, `${name}.mov`), {
      frames: 10,
      size: '64x36',
      timecode: `10:0${index}:00:00`,
      seed: index,
    })
  await makePicture(join(folder, 'other rate.mov'), { frames: 10, size: '64x36', rate: '24', seed: 9 })
  await ennick.addVolume(productionId, 'card', folder)
})
afterAll(() => ennick.stop())

const params = () => ({ params: { productionId } })
const clip = async (name: string) => (await ennick.clips(productionId)).find((candidate) => candidate.name === name)
const read = (fileName: string, text: string | Buffer, extra: object = {}) =>
  ennick.call('importLog', {
    ...params(),
    body: { fileName, content: Buffer.from(text).toString('base64'), mapping: null, apply: false, ...extra },
  })

const ale = [
  ...['Heading', 'FIELD_DELIM\tTABS', 'VIDEO_FORMAT\t1080', 'AUDIO_FORMAT\t48khz', 'FPS\t25', '', 'Column'],
  ...['Name\tTape\tStart\tScene\tTake\tComments\tMood', '', 'Data'],
  'A001C001\tA001\t10:00:00:00\t12A\t1\tgulls\tcalm',
  'wheel close\tA001\t10:01:00:00\t12A\t2\t\tstorm',
  'nobody\tZ009\t01:00:00:00\t1\t1\t\t',
].join('\r\n')

describe('reading', () => {
  test('shows how rows were matched and every cell that would change, and writes nothing', async () => {
    const preview = await read('day 1.ale', Buffer.from(`\uFEFF${ale}`, 'utf16le'))
    expect(preview).toMatchObject({
      format: 'ALE',
      encoding: 'UTF-16',
      rows: 3,
      matched: 2,
      unmatchedTotal: 1,
      clipsWithoutRow: 2,
      changesTotal: 7,
    })
    expect(preview.changes).toContainEqual(
      expect.objectContaining({
        line: 11,
        name: 'A001C001.mov',
        by: 'clip name',
        field: 'Scene',
        before: '',
        after: '12A',
      }),
    )
    expect(preview.changes).toContainEqual(
      expect.objectContaining({ line: 12, name: 'A001C002.mov', by: 'reel and timecode', after: '2' }),
    )
    expect(preview.unmatched).toEqual([
      { line: 13, label: 'nobody', reason: 'No clip has this name, reel and timecode, or file name.' },
    ])
    expect(preview.columns.find((column) => column.title === 'Mood')).toMatchObject({ target: 'new', sample: 'calm' })
    expect(preview.columns.find((column) => column.title === 'Comments')).toMatchObject({ target: 'notes' })
    expect(preview.columns.find((column) => column.title === 'Tape')).toMatchObject({ target: null, isIdentity: true })
    expect((await clip('A001C001.mov'))?.described.scene).toBeUndefined()
    expect((await ennick.call('listFields', params())).some((field) => field.isCustom)).toBe(false)
  })

  test('a merge is one edit; unknown columns are kept, and where values came from is told', async () => {
    await read('day 1.ale', ale, { apply: true })
    const mood = (await ennick.call('listFields', params())).find((field) => field.title === 'Mood')?.id ?? ''
    expect((await clip('A001C001.mov'))?.described).toMatchObject({
      scene: '12A',
      take: '1',
      notes: 'gulls',
      [mood]: 'calm',
    })
    const detail = await ennick.call('readClip', { params: { clipId: (await clip('A001C001.mov'))?.id ?? '' } })
    expect(detail.described).toContainEqual({ field: 'scene', title: 'Scene', value: '12A', from: 'sidecar' })
    expect((await read('day 1.ale', ale)).changesTotal).toBe(0)
    await ennick.call('undoEdit', params())
    expect((await clip('A001C001.mov'))?.described.scene).toBeUndefined()
    await ennick.call('redoEdit', params())
  })

  test('where a column goes is remembered; an empty cell wipes nothing', async () => {
    const csv = 'Name,Mood,Setup\nA001C003,,wide\n'
    const mapping = { Setup: 'notes', Mood: null }
    await read('setups.csv', csv, { mapping, apply: true })
    expect((await clip('A001C003.mov'))?.described.notes).toBe('wide')
    const again = await read('more.csv', 'Name,Setup\nA001C003,close\nA001C001,\n')
    expect(again.columns.find((column) => column.title === 'Setup')?.target).toBe('notes')
    expect(again.changes).toMatchObject([{ before: 'wide', after: 'close' }])
  })

  test.each([
    ['x.ale', ale.slice(0, ale.indexOf('Data')), 'has no section “Data” after “Column” on line 7'],
    ['x.csv', `${Array.from({ length: 201 }, (_, index) => `c${index}`).join(',')}\n`, '201 columns: 200 can be read'],
    ['x.csv', 'Name\n"open', 'Line 2 opens a quote'],
  ])('%s: what cannot be read names its line', async (fileName, text, message) => {
    await expect(read(fileName, text)).rejects.toThrow(message)
  })

  test('ragged rows and values that do not fit are told, and the rest goes on', async () => {
    const preview = await read('ragged.csv', 'Name,Circled,Take\nA001C001,perhaps,4\nA001C002,yes\n')
    expect(preview.problems).toEqual([
      'Line 3 has 2 of 3 cells: the missing ones are empty.',
      'Line 2, column “Circled”: Circled is yes or no; “perhaps” is neither.',
    ])
    expect(preview.changes.map((change) => [change.line, change.field, change.after])).toEqual([
      [2, 'Take', '4'],
      [3, 'Circled', 'yes'],
    ])
  })
})

describe('writing', () => {
  const write = async (format: string, fields: string[], names: string[]) => {
    const all = await ennick.clips(productionId)
    const clipIds = names.flatMap((name) => all.find((candidate) => candidate.name === name)?.id ?? [])
    const [log, ...more] = await ennick.call('exportLog', { ...params(), body: { clipIds, fields, format } })
    return { fileName: log?.fileName ?? '', text: log?.text ?? '', more }
  }
  test('an ALE has the rate and raster of its clips, and what its readers need', async () => {
    const { fileName, text } = await write('ale', ['scene', 'take', 'duration'], ['A001C001.mov', 'A001C002.mov'])
    expect(fileName).toBe('Logs.ale')
    const back = parseAle(text)
    expect(back.columns).toEqual(['Name', 'Tape', 'Start', 'End', 'Duration', 'Tracks', 'Scene', 'Take'])
    expect(back.rows[0]?.cells.slice(0, 3)).toEqual(['A001C001', 'A001', '10:00:00:00'])
    expect(back.rows[0]?.cells.slice(5)).toEqual(['VA1A2', '12A', '1'])
    const [start = '', end = '', duration = ''] = back.rows[0]?.cells.slice(2, 5) ?? []
    expect(parseTimecode(end, rate(25)) - parseTimecode(start, rate(25))).toBe(parseTimecode(duration, rate(25)))
    expect(parseTimecode(duration, rate(25))).toBeGreaterThan(0)
    expect(back.heading.get('FPS')).toBe('25')
    expect(back.heading.get('VIDEO_FORMAT')).toBe('CUSTOM')
  })
  test('a column of the production may not be called as one that every ALE has', async () => {
    const body = { title: 'tracks', kind: 'text' as const, choices: [] }
    const fields = await ennick.call('addColumn', { ...params(), body })
    const key = fields.find(({ title }) => title === 'tracks')?.id ?? ''
    await expect(write('ale', ['scene', key], ['A001C001.mov'])).rejects.toThrow('a column “tracks” of its own')
    expect((await write('csv', ['scene', key], ['A001C001.mov'])).text).toContain('tracks')
    await ennick.call('removeColumn', { params: { productionId, fieldId: key } })
  })
  test('clips of several rates make an ALE for each', async () => {
    const { fileName, text, more } = await write('ale', ['scene'], ['A001C001.mov', 'other rate.mov'])
    expect([fileName, ...more.map((log) => log.fileName)]).toEqual(['Logs 25 fps.ale', 'Logs 24 fps.ale'])
    expect([text, ...more.map((log) => log.text)].map((log) => parseAle(log).heading.get('FPS'))).toEqual(['25', '24'])
    expect((await write('csv', ['fileName', 'rate'], ['A001C001.mov', 'other rate.mov'])).text).toBe(
      'File name,Rate\r\nA001C001.mov,25\r\nother rate.mov,24\r\n',
    )
  })
  test('what was written merges back without a change', async () => {
    const { text } = await write('ale', ['scene', 'take', 'notes'], ['A001C001.mov', 'A001C002.mov', 'A001C003.mov'])
    expect(await read('back.ale', text)).toMatchObject({ matched: 3, changesTotal: 0, unmatchedTotal: 0 })
  })
})
