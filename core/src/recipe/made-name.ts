import { PatternError, patternFiller } from '../describe/index.ts'
import { stem } from '../naming/index.ts'

/** What may stand in "{ }" in the name pattern of a recipe; "{counter}" and "{counter:3}" besides. */
export const nameFields = ['source', 'reel', 'scene', 'take', 'day', 'camera', 'production'] as const
export type NameField = (typeof nameFields)[number]

/** What is known of a clip that names are made of. */
export interface NameSource {
  /** The original's name, with its ending. */
  readonly name: string
  readonly production: string
  readonly reel: string | null
  readonly scene?: string | null
  readonly take?: string | null
  readonly camera?: string | null
  readonly day?: string | null
}

/** What stands for the fields of a pattern; what is not known is empty. */
export const nameValues = (of: NameSource): Readonly<Record<NameField, string>> => ({
  source: stem(of.name),
  reel: of.reel ?? '',
  scene: of.scene ?? '',
  take: of.take ?? '',
  day: of.day ?? '',
  camera: of.camera ?? '',
  production: of.production,
})

/** The pattern of twins: the original's own name. */
export const sourceName = '{source}'

/** Characters that some system's file names may not have. */
const illegal = /[\\/:*?"<>|\p{Cc}]/gu
/** Device names that one system keeps for itself, with any ending. */
const reserved = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i
const longestNameBytes = 255

/**
 * The name of a made item without suffix and ending. Characters that some system's file names may not have become "_"
 * in every field but the original's own name, which is kept as it is.
 * @param index the clip's place in its batch, from 0, for the counter
 * @throws PatternError for a pattern that cannot be filled
 */
export function madeBase(pattern: string, values: Readonly<Record<NameField, string>>, index: number): string {
  if (pattern === sourceName) return values.source
  const fill = patternFiller(pattern, new Set(nameFields))
  const legal = (field: string): string => {
    const value = values[field as NameField]
    return field === 'source' ? value : legalWords(value)
  }
  const base = fill(legal, index)
  if (base === '') throw new PatternError(`“${pattern}” leaves no name: its fields are empty here.`)
  return base
}

/** Words as part of a file name that every system can hold. */
export const legalWords = (text: string): string => text.replace(illegal, '_')

/** Why some system could not hold a file of this name; null when all can. */
export function nameTrouble(name: string): string | null {
  const found = name.match(illegal)
  if (found)
    return `it has ${[...new Set(found)].map((character) => (character < ' ' ? 'a control character' : `“${character}”`)).join(', ')}`
  if (/[. ]$/.test(name)) return 'it ends in a point or a blank'
  if (reserved.test(name)) return 'some system keeps this name for itself'
  return isTooLong(name) ? 'it is too long' : null
}

/** The same of a name that people choose themselves: one that begins with a point would be seen by nobody. */
export const chosenNameTrouble = (name: string): string | null =>
  name.startsWith('.') ? 'a name that begins with a point is hidden' : nameTrouble(name)

/** Longer than any file system here holds, counted in bytes of UTF-8. */
export const isTooLong = (name: string): boolean => utf8Bytes(name) > longestNameBytes

function utf8Bytes(text: string): number {
  let bytes = 0
  for (const character of text) {
    const point = character.codePointAt(0) as number
    bytes += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4
  }
  return bytes
}
