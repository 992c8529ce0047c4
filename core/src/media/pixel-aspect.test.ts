import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import type { PictureFacts } from './facts.ts'
import { describePixelAspect, pixelShapes, readPixelAspect, withPixelAspect } from './pixel-aspect.ts'

describe('a pixel aspect as people write it', () => {
  test.each([
    ['2:1', '2:1'],
    ['2', '2:1'],
    ['1.33', '133:100'],
    ['4 / 3', '4:3'],
    ['1,5', '3:2'],
    ['1.8:1', '9:5'],
    ['12:11', '12:11'],
    ['1.0', 'square'],
    ['Square', 'square'],
  ])('%s is %s', (text, said) => {
    const aspect = readPixelAspect(text)
    expect(aspect && describePixelAspect(aspect)).toBe(said)
  })

  const none = ['', '0', '0:1', '1:0', 'wide', '5', '1:5', '2:1:1', '-2', '16:9 anamorphic']
  test.each(none)('“%s” is none', (text) => {
    expect(readPixelAspect(text)).toBeNull()
  })
})

test('what a person says holds, and what the file says is kept beside it', () => {
  const facts = pictureFacts()
  const said = withPixelAspect(facts, { numerator: 2, denominator: 1 })
  expect(said.picture).toMatchObject({
    pixelAspect: { numerator: 2, denominator: 1 },
    toldPixelAspect: { numerator: 1, denominator: 1 },
  })
  expect(withPixelAspect(facts, { numerator: 1, denominator: 1 })).toBe(facts)
  expect(withPixelAspect(facts, null)).toBe(facts)
})

describe('shapes to be compared', () => {
  const facts = pictureFacts({ width: 1920, height: 1080 })

  test('the file’s own first, each as it would be shown', () => {
    const shapes = pixelShapes(withPixelAspect(facts, { numerator: 2, denominator: 1 }).picture as PictureFacts)
    expect(shapes.map(({ aspect }) => aspect)).toEqual(['square', '2:1', '4:3', '3:2', '9:5'])
    expect(shapes[0]).toMatchObject({ isTold: true, isNow: false })
    expect(shapes[1]).toMatchObject({ isTold: false, isNow: true, shown: { width: 3840, height: 1080 } })
  })

  test('a picture that is turned is shown upright; one of standard definition has the squeezes of its raster', () => {
    const turned = { ...(facts.picture as PictureFacts), rotation: 90 }
    expect(pixelShapes(turned)[0]?.shown).toEqual({ width: 1080, height: 1920 })
    const pal = { ...(facts.picture as PictureFacts), width: 720, height: 576 }
    expect(pixelShapes(pal).map(({ aspect }) => aspect)).toContain('64:45')
  })
})
