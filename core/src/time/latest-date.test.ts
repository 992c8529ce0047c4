import { expect, test } from '@jest/globals'
import { latestDate } from './latest-date.ts'

test.each([
  // Kiritimati is fourteen hours ahead of UTC: it begins its day when UTC has ten.
  ['2026-11-04T09:59:59.999Z', '2026-11-04'],
  ['2026-11-04T10:00:00.000Z', '2026-11-05'],
  ['2026-12-31T23:00:00.000Z', '2027-01-01'],
])('at %s it is %s somewhere', (moment, date) => {
  expect(latestDate(new Date(moment))).toBe(date)
})
