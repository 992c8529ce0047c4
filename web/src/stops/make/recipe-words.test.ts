import { builtInRecipes } from '@ennick/core'
import { describe, expect, test } from '@jest/globals'
import { channelWords, readChannels, recipeLine } from './recipe-words.ts'

describe('channels as people write them', () => {
  test.each([
    ['all', null],
    ['', null],
    ['2', [2]],
    ['1, 2, 5-8', [1, 2, 5, 6, 7, 8]],
    ['8–9,1', [1, 8, 9]],
    ['3,3', [3]],
  ])('“%s”', (text, channels) => {
    expect(readChannels(text)).toEqual(channels)
    if (channels) expect(readChannels(channelWords(channels))).toEqual(channels)
  })

  test.each(['0', '65', '4-2', '1,', 'left', '1;2', '-3'])('“%s” is no list of channels', (text) =>
    expect(readChannels(text)).toBeUndefined(),
  )
})

test('a recipe in a line tells sound and name where they are not the original’s', () => {
  const [recipe] = builtInRecipes
  if (!recipe) throw new Error('There are built-in recipes.')
  expect(recipeLine(recipe)).toMatch(/name ends in _proxy$/)
  const changed = { ...recipe, namePattern: '{scene}', tracks: { keep: [1], layout: 'stereo', atLeast: 4 } as const }
  expect(recipeLine(changed)).toMatch(/ · sound channels 1, stereo, filled to 4 · called \{scene\}_proxy$/)
})
