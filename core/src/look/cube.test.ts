import { describe, expect, test } from '@jest/globals'
import { readCube } from './cube.ts'

const rows = (count: number): string =>
  Array.from({ length: count }, (_, index) => `${index / count} 0.5 1e-3`).join('\n')
const table = (head: string, count: number): string => `# made up\n${head}\n${rows(count)}\n`

describe('a .cube file', () => {
  test('of one table over three colours', () => {
    expect(readCube(table('TITLE "Estuary, warm"\nLUT_3D_SIZE 3', 27))).toEqual({
      title: 'Estuary, warm',
      kind: '3D',
      size: 3,
    })
  })

  test('of a curve for each colour, with a domain, a byte order mark and other line endings', () => {
    const text = `\uFEFF${table('LUT_1D_SIZE 4\nDOMAIN_MIN -0.1 0 0\nDOMAIN_MAX 2 2 2', 4).replaceAll('\n', '\r\n')}`
    expect(readCube(text)).toEqual({ title: null, kind: '1D', size: 4 })
  })

  test.each([
    ['nothing', '', /neither LUT_1D_SIZE nor LUT_3D_SIZE/],
    ['no cube at all', '{"a": 1}', /Line 1: rows begin before the size/],
    [
      'a size of one',
      table('LUT_3D_SIZE 1', 1),
      /Line 2: the size of a 3D LUT is a whole number from 2 to 256, not “1”/,
    ],
    ['a size that is no whole number', table('LUT_3D_SIZE 3.5', 1), /not “3\.5”/],
    ['a huge size', table('LUT_1D_SIZE 70000', 1), /from 2 to 65536/],
    ['two sizes', table('LUT_1D_SIZE 2\nLUT_3D_SIZE 2', 2), /Line 3: the size is given twice/],
    ['too few rows', table('LUT_3D_SIZE 3', 26), /27 rows are needed and 26 are there/],
    ['too many rows', table('LUT_3D_SIZE 2', 9), /Line 11: there are more rows than the 8/],
    ['a row of two', `${table('LUT_1D_SIZE 2', 1)}1 2`, /Line 4: three numbers are needed and 2/],
    ['what is no number', `${table('LUT_1D_SIZE 2', 1)}0 nan 1`, /Line 4: “nan” is no number/],
    ['a row of no numbers', `${table('LUT_1D_SIZE 2', 1)}NaN NaN NaN`, /Line 4: “NaN” is no number/],
    ['endless light', `${table('LUT_1D_SIZE 2', 1)}0 Infinity 1`, /Line 4: “Infinity” is no number/],
    ['levels far outside', `${table('LUT_1D_SIZE 2', 1)}0 1e30 1`, /far outside of black and white/],
    [
      'a domain that is upside down',
      table('LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 0 0', 2),
      /not below its DOMAIN_MAX/,
    ],
    [
      'a word of something else',
      table('LUT_1D_SIZE 2\nLUT_COLOUR_SPACE x', 2),
      /Line 3: “LUT_COLOUR_SPACE” is no word/,
    ],
  ])('%s is refused', (_, text, message) => expect(() => readCube(text)).toThrow(message))
})
