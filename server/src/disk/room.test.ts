import { expect, test } from '@jest/globals'
import { whyNoRoom } from './room.ts'

test('what does not fit is told with both sizes; what fits to the last byte does', () => {
  expect(whyNoRoom('“A001”', 2_500_000_000, 1_000_000_000, 'on “RAID”')).toBe(
    '“A001” does not fit: 2.50 GB are to be written and 1.00 GB are free on “RAID”.',
  )
  expect(whyNoRoom('It', 1000, 1000, 'there')).toBeNull()
  expect(whyNoRoom('It', 1001, 1000, 'there')).not.toBeNull()
})
