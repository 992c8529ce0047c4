import type { PictureFacts } from '../media/index.ts'
import type { EvidenceRow } from '../pairing/index.ts'

export type ColourTags = Pick<PictureFacts['colour'], 'primaries' | 'transfer' | 'matrix'>

/** Values 5 and 6 of table 4 have the same coefficients. */
const sameTag = (tag: string | null): string | null => (tag === 'bt470bg' ? 'smpte170m' : tag)

/**
 * Compares the colour tags (ITU-T H.273) of a made picture with those that it should have. A tag that is not said on
 * either side is no difference: some containers carry none.
 */
export function compareColour(expected: ColourTags, found: ColourTags): EvidenceRow {
  const kinds = ['primaries', 'transfer', 'matrix'] as const
  const wrong = kinds.filter(
    (kind) => expected[kind] !== null && found[kind] !== null && sameTag(expected[kind]) !== sameTag(found[kind]),
  )
  const words = (tags: ColourTags): string => kinds.map((kind) => tags[kind] ?? 'not said').join(' / ')
  return {
    aspect: 'colour',
    expected: words(expected),
    found: words(found),
    agrees: wrong.length === 0,
    difference: wrong.length ? `the ${wrong.join(' and ')} would be read wrongly` : null,
  }
}
