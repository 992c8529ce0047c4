import { describe, expect, test } from '@jest/globals'
import { builtInRecipes, contradictions, fitToTarget, isMeantFor, type Recipe, type Target } from './index.ts'
import { targetKinds, targetNameTrouble, targetTroubles } from './target.ts'

const [managed, linking, finishing] = targetKinds as readonly [Target, Target, Target]
const recipe = (id: string): Recipe => builtInRecipes.find((each) => each.id === id) as Recipe

describe('what a target takes', () => {
  test('a wrong wrapper, codec and folder are each told with what is taken instead', () => {
    expect(targetTroubles(recipe('half-h264-intra'), managed)).toEqual([
      'It takes MXF OP-Atom; this makes MOV.',
      'It takes VC-3 LB, VC-3 SQ, VC-3 HQ or VC-3, fixed rate for HD; this makes H.264, all-intra.',
      'It looks into numbered folders of 4000 files at most; this lays files into the folders of the originals.',
    ])
    expect(targetTroubles(recipe('half-h264-intra'), linking)).toEqual([])
    expect(targetTroubles(recipe('source-prores-422'), finishing)).toEqual([])
  })

  test('a recipe is measured by the rooms that it is made for', () => {
    expect(isMeantFor(recipe('half-h264-intra'), managed)).toBe(true)
    expect(isMeantFor(recipe('review-h264'), managed)).toBe(false)
    expect(isMeantFor(recipe('source-prores-422'), managed)).toBe(false)
  })

  test.each([
    ['A001C001_1104', null],
    ['mill wheel', 'has a blank'],
    ['Mühle.1', 'has “ü”, “.”'],
    ['A'.repeat(33), '33 characters, and 32 are taken'],
  ])('a file called %s', (name, trouble) => {
    expect(targetNameTrouble(name, managed)).toBe(trouble)
  })
})

test.each(
  targetKinds.flatMap((target) => builtInRecipes.map((each) => [each.name, target.name, each, target] as const)),
)('%s is made to fit “%s”, and contradicts nothing', (_, __, each, target) => {
  const fitted = fitToTarget(each, target)
  expect(targetTroubles(fitted, target)).toEqual([])
  if (isMeantFor(each, target)) expect(contradictions(fitted).filter(({ level }) => level === 'error')).toEqual([])
  expect(fitToTarget(fitted, target)).toEqual(fitted)
})

test('what fits keeps all but its purpose', () => {
  expect(fitToTarget(recipe('half-h264-intra'), linking)).toEqual(recipe('half-h264-intra'))
})
