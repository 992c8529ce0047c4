import { expect, test } from '@jest/globals'
import { describeScan, isInterlaced } from './index.ts'

test.each([
  ['progressive', 'progressive', false],
  ['tt', 'interlaced, top field first', true],
  ['bb', 'interlaced, bottom field first', true],
  ['tb', 'interlaced', true],
  ['bt', 'interlaced', true],
  [null, '', false],
])('the scan %s is told as “%s”', (scan, words, interlaced) => {
  expect([describeScan(scan), isInterlaced(scan)]).toEqual([words, interlaced])
})
