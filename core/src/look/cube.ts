/** What a .cube file holds: a curve for each colour (1D) or a table over all three (3D). */
export interface CubeLut {
  readonly title: string | null
  readonly kind: '1D' | '3D'
  /** Points of the curve, or points along one edge of the table. */
  readonly size: number
}

/** A .cube file that cannot be used; the message says why, with the line where there is one. */
export class CubeError extends Error {
  override readonly name = 'CubeError'
}

const sizes = { '1D': { least: 2, most: 65_536 }, '3D': { least: 2, most: 256 } } as const
/** No level of a usable LUT lies farther from black and white than this. */
const mostLevel = 100

type State = {
  title: string | null
  kind: '1D' | '3D' | null
  size: number
  rows: number
  minimum: readonly number[]
  maximum: readonly number[]
}

/**
 * Reads and checks a .cube file: "LUT_1D_SIZE n" or "LUT_3D_SIZE n", then n or n³ rows of three levels, red the
 * fastest. "#" begins a comment; TITLE, DOMAIN_MIN and DOMAIN_MAX may stand before the rows.
 * @throws CubeError for a size that is wrong or missing, rows that are too few or too many, and levels that are no
 * numbers
 */
export function readCube(text: string): CubeLut {
  const state: State = { title: null, kind: null, size: 0, rows: 0, minimum: [0, 0, 0], maximum: [1, 1, 1] }
  let number = 0
  for (const line of text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/)) {
    number++
    const words = line.trim()
    if (words === '' || words.startsWith('#')) continue
    try {
      if (/^[A-Za-z]/.test(words) && !/^(nan|inf)/i.test(words)) readKeyword(words, state)
      else readRow(words, state)
    } catch (error) {
      throw error instanceof CubeError ? new CubeError(`Line ${number}: ${error.message}`) : error
    }
  }
  const { kind, size, rows, title } = state
  if (kind === null) throw new CubeError('It says neither LUT_1D_SIZE nor LUT_3D_SIZE, so it is no .cube file.')
  const wanted = rowsOf(kind, size)
  if (rows < wanted) throw new CubeError(`It ends early: ${wanted} rows are needed and ${rows} are there.`)
  if (state.minimum.some((least, index) => least >= (state.maximum[index] as number)))
    throw new CubeError('Its DOMAIN_MIN is not below its DOMAIN_MAX.')
  return { title, kind, size }
}

const rowsOf = (kind: '1D' | '3D', size: number): number => (kind === '1D' ? size : size ** 3)

function readKeyword(words: string, state: State): void {
  const [keyword = '', ...rest] = words.split(/\s+/)
  switch (keyword) {
    case 'TITLE':
      state.title = words.slice('TITLE'.length).trim().replace(/^"|"$/g, '') || null
      return
    case 'LUT_1D_SIZE':
    case 'LUT_3D_SIZE': {
      const kind = keyword === 'LUT_1D_SIZE' ? '1D' : '3D'
      if (state.kind !== null) throw new CubeError('the size is given twice; a file with two LUTs cannot be used.')
      const size = Number(rest[0])
      const { least, most } = sizes[kind]
      if (rest.length !== 1 || !Number.isInteger(size) || size < least || size > most)
        throw new CubeError(
          `the size of a ${kind} LUT is a whole number from ${least} to ${most}, not “${rest.join(' ')}”.`,
        )
      state.kind = kind
      state.size = size
      return
    }
    case 'DOMAIN_MIN':
      state.minimum = readLevels(rest)
      return
    case 'DOMAIN_MAX':
      state.maximum = readLevels(rest)
      return
    default:
      throw new CubeError(`“${keyword.slice(0, 40)}” is no word of a .cube file.`)
  }
}

function readRow(words: string, state: State): void {
  if (state.kind === null) throw new CubeError('rows begin before the size is given.')
  if (state.rows >= rowsOf(state.kind, state.size))
    throw new CubeError(`there are more rows than the ${rowsOf(state.kind, state.size)} of its size.`)
  readLevels(words.split(/\s+/))
  state.rows++
}

function readLevels(words: readonly string[]): number[] {
  if (words.length !== 3) throw new CubeError(`three numbers are needed and ${words.length} are there.`)
  return words.map((word) => {
    const level = Number(word)
    if (!Number.isFinite(level)) throw new CubeError(`“${word.slice(0, 20)}” is no number.`)
    if (Math.abs(level) > mostLevel) throw new CubeError(`${word.slice(0, 20)} is far outside of black and white.`)
    return level
  })
}
