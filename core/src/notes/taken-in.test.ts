import { describe, expect, test } from '@jest/globals'
import { rate } from '../time/index.ts'
import { type LogTable, type PlacedItem, readTakenIn } from './index.ts'

const item = (name: string, change: Partial<PlacedItem> = {}): PlacedItem => ({
  ...{ id: name, name, reel: 'A001', start: '10:00:00:00', fileNames: [`${name}.mxf`] },
  ...{ rate: rate(25), frames: 100, dropFrame: false, channels: 4 },
  ...change,
})
const columns = ['Name', 'Tape', 'Start', 'Duration', 'Tracks']
const list = (...rows: string[][]): LogTable => ({
  columns,
  rows: rows.map((cells, index) => ({ line: index + 1, cells })),
  problems: [],
})
const whole = ['A001C001', 'A001', '10:00:00:00', '00:00:04:00', 'VA1A2A3A4']

describe('what a receiving room says that it has', () => {
  test('is what was made for it', () => {
    expect(readTakenIn(list(whole), [item('A001C001')])).toEqual({
      ...{ seen: ['A001C001'], differing: [], missing: [], unclear: [], others: 0 },
    })
  })

  test.each([
    [['A001C001', 'A001', '10:00:00:01', '', ''], 'starts at 10:00:00:01 instead of 10:00:00:00'],
    [['A001C001', 'B002', '', '', ''], 'is reel B002 instead of A001'],
    [['A001C001', '', '', '3:24', ''], 'is 3:24 instead of 00:00:04:00 long'],
    [['A001C001', '', '', '', 'VA1A2A3'], 'has 3 tracks of sound instead of 4 tracks of sound'],
    [['A001C001', '', '', '', 'V'], 'has 0 tracks of sound instead of 4 tracks of sound'],
  ])('%j is there, and another', (row, why) => {
    const { seen, differing, missing } = readTakenIn(list(row), [item('A001C001')])
    expect([seen, differing, missing]).toEqual([[], [{ id: 'A001C001', line: 1, why }], []])
  })

  test.each([['00:00:04:00'], ['4:00'], ['00:00:04;00'], ['']])('“%s” is four seconds, or nothing said', (duration) => {
    expect(readTakenIn(list(['A001C001', '', '', duration, '']), [item('A001C001')]).seen).toEqual(['A001C001'])
  })

  test.each([['V1A1-4'], ['V A1 A2 A3 A4'], ['V,A1,A2,A3,A4'], ['video + 4'], ['A']])('tracks “%s” agree', (tracks) => {
    expect(readTakenIn(list(['A001C001', '', '', '', tracks]), [item('A001C001')]).seen).toEqual(['A001C001'])
  })

  test('a length in drop-frame labels is read as either', () => {
    const long = item('D', { rate: rate(30_000, 1001), frames: 1800, dropFrame: true, start: null })
    for (const duration of ['00:01:00;02', '00:01:00:00'])
      expect(readTakenIn(list(['D', '', '', duration, '']), [long]).seen).toEqual(['D'])
  })

  test('what it does not name is missing; what is of others is counted, and no more', () => {
    const found = readTakenIn(list(whole, ['MUSIC', '', '', '', '']), [item('A001C001'), item('A001C002')])
    expect(found).toMatchObject({ seen: ['A001C001'], missing: ['A001C002'], others: 1 })
  })

  test('two of one name are told apart by reel and start, and not guessed where nothing does', () => {
    const two = [item('C001', { id: 'a' }), item('C001', { id: 'b', reel: 'B001', start: '11:00:00:00' })]
    expect(readTakenIn(list(['C001', 'B001', '11:00:00:00', '', '']), two)).toMatchObject({
      ...{ seen: ['b'], missing: ['a'] },
    })
    const unclear = readTakenIn(list(['C001', '', '', '', '']), two)
    expect(unclear).toMatchObject({ seen: [], missing: ['a', 'b'], unclear: [{ line: 1, label: 'C001' }] })
  })

  test('one that is there twice is told with its lines', () => {
    const [twice] = readTakenIn(list(whole, whole), [item('A001C001')]).differing
    expect(twice).toEqual({ id: 'A001C001', line: 1, why: 'named again on line 2' })
  })
})
