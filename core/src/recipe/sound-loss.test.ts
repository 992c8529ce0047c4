import { expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { builtInRecipes, type Recipe, soundLoss } from './index.ts'

const cutting = builtInRecipes.find(({ id }) => id === 'half-h264-intra') as Recipe
const { sound } = pictureFacts({ channels: 2 })
const facts = (bitDepth: number) => ({ sound: sound.map((stream) => ({ ...stream, bitDepth })) })

test('sound that is meant to be used keeps its depth and its channels', () => {
  const as = (change: Partial<Recipe>) => ({ ...cutting, ...change })
  expect(soundLoss(as({ sound: 'as source' }), facts(24))).toBeNull()
  expect(soundLoss(as({ sound: 'as source' }), facts(16))).toBeNull()
  expect(soundLoss(as({ sound: 'pcm 24' }), facts(16))).toBeNull()
  expect(soundLoss(as({ sound: 'pcm 16' }), facts(24))).toBe('gets 16 bits where it has 24')
  // 32 bits are made as 24, whatever is asked for.
  expect(soundLoss(as({ sound: 'as source' }), facts(32))).toBe('gets 24 bits where it has 32')
  expect(soundLoss(as({ sound: 'compressed' }), facts(16))).toBe('is compressed')
  const first = { keep: [1], layout: 'as source', atLeast: 0 } as const
  expect(soundLoss(as({ sound: 'pcm 24', tracks: first }), facts(24))).toBe('loses 1 channel')
  expect(soundLoss(as({ sound: 'compressed', purpose: 'review' }), facts(24))).toBeNull()
  expect(soundLoss(as({ sound: 'compressed' }), { sound: [] })).toBeNull()
})
