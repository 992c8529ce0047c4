import { expect, test } from '@jest/globals'
import { revisedSize } from './revised-size.ts'

const item = (plannedBytes: number, madeBytes: number | null = null) => ({ plannedBytes, madeBytes })

test('what is to come is as far off its plan as what is made', () => {
  expect(revisedSize([item(100, 200), item(300), item(600)])).toEqual({
    ...{ madeBytes: 200, plannedBytes: 1000, expectedBytes: 2000, isOff: true },
  })
  expect(revisedSize([item(100, 100), item(300)])).toMatchObject({ expectedBytes: 400, isOff: false })
})

test.each([
  [69, true],
  [70, false],
  [130, false],
  [131, true],
])('%i of 100 planned bytes: off is %p', (made, isOff) => {
  expect(revisedSize([item(100, made)])).toMatchObject({ isOff, expectedBytes: made })
})

test('nothing is said before anything with a plan is made', () => {
  expect(revisedSize([])).toBeNull()
  expect(revisedSize([item(100)])).toBeNull()
  expect(revisedSize([item(0, 50)])).toBeNull()
})
