import { expect, test } from '@jest/globals'
import { sequenceStems } from './index.ts'

test('the number of a still stands for the pattern of all, in every writing that lists have', () => {
  for (const written of ['mist_0041', 'mist_[0041-0140]', 'mist_%04d', 'mist_@@@@', 'mist_####'])
    expect(sequenceStems(written)).toEqual(['mist_####', 'mist_#'])
  expect(sequenceStems('mist_%d')).toEqual(['mist_#'])
  expect(sequenceStems('A001C007_3')).toEqual(['A001C007_#'])
  for (const none of ['mist', 'mist_0041 b', '', 'mist_[a-b]']) expect(sequenceStems(none)).toEqual([])
})
