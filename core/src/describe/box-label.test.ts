import { describe, expect, test } from '@jest/globals'
import { suggestBoxLabel } from './box-label.ts'
import { normalDay } from './group-rule.ts'

const on = (date: string, ...paths: string[]) => paths.map((path) => ({ path, date }))

describe('what files suggest for the label on their box', () => {
  test('day, camera and reel that all of them agree in', () => {
    expect(suggestBoxLabel(on('2026-11-04', 'media/A001/CLIPS/A001C001.mov', 'media/A001/CLIPS/A001C002.mov'))).toEqual(
      {
        day: '2026-11-04',
        camera: 'A',
        reel: 'A001',
      },
    )
  })
  test('a folder’s word for the day is worth more than the day of a copy', () => {
    expect(suggestBoxLabel(on('2026-12-01', 'x/Day 03/CAM_B/one.mov', 'x/Day 03/CAM_B/two.mov'))).toEqual({
      day: 'day 3',
      camera: 'B',
    })
  })
  test('nothing where they differ, and nothing of nothing', () => {
    const two = [...on('2026-11-04', 'x/A001C001.mov'), ...on('2026-11-05', 'x/A002C001.mov')]
    expect(suggestBoxLabel(two)).toEqual({})
    expect(suggestBoxLabel([])).toEqual({})
  })
  test('a file that says nothing takes no word away', () => {
    expect(suggestBoxLabel(on('2026-11-04', 'x/A001C001.mov', 'x/notes.wav'))).toMatchObject({ reel: 'A001' })
  })
})

test.each([
  ['Day 03', 'day 3'],
  ['day3', 'day 3'],
  ['shoot day 12', 'day 12'],
  ['20261104', '2026-11-04'],
  ['2026-11-04', '2026-11-04'],
  ['the day of the flood', 'the day of the flood'],
  ['day 3, pickups', 'day 3, pickups'],
  ['  ', ''],
])('the shoot day “%s” is kept as “%s”', (text, day) => expect(normalDay(text)).toBe(day))
