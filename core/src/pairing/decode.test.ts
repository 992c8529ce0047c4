import { expect, test } from '@jest/globals'
import { decodeEvidence, wasDecodedWhole } from './decode.ts'

test('a clean decode agrees; a complaint is the difference', () => {
  expect(decodeEvidence(50, null)).toEqual({
    ...{
      aspect: 'decode',
      expected: '50 frames, first to last',
      found: '50 frames, first to last',
      agrees: true,
      difference: null,
    },
  })
  expect(decodeEvidence(50, '49 of 50 frames could be decoded')).toMatchObject({
    agrees: false,
    difference: '49 of 50 frames could be decoded',
  })
  expect(decodeEvidence(null, null).expected).toBe('all of its sound')
})

test('what was decoded whole is known by its evidence', () => {
  expect(wasDecodedWhole(null)).toBe(false)
  expect(wasDecodedWhole([{ ...decodeEvidence(1, null), aspect: 'pictures' }])).toBe(false)
  expect(wasDecodedWhole([decodeEvidence(1, 'broken')])).toBe(true)
})
